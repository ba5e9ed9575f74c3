/** Head, rail, and the page between them. */
import { useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { Popover } from "radix-ui";
import { type ReactNode, useMemo, useState } from "react";

import { type Part, api } from "../api/client";
import { useParts, usePart, useRefresh, useSend, useSession, useStages } from "../api/queries";
import { size } from "../domain/figures";
import { typedDirection } from "../domain/needs";
import { mayEdit } from "../domain/roles";
import { Direction } from "../features/direction/Direction";
import { Requirements } from "../features/requirements/Requirements";
import { Pieces } from "../features/pieces/Pieces";
import { Walls } from "../features/walls/Walls";
import { Overhangs } from "../features/overhangs/Overhangs";
import { Strength } from "../features/strength/Strength";
import { PartFacts } from "../features/part/PartFacts";
import { UnitAsked } from "../features/part/UnitAsked";
import { type Command, Commands, useCommands } from "../ui/commands";
import { Button, Input, type State, StateMark, Trouble } from "../ui/controls";
import { turnTheme, useTheme } from "../ui/theme";
import { JobHistory } from "./History";
import { STAGES, type StageKey } from "./stages";

export function Frame() {
  return (
    <Commands>
      <Framed />
    </Commands>
  );
}

function Framed() {
  const session = useSession();
  const client = useQueryClient();
  const navigate = useNavigate();
  const theme = useTheme();
  const parts = useParts();
  const { partId } = useParams({ strict: false });
  const commands = useMemo<Command[]>(
    () => [
      { name: "All parts", keys: "l", run: () => void navigate({ to: "/" }) },
      { name: "The farm's records", keys: "f", run: () => void navigate({ to: "/farm" }) },
      { name: "People and log", run: () => void navigate({ to: "/people" }) },
      { name: theme === "dark" ? "Light theme" : "Dark theme", keys: "t", run: turnTheme },
      ...(parts.data ?? []).map((p) => ({
        name: `Open ${p.name}`,
        run: () => void navigate({ to: "/parts/$partId/direction", params: { partId: p.id } }),
      })),
    ],
    [navigate, theme, parts.data],
  );
  useCommands(commands);
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
          {partId && <PartHistory id={partId} />}
          <button type="button" onClick={turnTheme} className="underline hover:text-ink">
            {theme === "dark" ? "light theme" : "dark theme"}
          </button>
          <span title="keys">
            <kbd className="figure border border-bark px-1">.</kbd> search commands <kbd className="figure border border-bark px-1">?</kbd> keys
          </span>
          <Link to="/farm" className="underline hover:text-ink">
            farm
          </Link>
          <Link to="/people" className="underline hover:text-ink">
            {session.data?.name}
          </Link>
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

function PartHistory({ id }: { id: string }) {
  const { data } = usePart(id);
  return data ? <JobHistory key={id} part={data} /> : null;
}

function PartHead({ id }: { id: string }) {
  const { data } = usePart(id);
  if (!data) return null;
  return (
    <span className="flex items-baseline gap-4">
      <TitleEdit key={id} part={data} />
      {data.revision > 1 && <span className="figure text-second">rev {data.revision}</span>}
      <span className="figure border border-bark px-2">{size(data.size_mm)} mm</span>
    </span>
  );
}

/** The part's name; for an engineer a way to change it and the note. */
function TitleEdit({ part }: { part: Part }) {
  const may = mayEdit(useSession().data?.role);
  const refresh = useRefresh();
  const { send, busy, trouble, setTrouble } = useSend();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState(part.name);
  const [note, setNote] = useState(part.note);
  // The edition that was read when the form was opened: what others write meanwhile is not written over.
  const [base, setBase] = useState(part.version);
  if (!may) return <span className="text-[14px] font-bold">{part.name}</span>;
  const write = async () => {
    if (await send(() => api.writeJob(part.id, base, { title: { name, note } }))) setOpen(false);
    await refresh(part);
  };
  return (
    <Popover.Root
      open={open}
      onOpenChange={(now) => {
        setOpen(now);
        setName(part.name);
        setNote(part.note);
        setBase(part.version);
        setTrouble(null);
      }}
    >
      <Popover.Trigger className="text-[14px] font-bold hover:underline" title="Change name and note">
        {part.name}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={8} aria-label="Name and note" className="z-10 w-[380px] border-[1.4px] border-ink bg-raised p-4">
          <form
            className="space-y-3"
            onSubmit={(e) => {
              e.preventDefault();
              void write();
            }}
          >
            <Input label="Name of the part" value={name} maxLength={120} required onChange={(e) => setName(e.target.value)} />
            <label className="block">
              <span className="text-second">Note</span>
              <textarea rows={4} maxLength={4000} value={note} onChange={(e) => setNote(e.target.value)} className="w-full resize-none border border-bark bg-paper px-2 py-1" />
            </label>
            {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
            <Button type="submit" disabled={busy}>
              Save
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
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
      <div className="flex min-h-0 min-w-0 flex-col">
        <Unsettled id={partId} />
        <div className="min-h-0 flex-1">
          <Outlet />
        </div>
      </div>
    </div>
  );
}

/** What is asked before anything of the part is taken for settled. */
function Unsettled({ id }: { id: string }) {
  const { data } = usePart(id);
  const role = useSession().data?.role;
  return data?.unit_asked ? <UnitAsked part={data} mayEdit={mayEdit(role)} /> : null;
}

function Stages({ id }: { id: string }) {
  const { data: part } = usePart(id);
  const navigate = useNavigate();
  const commands = useMemo<Command[]>(
    () => STAGES.map(({ key, name, keys }) => ({ name: `Stage: ${name.toLowerCase()}`, keys, run: () => void navigate({ to: `/parts/$partId/${key}`, params: { partId: id } }) })),
    [navigate, id],
  );
  useCommands(commands);
  const { data } = useStages(part);
  return STAGES.map(({ key, name }) => {
    const now = data?.find((row) => row.key === key);
    return <Stage key={key} to={key} id={id} name={name} state={now?.state ?? "empty"} line={now?.line ?? " "} />;
  });
}

function Stage({ to, id, name, state, line }: { to: StageKey; id: string; name: string; state: State; line: string }) {
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
        <span className={`narrow block leading-tight ${state === "fails" ? "font-semibold text-crown" : "text-second"}`}>{line}</span>
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

export function PartPage() {
  return <WithPart>{(part) => <PartFacts key={part.id} part={part} />}</WithPart>;
}

export function WallsPage() {
  return <WithPart>{(part) => <Walls key={part.id} part={part} />}</WithPart>;
}

export function PiecesPage() {
  return <WithPart>{(part) => <Pieces key={part.id} part={part} />}</WithPart>;
}

export function RequirementsPage() {
  return <WithPart>{(part) => <Requirements key={part.id} part={part} />}</WithPart>;
}

export function DirectionPage() {
  const { up } = useSearch({ from: "/parts/$partId/direction" });
  return <WithPart>{(part) => <Direction key={`${part.id} ${up}`} part={part} asked={up ? typedDirection(up) : null} />}</WithPart>;
}

export function OverhangsPage() {
  return <WithPart>{(part) => <Overhangs key={part.id} part={part} />}</WithPart>;
}

export function StrengthPage() {
  return <WithPart>{(part) => <Strength key={part.id} part={part} />}</WithPart>;
}
