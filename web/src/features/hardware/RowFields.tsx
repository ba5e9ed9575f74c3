/** One row of hardware opened: its size, what it bears on, where it sits, what it carries. */
import type { HardwareRow } from "../../api/hardware";
import { figure } from "../../domain/figures";
import { HEADS, NUTS, POCKETS, STEELS, WASHERS, threeNumbers } from "../../domain/hardware";
import { type Vec3, scaled } from "../../domain/vectors";
import { Button, Select } from "../../ui/controls";
import { useDraft } from "../../ui/draft";

interface Props {
  row: HardwareRow;
  sizes: readonly string[];
  up: Vec3;
  /** Null for those who may not. */
  onChange: ((change: Partial<Record<keyof HardwareRow, unknown>>) => void) | null;
  onPointEnd: (() => void) | null;
  onOut: (() => void) | null;
}

const places = (v: readonly number[] | null | undefined, digits = 1) =>
  v ? v.map((x) => figure(x, digits)).join(", ") : "";

export function RowFields({ row, sizes, up, onChange, onPointEnd, onOut }: Props) {
  const cut = row.cut !== null;
  const own = { row, onChange: cut ? null : onChange };
  const pick = (key: keyof HardwareRow) => (value: string) => onChange?.({ [key]: value });
  const all = sizes.includes(row.size) ? sizes : [row.size, ...sizes];
  return (
    <div className="space-y-1.5 py-1.5" data-testid="hardware-fields">
      {cut && (
        <p className="narrow text-second">Its place is cut into this revision already: only what it meets changes.</p>
      )}
      <div className="grid grid-cols-3 gap-x-2 gap-y-1.5">
        <Text {...own} name="name" label="name" now={row.name} />
        <Select
          label="size"
          value={row.size}
          options={all.map((s) => [s, s] as const)}
          onPick={pick("size")}
          disabled={!own.onChange}
        />
        {row.kind === "bolt" && (
          <Select label="steel" value={row.steel} options={STEELS.map((s) => [s, s] as const)} onPick={pick("steel")} />
        )}
        {row.kind === "bolt" && (
          <>
            <Select label="head" value={row.head} options={HEADS} onPick={pick("head")} disabled={!own.onChange} />
            <Select
              label="washer"
              value={row.washer}
              options={WASHERS}
              onPick={pick("washer")}
              disabled={!own.onChange}
            />
            <Text {...own} name="sunk" label="head sunk" now={row.sunk?.typed ?? ""} hint="0 mm" />
            <Select label="nut" value={row.nut} options={NUTS} onPick={pick("nut")} disabled={!own.onChange} />
            <Select
              label="its pocket"
              value={row.pocket}
              options={POCKETS}
              onPick={pick("pocket")}
              disabled={!own.onChange}
            />
            {row.pocket === "closed" && (
              <Text {...own} name="cover" label="material over it" now={row.cover?.typed ?? ""} hint="6 mm" />
            )}
            <Text
              row={row}
              onChange={onChange}
              name="torque"
              label="torque"
              now={row.torque?.typed ?? ""}
              hint="as seats bear"
            />
          </>
        )}
        {row.kind !== "bolt" && row.kind !== "insert" && (
          <Text
            {...own}
            name="deep"
            label="deep"
            now={row.deep?.typed ?? ""}
            hint={row.kind === "rod" ? "40 mm" : "usual"}
          />
        )}
        {row.kind === "boss" && (
          <Text {...own} name="rise" label="boss over the face" now={row.rise?.typed ?? ""} hint="0 mm" />
        )}
        {(row.kind === "insert" || row.kind === "boss" || row.kind === "pad") && (
          <Text
            row={row}
            onChange={onChange}
            name="pull"
            label={row.kind === "pad" ? "push on it" : "pull on it"}
            now={row.pull?.typed ?? ""}
            hint="N"
          />
        )}
        {(row.kind === "insert" || row.kind === "boss" || row.kind === "key") && (
          <Text row={row} onChange={onChange} name="turn" label="torque on it" now={row.turn?.typed ?? ""} hint="N·m" />
        )}
        {row.kind === "key" && (
          <>
            <Text
              row={row}
              onChange={onChange}
              name="radius"
              label="axis to its flank"
              now={row.radius?.typed ?? ""}
              hint="mm"
            />
            <Text
              row={row}
              onChange={onChange}
              name="count"
              label="keys that share it"
              now={String(row.count)}
              number
            />
          </>
        )}
      </div>
      <div className="grid grid-cols-2 gap-x-2 gap-y-1.5">
        <Place {...own} name="at" label="goes in at, mm" now={places(row.at, 2)} />
        <Place {...own} name="axis" label="along" now={places(row.axis, 3)} />
        {row.kind === "key" && <Place {...own} name="end" label="ends at, mm" now={places(row.end, 2)} />}
      </div>
      {onChange && (
        <p className="flex gap-2 pt-0.5">
          {!cut && (
            <Button plain onClick={() => onChange({ axis: [...scaled(up, -1)] })}>
              Along the build
            </Button>
          )}
          {!cut && onPointEnd && (
            <Button plain onClick={onPointEnd}>
              Point at its other end
            </Button>
          )}
          {onOut && (
            <Button plain onClick={onOut} className="ml-auto">
              Take out
            </Button>
          )}
        </p>
      )}
    </div>
  );
}

interface FieldProps {
  row: HardwareRow;
  onChange: Props["onChange"];
  name: keyof HardwareRow;
  label: string;
  now: string;
}

function Text({ row, onChange, name, label, now, hint, number }: FieldProps & { hint?: string; number?: boolean }) {
  const [text, setText] = useDraft(now);
  const write = () => {
    const typed = text.trim();
    if (typed === now) return;
    onChange?.({ [name]: number ? Number(typed) || 1 : typed === "" && name !== "name" ? null : typed });
  };
  return (
    <label className="block">
      <span className="block text-second">{label}</span>
      <input
        aria-label={`${row.name}: ${label}`}
        className="w-full border border-bark bg-raised px-2 py-[3px] disabled:text-second"
        value={text}
        placeholder={hint}
        disabled={!onChange}
        onChange={(e) => setText(e.target.value)}
        onBlur={write}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
    </label>
  );
}

function Place({ row, onChange, name, label, now }: FieldProps) {
  const [text, setText] = useDraft(now);
  const found = threeNumbers(text);
  return (
    <label className="block">
      <span className="block text-second">{label}</span>
      <input
        aria-label={`${row.name}: ${label}`}
        className={`figure w-full border bg-raised px-2 py-[3px] disabled:text-second ${found || !text ? "border-bark" : "border-crown"}`}
        value={text}
        disabled={!onChange}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => found && text !== now && onChange?.({ [name]: found })}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
    </label>
  );
}
