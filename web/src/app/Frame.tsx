/** Head, rail, and the page between them. */
import { useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useParams } from "@tanstack/react-router";
import type { ReactNode } from "react";

import { type Part, api } from "../api/client";
import { usePart, useSession } from "../api/queries";
import { size } from "../domain/figures";
import { type Vec3, directionWords, toVec3 } from "../domain/vectors";
import { Direction } from "../features/direction/Direction";
import { PartFacts } from "../features/part/PartFacts";
import { StateMark, Trouble } from "../ui/controls";

export function Frame() {
  const session = useSession();
  const client = useQueryClient();
  const { partId } = useParams({ strict: false });
  const leave = async () => {
    await api.signOut();
    client.clear();
    window.location.assign("/");
  };
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 shrink-0 items-center gap-6 border-b-[1.4px] border-ink px-3.5">
        <Link to="/" className="w-[132px]" aria-label="Hewel, all parts">
          <span className="text-[19px] leading-none font-bold [font-stretch:115%]">Hewel</span>
          <span className="block h-[3px] w-8 bg-crown" />
        </Link>
        {partId ? <PartHead id={partId} /> : <span className="font-semibold">{session.data?.workshop}</span>}
        <span className="ml-auto flex items-center gap-3 text-second">
          {session.data?.name}
          <button type="button" onClick={() => void leave()} className="underline hover:text-ink">
            sign out
          </button>
        </span>
      </header>
      <main className="min-h-0 flex-1">
        <Outlet />
      </main>
    </div>
  );
}

function PartHead({ id }: { id: string }) {
  const { data } = usePart(id);
  if (!data) return null;
  return (
    <span className="flex items-baseline gap-4">
      <span className="text-[14px] font-bold">{data.name}</span>
      <span className="figure border border-bark px-2">{size(data.size_mm)} mm</span>
    </span>
  );
}

export function Workspace() {
  const { partId } = useParams({ from: "/parts/$partId" });
  return (
    <div className="grid h-full min-h-0 grid-cols-[146px_1fr]">
      <nav className="border-r border-ink bg-rail py-3" aria-label="Stages">
        <Stages id={partId} />
        <Link to="/" className="mt-6 block px-4 text-second hover:text-ink hover:underline">
          ← all parts
        </Link>
      </nav>
      <div className="min-h-0 min-w-0">
        <Outlet />
      </div>
    </div>
  );
}

function Stages({ id }: { id: string }) {
  const { data } = usePart(id);
  const mended = data?.warnings.length ?? 0;
  return (
    <>
      <Stage to="facts" id={id} name="Part" state="settled" line={mended ? `${mended} mended or guessed` : "came in sound"} />
      <Stage
        to="direction"
        id={id}
        name="Direction"
        state={data?.choice ? "settled" : "open"}
        line={data?.choice ? directionWords(toVec3(data.choice.up)) : "choose one"}
      />
    </>
  );
}

function Stage({ to, id, name, state, line }: { to: "facts" | "direction"; id: string; name: string; state: "settled" | "open"; line: string }) {
  return (
    <Link
      to={`/parts/$partId/${to}`}
      params={{ partId: id }}
      className="flex gap-2 border-l-4 border-transparent px-3 py-2 hover:bg-paper"
      activeProps={{ className: "!border-ink bg-paper", "aria-current": "page" }}
    >
      <span className="pt-1">
        <StateMark state={state} />
      </span>
      <span>
        <span className="block font-bold">{name}</span>
        <span className="narrow block leading-tight text-second">{line}</span>
      </span>
    </Link>
  );
}

function WithPart({ children }: { children: (part: Part) => ReactNode }) {
  const { partId } = useParams({ from: "/parts/$partId" });
  const { data, error } = usePart(partId);
  if (error)
    return (
      <div className="p-5">
        <Trouble message={error.message} hint="Go back to the list of parts." />
      </div>
    );
  return data ? children(data) : <p className="p-5 text-second">Reading the part …</p>;
}

const UPRIGHT: Vec3 = [0, 0, 1];

export function PartPage() {
  return <WithPart>{(part) => <PartFacts key={part.id} part={part} up={part.choice ? toVec3(part.choice.up) : UPRIGHT} />}</WithPart>;
}

export function DirectionPage() {
  return <WithPart>{(part) => <Direction key={part.id} part={part} />}</WithPart>;
}
