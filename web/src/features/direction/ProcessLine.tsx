/** The process the study was made for, where its numbers are from, and the way to ask again with another. */
import { Link } from "@tanstack/react-router";
import { Popover } from "radix-ui";
import { useState } from "react";

import { ApiProblem, type Numbers, type Part, type ProcessGiven, api } from "../../api/client";
import { useFarm, useRefresh, useSend } from "../../api/queries";
import { figure } from "../../domain/figures";
import { ORIGIN_MARK } from "../../domain/origins";
import { choicesOf } from "../../domain/records";
import { Button, Input, Select, Trouble } from "../../ui/controls";

const GRADES = [
  ["portable", "portable, 45° on any machine"],
  ["hidden", "this farm's record, hidden faces"],
  ["visible", "this farm's record, visible faces"],
] as const;

/** The numbers that a job may set itself, as they are typed; `times`: the share of infill is typed in percent. */
const TYPED = [
  { key: "limit", label: "limit, °", times: 1 },
  { key: "layer", label: "layer, mm", times: 1 },
  { key: "width", label: "line, mm", times: 1 },
  { key: "perimeters", label: "perimeters", times: 1 },
  { key: "infill", label: "infill, %", times: 100 },
] as const;
type Key = (typeof TYPED)[number]["key"];

export function ProcessLine({ part, process, mayAsk }: { part: Part; process: Numbers; mayAsk: boolean }) {
  const refresh = useRefresh();
  const farm = useFarm();
  const { send, trouble, setTrouble } = useSend();
  const [open, setOpen] = useState(false);
  const { given, names, origins } = part.process;
  const written = ({ key, times }: (typeof TYPED)[number]) =>
    String(Number((Number(given[key] ?? process[key]) * times).toPrecision(6)));
  const [draft, setDraft] = useState<ProcessGiven>(given);
  const [typed, setTyped] = useState<Partial<Record<Key, string>>>({});
  const begin = (now: boolean) => {
    setDraft(given);
    setTyped(Object.fromEntries(TYPED.map((field) => [field.key, written(field)])));
    setTrouble(null);
    setOpen(now);
  };
  const ask = async () => {
    const numbers: Partial<Record<Key, number | null>> = {};
    for (const field of TYPED) {
      const { key, times } = field;
      const text = (typed[key] ?? "").trim();
      const value = Number(text);
      if (text && !Number.isFinite(value)) {
        setTrouble(
          new ApiProblem(
            422,
            "bad_options",
            "Limit, layer, line, perimeters and infill must be numbers.",
            "Write them like 0.2, or leave one empty to take the record's.",
          ),
        );
        return;
      }
      // What was not touched stays the record's, so that it follows the record.
      numbers[key] = !text ? null : text === written(field) ? (draft[key] ?? null) : value / times;
    }
    if (await send(() => api.calculateStudy(part.id, part.version, { ...draft, ...numbers }))) setOpen(false);
    await refresh(part);
  };
  const records = (kind: string) => choicesOf(farm.data?.records, kind);
  const origin = origins.limit;
  return (
    <Popover.Root open={open} onOpenChange={begin}>
      <Popover.Trigger disabled={!mayAsk} className="narrow border border-bark px-2 hover:bg-raised">
        {names.machine ? `${names.machine} · ` : ""}
        {names.material} · layer <span className="figure">{figure(process.layer, 2)}</span> · line{" "}
        <span className="figure">{figure(process.width, 2)}</span> mm · limit{" "}
        <span className="figure">{figure(process.limit, 0)}°</span>{" "}
        <span className="text-second">
          {origin?.record === "portable" ? "portable" : ORIGIN_MARK[origin?.origin ?? "handbook"].word}
        </span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="Process"
          className="z-10 w-[340px] space-y-2 border-[1.4px] border-ink bg-raised p-4"
        >
          <p className="font-semibold">Study again with</p>
          <Select
            label="machine"
            value={draft.machine ?? ""}
            options={[["", "any machine, starting values"], ...records("machine")]}
            onPick={(v) => setDraft({ ...draft, machine: v || null })}
          />
          <Select
            label="material"
            value={draft.material}
            options={[...Object.entries(farm.data?.grades ?? {}), ...records("material")]}
            onPick={(v) => setDraft({ ...draft, material: v })}
          />
          <Select
            label="process record"
            value={draft.profile ?? ""}
            options={[["", "starting values"], ...records("profile")]}
            onPick={(v) => setDraft({ ...draft, profile: v || null })}
          />
          <Select
            label="overhang limit"
            value={draft.grade}
            options={GRADES}
            onPick={(v) => setDraft({ ...draft, grade: v as ProcessGiven["grade"] })}
          />
          <div className="grid grid-cols-3 gap-2">
            {TYPED.map(({ key, label }) => (
              <Input
                key={key}
                label={label}
                inputMode="decimal"
                value={typed[key] ?? ""}
                onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
              />
            ))}
          </div>
          <p className="text-second">
            An empty number is the record's. The limit is counted from the vertical: a wall is 0°, a ceiling 90°. A
            choice made before stays on record.{" "}
            <Link to="/farm" className="underline hover:text-ink">
              The farm's records
            </Link>
          </p>
          {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
          <Button onClick={() => void ask()}>Study again</Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
