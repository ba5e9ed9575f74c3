/** What the plate is laid out by: the machine, distances, brim, pauses, hardware; written on the job. */
import { useState } from "react";

import type { BatchBed, Part, PlateSettings as Settings } from "../../api/client";
import { useJobWriter, useParts } from "../../api/queries";
import { figure, typedNumber } from "../../domain/figures";
import { FormPopover } from "../../ui/FormPopover";
import { Input, Select, Tick } from "../../ui/controls";

interface Props {
  part: Part;
  machine: string | null;
  bed: BatchBed | null;
  mayEdit: boolean;
}

export function PlateSettings({ part, machine, bed, mayEdit }: Props) {
  const plate = part.job.plate;
  const words = (
    <>
      {machine ?? "no machine record: starting values"}
      {bed && (
        <>
          , bed <span className="figure">{`${figure(bed.bed_x, 0)} × ${figure(bed.bed_y, 0)} mm`}</span>
        </>
      )}{" "}
      · <span className="figure">{figure(plate.spacing ?? 3, 1)} mm</span> apart
      {!!plate.brim && (
        <>
          {" "}
          · brim <span className="figure">{figure(plate.brim, 1)} mm</span>
        </>
      )}
      {!!plate.pauses?.length && ` · ${plate.pauses.length} pauses`}
    </>
  );
  if (!mayEdit) return <p className="narrow">{words}</p>;
  return (
    <Edit part={part} plate={plate}>
      {words}
    </Edit>
  );
}

interface PauseDraft {
  id: string;
  height: string;
  minutes: string;
  cold: boolean;
}

const SIDES = [
  ["x", "x, mm"],
  ["y", "y, mm"],
  ["wide", "wide"],
  ["deep", "deep"],
] as const;
type FreeDraft = { id: string } & Record<(typeof SIDES)[number][0], string>;

interface OtherDraft {
  id: string;
  part: string;
  copies: string;
}

const number = (text: string, empty: number) => (text.trim() === "" ? empty : typedNumber(text));

interface RowsProps<R> {
  rows: readonly R[];
  blank: Omit<R, "id">;
  /** What adds a row, in words. */
  add: string;
  onRows: (rows: R[]) => void;
  children: (row: R, to: (change: Partial<R>) => void) => React.ReactNode;
}

/** Rows of a form, each with a way out; and a way to one more. */
function Rows<R extends { id: string }>({ rows, blank, add, onRows, children }: RowsProps<R>) {
  const fresh = () => ({ ...blank, id: crypto.randomUUID().slice(0, 8) }) as R;
  return (
    <>
      {rows.map((row) => (
        <div key={row.id} className="flex items-end gap-2">
          {children(row, (change) => {
            onRows(rows.map((r) => (r.id === row.id ? { ...r, ...change } : r)));
          })}
          <button
            type="button"
            className="pb-1 text-second underline"
            onClick={() => {
              onRows(rows.filter((r) => r.id !== row.id));
            }}
          >
            remove
          </button>
        </div>
      ))}
      <button
        type="button"
        className="block text-second underline hover:text-ink"
        onClick={() => {
          onRows([...rows, fresh()]);
        }}
      >
        {add}
      </button>
    </>
  );
}

