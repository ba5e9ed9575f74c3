/** A revision that is being made of a result: opened once it is there. */
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useState } from "react";

type Stage = "/parts/$partId/fit" | "/parts/$partId/hardware";

/** Whose revision is being waited for, and how to wait for one; `to` opens where it is, at the same stage. */
export function useComing(to: Stage) {
  const [coming, wait] = useState<string | null>(null);
  const navigate = useNavigate();
  const openPart = (partId: string) => void navigate({ to, params: { partId } });
  return { coming, wait, openPart };
}

/** Goes to the revision once the result that is waited for has one. */
export function useArrival(coming: string | null, result: string | undefined, taken: string | null, to: Stage): void {
  const navigate = useNavigate();
  useEffect(() => {
    if (coming && taken && result === coming) void navigate({ to, params: { partId: taken } });
  }, [coming, taken, result, to, navigate]);
}

export function Taken({ taken, onOpen }: { taken: string; onOpen: (part: string) => void }) {
  return (
    <p>
      <button type="button" className="underline" onClick={() => onOpen(taken)}>
        Taken as a revision
      </button>
    </p>
  );
}
