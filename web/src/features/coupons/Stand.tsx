/** The test stand: a bar is pulled while its curve is drawn, read once it has broken, and put among the readings; or a
 * file of a run is.
 */
import { useEffect, useRef, useState } from "react";

import { type CouponKind, type CouponSheet, type Curve, type ReadingRow, couponsApi } from "../../api/coupons";
import { useSend } from "../../api/queries";
import { figure } from "../../domain/figures";
import { Scatter } from "../../plots/Scatter";
import { Button, Input, Select, Trouble } from "../../ui/controls";

interface Props {
  sheet: CouponSheet;
  kind: CouponKind;
  stand: boolean;
  /** Null for those who may not. */
  onGive: ((give: number, off: number) => Promise<unknown>) | null;
  onReading: ((row: Partial<ReadingRow>) => Promise<unknown>) | null;
}

/** Milliseconds between two looks at a run that goes. */
const LOOK = 250;

export function Stand({ sheet, kind, stand, onGive, onReading }: Props) {
  const { send, busy, trouble } = useSend();
  const drawn = { width: String(kind.waist?.[0] ?? ""), thickness: String(kind.waist?.[1] ?? "") };
  const has = (column: string) => kind.columns.some((c) => c.name === column);
  const [bar, setBar] = useState({ plate: "1", number: String(sheet.rows.length + 1), layer_s: "20", ...drawn });
  const [run, setRun] = useState<{ id: string; steel: boolean } | null>(null);
  const [line, setLine] = useState<number[][]>([]);
  const [curve, setCurve] = useState<{ told: Curve; steel: boolean } | null>(null);
  const [file, setFile] = useState<File | null>(null);
  const count = useRef(0);
  const waist = { width: Number(bar.width) || undefined, thickness: Number(bar.thickness) || undefined };
  const ended = async (id: string, steel: boolean) => {
    const told = await send(() => couponsApi.readPull(sheet.id, id, { steel, ...waist }));
    setRun(null);
    if (told) setCurve({ told, steel });
  };
  useEffect(() => {
    if (!run) return undefined;
    let going = true;
    const look = async () => {
      const told = await send(() => couponsApi.rows(sheet.id, run.id, count.current));
      if (!going) return;
      if (!told) return setRun(null);
      count.current += told.rows.length;
      setLine((now) => [...now, ...told.rows.filter((_, i) => i % 4 === 0).map((r) => [r[1] ?? 0, r[2] ?? 0])]);
      if (told.done) return void ended(run.id, run.steel);
      timer = setTimeout(() => void look(), LOOK);
    };
    let timer = setTimeout(() => void look(), LOOK);
    return () => {
      going = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a run is followed until it has ended, whatever is typed meanwhile
  }, [run]);
  const pull = async (steel: boolean) => {
    const layer_s = Number(bar.layer_s) || null;
    const given = { plate: bar.plate, number: Number(bar.number) || 1, layer_s, steel, fault: "" };
    setCurve(null);
    setLine([]);
    count.current = 0;
    const made = await send(() => couponsApi.pull(sheet.id, given));
    if (made) setRun({ id: made.run, steel });
  };
  const readFile = async (chosen: File, more: Record<string, string | number | boolean> = {}) => {
    setFile(chosen);
    const sizes = Object.fromEntries(Object.entries(waist).filter(([, v]) => v)) as Record<string, number>;
    const told = await send(() => couponsApi.readFile(sheet.id, chosen, { ...sizes, ...more }));
    if (told) setCurve({ told, steel: false });
  };
  const put = async () => {
    if (!curve?.told.force_n) return;
    const { force_n, modulus_mpa, kind } = curve.told;
    const values: Record<string, number | string | null> = {
      width: Number(bar.width),
      thickness: Number(bar.thickness),
      force: Number(force_n.toPrecision(5)),
      broke: kind === "not broken" ? "not broken" : "waist",
    };
    if (modulus_mpa && has("modulus")) values.modulus = Number(modulus_mpa.toPrecision(4));
    if (has("layer_s")) values.layer_s = Number(bar.layer_s) || 20;
    await onReading?.({ plate: bar.plate, values });
    setBar((b) => ({ ...b, number: String(Number(b.number) + 1) }));
    setCurve(null);
    setLine([]);
  };
  const field = (key: keyof typeof bar, label: string) => (
    <Input label={label} value={bar[key]} onChange={(e) => setBar({ ...bar, [key]: e.target.value })} />
  );
  const points = curve ? curve.told.line : line;
  const told = curve?.told;
  return (
    <section className="border-t border-ink px-4 py-3" aria-label="Test stand" data-testid="stand">
      <h3 className="flex items-baseline gap-3 pb-1 font-semibold">
        Test stand
        <span className="narrow font-normal text-second">
          {sheet.give ? (
            <>
              gives <span className="figure">{figure(sheet.give * 1e4, 2)}·10⁻⁴ mm/N</span> itself
            </>
          ) : (
            "what it gives itself is not known: pull a steel bar first for the stiffness"
          )}
        </span>
      </h3>
      <div className="grid grid-cols-5 gap-x-2">
        {field("plate", "plate")}
        {field("number", "bar")}
        {field("width", "width, mm")}
        {field("thickness", "thick, mm")}
        {has("layer_s") ? field("layer_s", "layer, s") : <span />}
      </div>
      <p className="mt-2 flex flex-wrap items-center gap-2">
        {stand && onReading && (
          <>
            <Button disabled={!!run || busy} onClick={() => void pull(false)}>
              Pull the bar
            </Button>
            <Button plain disabled={!!run || busy} onClick={() => void pull(true)}>
              Pull a steel bar
            </Button>
          </>
        )}
        {run && (
          <Button plain onClick={() => void couponsApi.stop(sheet.id, run.id)}>
            Stop
          </Button>
        )}
        {onReading && (
          <label className="cursor-pointer underline hover:text-moss">
            read a file
            <input
              type="file"
              accept=".csv,.txt,.tsv,.asc,text/csv,text/plain"
              className="sr-only"
              data-testid="curve-file"
              onChange={(e) => {
                const chosen = e.target.files?.[0];
                if (chosen) void readFile(chosen);
                e.target.value = "";
              }}
            />
          </label>
        )}
        {run && <span role="status">pulling …</span>}
      </p>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {points.length > 1 && (
        <div className="mt-2 h-[190px]" data-testid="curve">
          <Scatter x="stroke, mm" y="force, N" points={[]} line={points} label="Force over stroke" />
        </div>
      )}
      {told && file && told.columns.length > 0 && (
        <Columns told={told} onChoose={(more) => void readFile(file, more)} />
      )}
      {told && (
        <div className="mt-1" data-testid="curve-read">
          {told.why && <p className="text-crown">{told.why}</p>}
          {told.force_n !== null && !curve?.steel && (
            <p>
              {told.kind === "not broken" ? "Not broken at" : told.kind === "yielded" ? "Yielded at" : "Broke at"}{" "}
              <b className="figure">{figure(told.force_n, 0)} N</b>,{" "}
              <b className="figure">{figure(told.strength_mpa, 1)} MPa</b>
              {told.modulus_mpa !== null && (
                <>
                  , stiffness <span className="figure">{figure(told.modulus_mpa, 0)} MPa</span>
                </>
              )}
            </p>
          )}
          {told.give !== null && (
            <p>
              The stand gives <b className="figure">{figure(told.give * 1e4, 2)}·10⁻⁴ mm/N</b>.
            </p>
          )}
          {told.says.map((s) => (
            <p key={s} className="narrow text-second">
              {s}
            </p>
          ))}
          {onReading && told.force_n !== null && !curve?.steel && (
            <Button onClick={() => void put()}>Put it among the readings</Button>
          )}
          {onGive && told.give !== null && (
            <Button onClick={() => void onGive(told.give ?? 0, told.give_off ?? 0).then(() => setCurve(null))}>
              Use it for this sheet
            </Button>
          )}
        </div>
      )}
    </section>
  );
}

/** Which columns of a file are stroke and force, where its own names do not say. */
function Columns({ told, onChoose }: { told: Curve; onChoose: (more: Record<string, number>) => void }) {
  const options = told.columns.map((c, i) => [String(i), told.units[i] ? `${c}` : c] as const);
  const choose = (stroke: number | null, force: number | null) =>
    onChoose({ ...(stroke === null ? {} : { stroke }), ...(force === null ? {} : { force }) });
  return (
    <div className="mt-1 grid grid-cols-2 gap-2">
      <Select
        label="stroke is"
        value={told.stroke === null ? "" : String(told.stroke)}
        options={[["", "choose …"], ...options]}
        onPick={(v) => choose(Number(v), told.force)}
      />
      <Select
        label="force is"
        value={told.force === null ? "" : String(told.force)}
        options={[["", "choose …"], ...options]}
        onPick={(v) => choose(told.stroke, Number(v))}
      />
    </div>
  );
}
