/** One record: its numbers with their origins, the machines it is of, and every edit of it. */
import { Link } from "@tanstack/react-router";

import { type Farm as Library, type FarmField, type FarmRecord, type RecordIn, api } from "../../api/client";
import { useCurrency, useHistory, useSend } from "../../api/queries";
import { ORIGINS, ORIGIN_MARK, type Origin } from "../../domain/origins";
import { Button, Select, Trouble } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { Editions } from "../../ui/editions";
import { Beside, Edited } from "./Beside";

export const EMPTY: RecordIn = {
  name: "",
  note: "",
  values: {},
  machines: [],
  grade: "petg",
  operator: "",
  item: "heat_set_insert",
  size: "",
};

/** A record as it is written back: what it says, nothing of what it falls back to. */
function written(row: FarmRecord): RecordIn {
  const { record } = row;
  const values = Object.fromEntries(
    Object.entries(row.values)
      .filter(([, r]) => r.given)
      .map(([name, r]) => [
        name,
        {
          ...{ typed: r.typed ?? r.value ?? "", origin: r.origin, low: r.low, high: r.high, note: r.note },
          ...{ count: r.count, plates: r.plates, deviation: r.deviation, measured: r.measured, sheet: r.sheet },
        },
      ]),
  );
  return { ...EMPTY, ...record, grade: record.grade ?? "petg", measured: record.measured ?? null, values };
}

/** The numbers that a record can say; a size says those of its item alone. */
function fieldsOf(row: FarmRecord, farm: Library): readonly FarmField[] {
  const fields = farm.fields[row.kind] ?? [];
  return row.kind === "size" ? fields.filter((f) => farm.items[row.record.item]?.includes(f.name)) : fields;
}

export function Record({
  row,
  farm,
  may,
  onDone,
}: {
  row: FarmRecord;
  farm: Library;
  may: boolean;
  onDone: () => Promise<unknown>;
}) {
  const { send, trouble, setTrouble } = useSend();
  const put = async (change: Partial<RecordIn>) => {
    await send(() => api.amendRecord(row.id, row.version, { ...written(row), ...change }));
    await onDone();
  };
  const strike = async () => {
    await send(() => api.strike(row.id));
    await onDone();
  };
  const putValue = (name: string, value: RecordIn["values"][string] | null) => {
    const rest = Object.fromEntries(Object.entries(written(row).values).filter(([n]) => n !== name));
    return put({ values: value ? { ...rest, [name]: value } : rest });
  };
  return (
    <section className="flex min-h-0 flex-col">
      <header className="border-b border-rule px-5 pt-3 pb-2">
        <div className="flex items-end gap-3">
          <Edited
            label="name"
            value={row.record.name}
            disabled={!may}
            className="w-[220px]"
            onWrite={(name) => void put({ name })}
          />
          <Edited
            label="note"
            value={row.record.note}
            disabled={!may}
            className="min-w-0 flex-1"
            onWrite={(note) => void put({ note })}
          />
          {may && (
            <Button plain onClick={() => void strike()}>
              Move to the bin
            </Button>
          )}
        </div>
        <Beside row={row} farm={farm} may={may} onPut={put} />
        {trouble && (
          <div onClick={() => setTrouble(null)}>
            <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />
          </div>
        )}
      </header>
      <div
        className="min-h-0 flex-1 overflow-y-auto px-5 py-2"
        tabIndex={0}
        aria-label={`Numbers of ${row.record.name}`}
      >
        <table className="w-full border-collapse" data-testid="record">
          <thead className="sticky top-0 bg-paper">
            <tr className="narrow border-b-[1.4px] border-ink text-left text-second">
              <th className="w-[27%] font-normal">number</th>
              <th className="w-[110px] text-right font-normal">value</th>
              <th className="w-[96px] pl-2 font-normal">unit</th>
              <th className="w-[64px] text-right font-normal">from</th>
              <th className="w-[64px] text-right font-normal">to</th>
              <th className="w-[142px] pl-4 font-normal">origin</th>
              <th className="pl-3 font-normal">note</th>
              <th className="w-[24px]" />
            </tr>
          </thead>
          <tbody>
            {fieldsOf(row, farm).map((f) => (
              <Line key={f.name} field={f} row={row} may={may} onPut={(value) => void putValue(f.name, value)} />
            ))}
          </tbody>
        </table>
        <Kept sheet={row.id} version={row.version} may={may} onDone={onDone} />
      </div>
      <p className="border-t border-rule px-5 py-1.5 text-second">
        {ORIGINS.map((o) => (
          <span key={o} className="mr-4">
            <span className="figure">{ORIGIN_MARK[o].sign}</span> {ORIGIN_MARK[o].long}
          </span>
        ))}
      </p>
    </section>
  );
}

