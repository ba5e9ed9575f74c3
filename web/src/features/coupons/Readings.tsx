/** The readings of a sheet, one a line; a column is pasted as it comes from a table. */
import { useState } from "react";

import type { CouponKind, CouponSheet, ReadingRow } from "../../api/coupons";
import { figure } from "../../domain/figures";
import { Button } from "../../ui/controls";
import { useDraft } from "../../ui/draft";

interface Props {
  sheet: CouponSheet;
  kind: CouponKind;
  at: number | null;
  onLook: (row: number | null) => void;
  /** Null for those who may not. */
  onRows: ((rows: ReadingRow[]) => void) | null;
  onAdd: ((rows: Partial<ReadingRow>[]) => void) | null;
}

const shown = (value: string | number | null | undefined) =>
  value === null || value === undefined ? "" : typeof value === "number" ? String(Number(value.toPrecision(7))) : value;

export function Readings({ sheet, kind, at, onLook, onRows, onAdd }: Props) {
  const { rows } = sheet;
  const put = (i: number, change: Partial<ReadingRow>) =>
    onRows?.(rows.map((r, k) => (k === i ? { ...r, ...change } : r)));
  return (
    <div className="px-4 py-2">
      <table className="w-full border-collapse" data-testid="readings">
        <thead>
          <tr className="narrow text-left text-second">
            <th className="w-8 py-1 font-normal">#</th>
            <th className="w-14 font-normal">plate</th>
            {kind.columns.map((c) => (
              <th key={c.name} className="pr-1 font-normal">
                {c.words}
                {c.unit && `, ${c.unit}`}
              </th>
            ))}
            <th className="w-[112px] font-normal" />
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => {
            const away = sheet.apart.includes(i);
            const bound = sheet.bounds.includes(i);
            return (
              <tr
                key={row.id}
                className={`border-t border-rule ${i === at ? "bg-lit" : ""}`}
                data-reading={i + 1}
                onClick={() => onLook(i)}
              >
                <td className="figure text-second">{i + 1}</td>
                <td>
                  <Cell
                    now={row.plate ?? "1"}
                    label={`plate of reading ${i + 1}`}
                    onWrite={onRows && ((plate) => put(i, { plate }))}
                  />
                </td>
                {kind.columns.map((c) => (
                  <td key={c.name} className="pr-1">
                    {c.choices.length > 0 ? (
                      <Choice
                        now={shown(row.values?.[c.name])}
                        label={`${c.words} of reading ${i + 1}`}
                        choices={c.choices}
                        onWrite={onRows && ((v) => put(i, { values: { ...row.values, [c.name]: v || null } }))}
                      />
                    ) : (
                      <Cell
                        now={shown(row.values?.[c.name])}
                        label={`${c.words} of reading ${i + 1}`}
                        onWrite={onRows && ((v) => put(i, { values: { ...row.values, [c.name]: v || null } }))}
                      />
                    )}
                  </td>
                ))}
                <td className="narrow text-right whitespace-nowrap">
                  {bound && <span className="text-second">lower bound </span>}
                  {away && (
                    <label className="text-crown">
                      apart{" "}
                      <input
                        type="checkbox"
                        className="accent-ink"
                        checked={row.keep ?? false}
                        disabled={!onRows}
                        onChange={(e) => put(i, { keep: e.target.checked })}
                      />{" "}
                      keep
                    </label>
                  )}
                  {onRows && (
                    <button
                      type="button"
                      className="ml-2 underline hover:text-moss"
                      aria-label={`take reading ${i + 1} out`}
                      onClick={() => onRows(rows.filter((_, k) => k !== i))}
                    >
                      out
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {rows.length === 0 && <p className="py-1 text-second">No reading yet.</p>}
      {onAdd && <Adding kind={kind} rows={rows} onAdd={onAdd} />}
    </div>
  );
}

/** One more reading, or many pasted at once: their columns in the order of the sheet, the plate first where it is there. */
function Adding({
  kind,
  rows,
  onAdd,
}: {
  kind: CouponKind;
  rows: readonly ReadingRow[];
  onAdd: (rows: Partial<ReadingRow>[]) => void;
}) {
  const [pasted, setPasted] = useState("");
  const last = rows.at(-1);
  const fresh = (): Partial<ReadingRow> => {
    // What seldom changes from reading to reading comes along: choices, and the plate.
    const kept = kind.columns
      .filter((c) => c.choices.length > 0)
      .map((c) => [c.name, last?.values?.[c.name] ?? c.choices[0] ?? ""]);
    return { plate: last?.plate ?? "1", values: Object.fromEntries(kept) as ReadingRow["values"] };
  };
  const lines = pasted
    .split(/\r?\n/)
    .map((l) => l.split(/[\t;]/).map((c) => c.trim()))
    .filter((cells) => cells.some(Boolean));
  const asRow = (cells: readonly string[]): Partial<ReadingRow> => {
    const withPlate = cells.length > kind.columns.length;
    const own = withPlate ? cells.slice(1) : cells;
    const values = { ...fresh().values } as Record<string, string | number | null>;
    const numbers = kind.columns.filter((c) => c.choices.length === 0);
    const columns = own.length >= kind.columns.length ? kind.columns : numbers;
    columns.forEach((c, i) => {
      const text = own[i];
      if (text) values[c.name] = c.choices.length > 0 ? text : text.replace(/^([-+]?\d+),(\d+)/, "$1.$2");
    });
    return { plate: withPlate ? cells[0] : (last?.plate ?? "1"), values };
  };
  return (
    <div className="mt-2 flex items-start gap-2">
      <Button plain onClick={() => onAdd([fresh()])}>
        Add a reading
      </Button>
      <textarea
        aria-label="Paste readings"
        placeholder="paste readings: one a line, columns by tabs"
        className="figure h-[29px] min-w-0 flex-1 resize-y border border-bark bg-raised px-2 py-1"
        value={pasted}
        onChange={(e) => setPasted(e.target.value)}
      />
      {lines.length > 0 && (
        <Button
          onClick={() => {
            onAdd(lines.map(asRow));
            setPasted("");
          }}
        >
          {`Add ${figure(lines.length, 0)}`}
        </Button>
      )}
    </div>
  );
}

interface CellProps {
  now: string;
  label: string;
  onWrite: ((value: string) => void) | null;
}

function Cell({ now, label, onWrite }: CellProps) {
  const [text, setText] = useDraft(now);
  return (
    <input
      aria-label={label}
      className="figure w-full border border-transparent bg-transparent px-1 py-0.5 hover:border-rule focus:border-bark focus:bg-raised"
      value={text}
      disabled={!onWrite}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text.trim() !== now && onWrite?.(text.trim())}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

function Choice({ now, label, choices, onWrite }: CellProps & { choices: readonly string[] }) {
  return (
    <select
      aria-label={label}
      className="w-full min-w-[86px] border border-transparent bg-transparent py-0.5 hover:border-rule"
      value={now}
      disabled={!onWrite}
      onChange={(e) => onWrite?.(e.target.value)}
    >
      {!choices.includes(now) && <option value={now}>{now || "–"}</option>}
      {choices.map((c) => (
        <option key={c} value={c}>
          {c}
        </option>
      ))}
    </select>
  );
}
