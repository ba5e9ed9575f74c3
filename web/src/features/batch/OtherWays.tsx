/** Printing against moulding, machining, buying, sending out: from which number on another way is cheaper. */
import { useState } from "react";

import type { BatchPoint, Part } from "../../api/client";
import { useCurrency, useJobWriter } from "../../api/queries";
import { figure, typedNumber } from "../../domain/figures";
import { Button, Input, Trouble } from "../../ui/controls";

const FIELDS = [
  ["name", "Way", "moulded"],
  ["once", "Paid once", "8000"],
  ["piece", "A piece", "1.20"],
  ["assembly", "Assembly", "0"],
  ["stock", "Stock", "0"],
  ["days", "Days", "40"],
] as const;
type Draft = Record<(typeof FIELDS)[number][0], string>;
const FRESH: Draft = { name: "", once: "", piece: "", assembly: "", stock: "", days: "" };
const COUNTS = [
  ["parts", "parts"],
  ["fasteners", "fasteners"],
  ["minutes", "hand minutes"],
] as const;

const money = (text: string) => (text.trim() === "" ? 0 : typedNumber(text));

interface Props {
  part: Part;
  point: BatchPoint | null;
  /** Cost of an hour of hands. */
  handHour: number;
  mayEdit: boolean;
}

const DAY_S = 86_400;

export function OtherWays({ part, point, handHour, mayEdit }: Props) {
  const { write, trouble } = useJobWriter(part);
  const [draft, setDraft] = useState(FRESH);
  const currency = useCurrency();
  const ways = part.job.plate.ways ?? [];
  const told = new Map((point?.ways ?? []).map((w) => [w.id, w]));
  const add = async () => {
    const row = {
      id: crypto.randomUUID().slice(0, 8),
      name: draft.name,
      once: money(draft.once),
      piece: money(draft.piece),
      assembly: money(draft.assembly),
      stock: money(draft.stock),
      days: draft.days.trim() === "" ? null : typedNumber(draft.days),
    };
    if (await write((job) => ({ plate: { ...job.plate, ways: [...(job.plate.ways ?? []), row] } }))) setDraft(FRESH);
  };
  return (
    <div className="h-full overflow-y-auto px-2 py-2" data-testid="other-ways">
      <table className="w-full border-collapse">
        <thead>
          <tr className="narrow border-b border-ink text-right text-second">
            <th className="text-left font-normal">way</th>
            <th className="font-normal">paid once, {currency}</th>
            <th className="font-normal">each, {currency}</th>
            <th className="font-normal">{point?.quantity ? `${point.quantity} of them` : "all of them"}</th>
            <th className="font-normal">days to the first</th>
            <th className="pl-3 text-left font-normal">against printing</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr className="border-b border-rule">
            <td>printed so</td>
            <Money value={0} />
            <Money value={point?.cost ?? null} />
            <Money value={point?.quantity ? point.quantity * point.cost : null} />
            <td className="figure text-right">{figure(point && point.print_s / DAY_S, 1)}</td>
            <td />
            <td />
          </tr>
          {ways.map((w) => {
            const found = told.get(w.id);
            return (
              <tr key={w.id} className="border-b border-rule">
                <td>{w.name}</td>
                <Money value={w.once ?? 0} />
                <Money value={found?.each ?? null} />
                <Money value={found?.total ?? null} />
                <td className="figure text-right">{figure(w.days, 0)}</td>
                <td className="pl-3">
                  {!found ? (
                    "…"
                  ) : found.pays_from === null ? (
                    "never cheaper"
                  ) : (
                    <>
                      cheaper from <b className="figure">{figure(Math.ceil(found.pays_from), 0)}</b> on
                    </>
                  )}
                </td>
                <td className="text-right">
                  {mayEdit && (
                    <button
                      type="button"
                      className="text-second underline hover:text-ink"
                      aria-label={`Remove ${w.name}`}
                      onClick={() =>
                        void write((job) => ({
                          plate: { ...job.plate, ways: (job.plate.ways ?? []).filter((r) => r.id !== w.id) },
                        }))
                      }
                    >
                      remove
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {mayEdit && (
        <form
          className="flex items-end gap-2 pt-3"
          onSubmit={(e) => {
            e.preventDefault();
            void add();
          }}
        >
          {FIELDS.map(([key, label, hint]) => (
            <Input
              key={key}
              label={label}
              placeholder={hint}
              required={key === "name"}
              inputMode={key === "name" ? undefined : "decimal"}
              value={draft[key]}
              onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
              className={key === "name" ? "min-w-24 flex-1" : "w-20"}
            />
          ))}
          <Button type="submit">Add</Button>
        </form>
      )}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
      <Merging part={part} handHour={handHour} mayEdit={mayEdit} />
    </div>
  );
}

function Money({ value }: { value: number | null }) {
  return <td className="figure text-right">{value === null ? "–" : figure(value, 2)}</td>;
}

/** What this part takes the place of: parts, fasteners and minutes of hands, before and after. */
function Merging({ part, handHour, mayEdit }: Omit<Props, "point">) {
  const { write } = useJobWriter(part);
  const { before, after } = part.job.plate;
  const saved = (key: (typeof COUNTS)[number][0]) => (before?.[key] ?? 0) - (after?.[key] ?? 0);
  return (
    <table className="mt-3" data-testid="merging">
      <thead>
        <tr className="narrow text-second">
          <th className="pr-4 text-left font-normal">what it takes the place of</th>
          {COUNTS.map(([key, name]) => (
            <th key={key} className="px-2 text-right font-normal">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {(
          [
            ["before", before],
            ["after", after],
          ] as const
        ).map(([when, row]) => (
          <tr key={when} className="border-t border-rule">
            <td>{when === "before" ? "before, as separate parts" : "after, as this part"}</td>
            {COUNTS.map(([key, name]) => (
              <td key={key} className="px-2 text-right">
                {mayEdit ? (
                  <input
                    key={row?.[key]}
                    aria-label={`${name}, ${when}`}
                    inputMode="decimal"
                    defaultValue={row?.[key] ?? 0}
                    onBlur={(e) => {
                      const n = typedNumber(e.target.value);
                      if (Number.isFinite(n) && n !== row?.[key])
                        void write((job) => ({
                          plate: { ...job.plate, [when]: { ...job.plate[when], [key]: n } },
                        }));
                    }}
                    className="figure w-16 border border-bark bg-raised px-1 text-right"
                  />
                ) : (
                  <span className="figure">{figure(row?.[key], 0)}</span>
                )}
              </td>
            ))}
          </tr>
        ))}
        <tr className="border-t border-ink font-semibold" data-testid="saved">
          <td className="pr-4">
            saved for each
            {saved("minutes") !== 0 && (
              <>
                , <span className="figure">{figure((saved("minutes") / 60) * handHour, 2)}</span> of hands
              </>
            )}
          </td>
          {COUNTS.map(([key]) => (
            <td key={key} className="figure px-2 text-right">
              {figure(saved(key), 0)}
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  );
}