function Edit({ part, plate, children }: { part: Part; plate: Settings; children: React.ReactNode }) {
  const { write, trouble, setTrouble } = useJobWriter(part);
  const [open, setOpen] = useState(false);
  const fresh = () => ({
    spacing: String(plate.spacing ?? 3),
    brim: String(plate.brim ?? 0),
    hardware: String(plate.hardware ?? 0),
    pauses: (plate.pauses ?? []).map((p): PauseDraft => ({
      id: p.id,
      height: p.height.typed,
      minutes: String(p.minutes ?? 2),
      cold: p.cold ?? false,
    })),
    free: (plate.free ?? []).map((f): FreeDraft => ({
      id: f.id,
      x: String(f.x ?? 0),
      y: String(f.y ?? 0),
      wide: String(f.wide ?? 20),
      deep: String(f.deep ?? 10),
    })),
    own: String(plate.own ?? 1),
    others: (plate.others ?? []).map((o): OtherDraft => ({ id: o.id, part: o.part, copies: String(o.copies ?? 1) })),
  });
  const [form, setForm] = useState(fresh);
  const parts = (useParts().data ?? []).filter((p) => p.id !== part.id);
  const send = async () => {
    const done = await write((job) => ({
      plate: {
        ...job.plate,
        spacing: number(form.spacing, 3),
        brim: number(form.brim, 0),
        hardware: number(form.hardware, 0),
        pauses: form.pauses
          .filter((p) => p.height.trim() !== "")
          .map((p) => ({ id: p.id, height: p.height, minutes: number(p.minutes, 2), cold: p.cold })),
        free: form.free.map((f) => ({
          id: f.id,
          x: number(f.x, 0),
          y: number(f.y, 0),
          wide: number(f.wide, 20),
          deep: number(f.deep, 10),
        })),
        own: number(form.own, 1),
        others: form.others
          .filter((o) => o.part !== "")
          .map((o) => ({ id: o.id, part: o.part, copies: number(o.copies, 1) })),
      },
    }));
    if (done) setOpen(false);
  };
  return (
    <FormPopover
      label="What the plate is laid out by"
      open={open}
      onOpen={(now) => {
        setOpen(now);
        setForm(fresh());
        setTrouble(null);
      }}
      trigger={{
        className: "narrow w-full border border-bark bg-paper px-2 py-0.5 text-left hover:bg-raised",
        title: "What the plate is laid out by",
        "data-testid": "plate-settings",
        children,
      }}
      onSave={send}
      trouble={trouble}
      wide="w-[380px]"
    >
      <div className="grid grid-cols-3 gap-2">
        <Input
          label="Apart, mm"
          inputMode="decimal"
          value={form.spacing}
          onChange={(e) => setForm({ ...form, spacing: e.target.value })}
        />
        <Input
          label="Brim, mm"
          inputMode="decimal"
          value={form.brim}
          onChange={(e) => setForm({ ...form, brim: e.target.value })}
        />
        <Input
          label="Hardware, a part"
          inputMode="decimal"
          value={form.hardware}
          onChange={(e) => setForm({ ...form, hardware: e.target.value })}
        />
      </div>
      <Rows
        rows={form.pauses}
        blank={{ height: "", minutes: "2", cold: false }}
        add="add a pause"
        onRows={(pauses) => setForm({ ...form, pauses })}
      >
        {(p, to) => (
          <>
            <Input
              label="Pause at"
              placeholder="12 mm"
              value={p.height}
              onChange={(e) => to({ height: e.target.value })}
            />
            <Input
              label="Minutes"
              inputMode="decimal"
              value={p.minutes}
              onChange={(e) => to({ minutes: e.target.value })}
            />
            <Tick className="gap-1 pb-1" ticked={p.cold} onTick={(cold) => to({ cold })}>
              cold
            </Tick>
          </>
        )}
      </Rows>
      <Rows
        rows={form.free}
        blank={{ x: "0", y: "0", wide: "20", deep: "10" }}
        add="keep a place on the bed free (a clip)"
        onRows={(free) => setForm({ ...form, free })}
      >
        {(f, to) =>
          SIDES.map(([side, label]) => (
            <Input
              key={side}
              label={label}
              inputMode="decimal"
              value={f[side]}
              onChange={(e) => to({ [side]: e.target.value })}
            />
          ))
        }
      </Rows>
      <Rows
        rows={form.others}
        blank={{ part: "", copies: "1" }}
        add="put another part on the plate"
        onRows={(others) => setForm({ ...form, others })}
      >
        {(o, to) => (
          <>
            <Select
              label="Other part on the plate"
              className="flex-1"
              value={o.part}
              options={[["", "choose one"], ...parts.map((p) => [p.id, p.name] as const)]}
              onPick={(id) => to({ part: id })}
            />
            <Input
              label="Copies"
              inputMode="numeric"
              className="w-16"
              value={o.copies}
              onChange={(e) => to({ copies: e.target.value })}
            />
          </>
        )}
      </Rows>
      {form.others.length > 0 && (
        <Input
          label="Copies of this part beside them"
          inputMode="numeric"
          value={form.own}
          onChange={(e) => setForm({ ...form, own: e.target.value })}
        />
      )}
      <p className="narrow text-second">
        Another part, or a loose piece, needs a filled plate of its own, in the same layers and material.
      </p>
      <p className="narrow text-second">
        Bed, head, rail, times and prices are the machine&apos;s, under Farm; a pause counts as wait of its layer.
      </p>
    </FormPopover>
  );
}
