/** A part's page: the stages at the left, the view of one of them beside. */
import { Link, Outlet, useLocation, useNavigate, useParams } from "@tanstack/react-router";
import { Suspense, useEffect, useMemo, useRef } from "react";

import { usePart, useSession, useStages } from "../api/queries";
import { mayEdit } from "../domain/roles";
import { UnitAsked } from "../features/part/UnitAsked";
import { type Command, useCommands } from "../ui/commands";
import { type State, StateMark, Trouble } from "../ui/controls";
import { BeginWalk, Walk } from "./Walk";
import { STAGES, type StageKey, type View } from "./stages";

export function Workspace() {
  const { partId } = useParams({ from: "/desk/parts/$partId" });
  const rail = useRef<HTMLElement>(null);
  const { pathname } = useLocation();
  useEffect(() => {
    rail.current?.querySelector("[aria-current=page]")?.scrollIntoView({ block: "nearest", inline: "center" });
  }, [pathname]);
  return (
    <div className="grid h-full min-h-0 grid-cols-[146px_minmax(0,1fr)] max-sm:flex max-sm:flex-col">
      <nav
        ref={rail}
        className="overflow-y-auto border-r border-ink bg-rail py-2 max-sm:flex max-sm:shrink-0 max-sm:overflow-x-auto max-sm:border-r-0 max-sm:border-b max-sm:py-0"
        aria-label="Stages"
      >
        <Stages id={partId} />
        <Link
          to="/"
          className="mt-3 block px-4 max-sm:order-first max-sm:mt-0 max-sm:shrink-0 max-sm:self-center text-second hover:text-ink hover:underline"
        >
          ← all parts
        </Link>
        <BeginWalk id={partId} />
      </nav>
      <div className="flex min-h-0 min-w-0 flex-col max-sm:flex-1">
        <Unsettled id={partId} />
        <div className="min-h-0 flex-1">
          <Outlet />
        </div>
        <Walk id={partId} />
      </div>
    </div>
  );
}

/** What is asked before anything of the part is taken for settled. */
function Unsettled({ id }: { id: string }) {
  const { data } = usePart(id);
  const role = useSession().data?.role;
  if (data?.frozen)
    return (
      <p className="border-b border-rule bg-raised px-4 py-1" data-testid="read-only">
        <b>Released</b>, so read only.{" "}
        <Link to="/parts/$partId/release" params={{ partId: id }} className="underline">
          Begin a revision beside it
        </Link>{" "}
        to change anything.
      </p>
    );
  return data?.unit_asked ? <UnitAsked part={data} mayEdit={mayEdit(role)} /> : null;
}

function Stages({ id }: { id: string }) {
  const { data: part } = usePart(id);
  const navigate = useNavigate();
  const commands = useMemo<Command[]>(
    () =>
      STAGES.map(({ key, name, keys }) => ({
        name: `Stage: ${name.toLowerCase()}`,
        keys,
        run: () => void navigate({ to: `/parts/$partId/${key}`, params: { partId: id } }),
      })),
    [navigate, id],
  );
  useCommands(commands);
  const { data } = useStages(part);
  return STAGES.map(({ key, name }) => {
    const now = data?.find((row) => row.key === key);
    return <Stage key={key} to={key} id={id} name={name} state={now?.state ?? "empty"} line={now?.line ?? ""} />;
  });
}

/** As high as two lines, whatever is known yet: nobody who is about to press one presses another. */
function Stage({ to, id, name, state, line }: { to: StageKey; id: string; name: string; state: State; line: string }) {
  return (
    <Link
      to={`/parts/$partId/${to}`}
      params={{ partId: id }}
      className="flex gap-2 border-l-4 border-transparent px-3 py-2 hover:bg-paper max-sm:shrink-0 max-sm:border-b-4 max-sm:border-l-0 sm:min-h-[57px] sm:pt-1 sm:pb-0"
      activeProps={{ className: "!border-ink bg-paper", "aria-current": "page" }}
    >
      <span className="pt-1">
        <StateMark state={state} />
      </span>
      <span>
        <span className="block font-bold">{name}</span>
        <span
          title={line}
          className={`narrow line-clamp-2 leading-tight max-sm:hidden ${state === "fails" ? "font-semibold text-crown" : "text-second"}`}
        >
          {line}
        </span>
      </span>
    </Link>
  );
}

/** A stage's view of the part that the address names. */
export function StagePage({ view: View }: { view: View }) {
  const { partId } = useParams({ from: "/desk/parts/$partId" });
  const { data, error } = usePart(partId);
  if (error)
    return (
      <div className="p-5">
        <Trouble message={error.message} hint="Go back to the list of parts." />
      </div>
    );
  if (!data) return READING;
  return (
    <Suspense fallback={READING}>
      <View key={data.id} part={data} />
    </Suspense>
  );
}

const READING = <p className="p-5 text-second">Reading the part …</p>;
