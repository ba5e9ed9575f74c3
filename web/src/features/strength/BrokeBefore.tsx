/** Parts of other jobs that broke the way this one is predicted to, with what helped: told where the prediction stands. */
import { Link } from "@tanstack/react-router";

import type { Part } from "../../api/client";
import { usePartTrials } from "../../api/trials";

export function BrokeBefore({ part }: { part: Part }) {
  const alike = usePartTrials(part).data?.alike ?? [];
  const [first] = alike;
  if (!first) return null;
  return (
    <p className="narrow mt-1 border-l-4 border-bark pl-2" data-testid="broke-before">
      {alike.length === 1 ? "Another part" : `${alike.length} other parts`} broke like this before. {first.part_name}:{" "}
      {first.lesson.slice(0, 160)}{" "}
      <Link to="/parts/$partId/trials" params={{ partId: part.id }} className="underline hover:text-moss">
        their trials
      </Link>
    </p>
  );
}