function Line({
  field,
  row,
  may,
  onPut,
}: {
  field: FarmField;
  row: FarmRecord;
  may: boolean;
  onPut: (value: RecordIn["values"][string] | null) => void;
}) {
  const currency = useCurrency();
  const reading = row.values[field.name];
  if (!reading) return null;
  const draft: RecordIn["values"][string] = {
    typed: reading.typed ?? reading.value ?? "",
    origin: reading.given ? reading.origin : ("own" as Origin),
    low: reading.low,
    high: reading.high,
    note: reading.note,
    ...{ count: reading.count, plates: reading.plates, deviation: reading.deviation },
    ...{ measured: reading.measured, sheet: reading.sheet },
  };
  const put = (change: Partial<typeof draft>) => onPut({ ...draft, ...change });
  // What is typed anew is no more what a coupon's sheet gave.
  const retype = (typed: (typeof draft)["typed"]) =>
    put({ typed, count: null, plates: null, deviation: null, measured: null, sheet: null });
  const shown = reading.value === null ? "" : String(reading.value);
  return (
    <tr className="border-b border-rule" data-field={field.name}>
      <th className="py-0.5 text-left font-normal">{field.words}</th>
      <td>
        {field.kind === "choice" ? (
          <Select
            quiet
            label={field.words}
            disabled={!may}
            value={shown}
            options={field.choices.map((c) => [c, c] as const)}
            onPick={retype}
          />
        ) : field.kind === "mark" ? (
          <input
            type="checkbox"
            aria-label={field.words}
            className="float-right accent-ink"
            disabled={!may}
            checked={reading.value === true}
            onChange={(e) => retype(e.target.checked)}
          />
        ) : (
          <Cell
            label={field.words}
            value={shown}
            disabled={!may}
            strong={reading.given}
            onWrite={(typed) => (typed.trim() ? retype(typed) : onPut(null))}
          />
        )}
      </td>
      <td
        className="figure pl-2 text-[11.5px] text-second"
        title={reading.typed ? `typed as ${reading.typed}` : undefined}
      >
        {field.unit.startsWith("per ") && `${currency} `}
        {field.unit}
        {reading.typed && !reading.typed.startsWith(shown) && ` ← ${reading.typed}`}
      </td>
      <td>
        {field.kind === "number" && (
          <Cell
            label={`${field.words}, from`}
            value={reading.low === null ? "" : String(reading.low)}
            disabled={!may || !reading.given}
            onWrite={(v) => put({ low: v.trim() || null })}
          />
        )}
      </td>
      <td>
        {field.kind === "number" && (
          <Cell
            label={`${field.words}, to`}
            value={reading.high === null ? "" : String(reading.high)}
            disabled={!may || !reading.given}
            onWrite={(v) => put({ high: v.trim() || null })}
          />
        )}
      </td>
      <td className="pl-4">
        {reading.value === null ? (
          <span className="text-second">{row.kind === "size" ? "the table's" : "the material's"}</span>
        ) : reading.given && may ? (
          <Select
            quiet
            label={`Origin of ${field.words}`}
            value={reading.origin}
            options={ORIGINS.map((o) => [o, `${ORIGIN_MARK[o].sign} ${ORIGIN_MARK[o].word}`] as const)}
            onPick={(origin) => put({ origin: origin as Origin })}
          />
        ) : (
          <span className={reading.given ? "" : "text-second"} title={ORIGIN_MARK[reading.origin].long}>
            {ORIGIN_MARK[reading.origin].sign} {ORIGIN_MARK[reading.origin].word}
          </span>
        )}
      </td>
      <td className="pl-3">
        {reading.sheet && (
          <Link
            to="/coupons/$sheet"
            params={{ sheet: reading.sheet }}
            className="narrow float-right pl-2 underline hover:text-moss"
            title={`${reading.count ?? 0} readings, ${reading.plates ?? 0} plates`}
          >
            its sheet, {reading.measured}
          </Link>
        )}
        {reading.given && (
          <Cell
            text
            label={`Note on ${field.words}`}
            value={reading.note}
            disabled={!may}
            onWrite={(note) => put({ note })}
          />
        )}
      </td>
      <td className="text-right">
        {may && reading.given && (
          <button
            type="button"
            className="text-second hover:text-ink"
            aria-label={`Back to the starting value of ${field.words}`}
            title="back to the starting value"
            onClick={() => onPut(null)}
          >
            ×
          </button>
        )}
      </td>
    </tr>
  );
}

/** A number in the table that is written when it is left. */
function Cell({
  label,
  value,
  disabled,
  strong,
  text: words,
  onWrite,
}: {
  label: string;
  value: string;
  disabled: boolean;
  strong?: boolean;
  text?: boolean;
  onWrite: (value: string) => void;
}) {
  const [text, setText] = useDraft(value);
  return (
    <input
      aria-label={label}
      title={words ? value : undefined}
      disabled={disabled}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && onWrite(text)}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        else if (e.key === "Escape") setText(value);
      }}
      className={`w-full border border-transparent bg-transparent px-1 hover:border-bark focus:border-bark disabled:hover:border-transparent ${words ? "" : "figure text-right"} ${strong ? "font-semibold" : "text-second"}`}
    />
  );
}

/** Every change of a record: who, when, what; each can be taken back. */
function Kept({
  sheet,
  version,
  may,
  onDone,
}: {
  sheet: string;
  version: number;
  may: boolean;
  onDone: () => Promise<unknown>;
}) {
  const history = useHistory(sheet);
  const { send, trouble } = useSend();
  const back = async (number: number) => {
    await send(() => api.takeBack(sheet, number));
    await onDone();
  };
  return (
    <details className="mt-3" open={version > 1}>
      <summary className="cursor-pointer font-semibold">Every change of this record</summary>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
      <ol>
        <Editions editions={history.data?.editions} onBack={may ? (number) => void back(number) : null} />
      </ol>
    </details>
  );
}
