/** Specimens under load over weeks: a reading when it is due, what ten years would leave, side by side. */
import { useState } from "react";

import { useFarm, useSend } from "../../api/queries";
import { type LongTerm as Specimen, type LongTermIn, trialsApi, useLongTerm, useTrialsRefresh } from "../../api/trials";
import { figure, moment, typedNumber } from "../../domain/figures";
import { newId } from "../../domain/needs";
import { choicesOf } from "../../domain/records";
import { Drift } from "../../plots/Drift";
import { Button, Heading, Input, Select, Tick, Trouble } from "../../ui/controls";

const stamp = (date: Date) => new Date(date.getTime() - date.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);

const written = ({ name, material, begun, stress, temperature_c, sunlight, every_days, ended, note, rows }: Specimen) =>
  ({ name, material, begun, stress, temperature_c, sunlight, every_days, ended, note, rows }) satisfies LongTermIn;

export function LongTerm({ may }: { may: boolean }) {
  const state = useLongTerm();
  const { send, trouble } = useSend();
  const refresh = useTrialsRefresh();
  const [at, look] = useState<string | null>(null);
  const [adding, add] = useState(false);
  const change = async (call: () => Promise<unknown>) => {
    const done = await send(call);
    await refresh();
    return done !== undefined;
  };
  const rows = state.data ?? [];
  const due = rows.filter((r) => r.due).length;
  return (
    <section className="mt-6 border-t border-ink pt-2" aria-label="Under load over weeks" data-testid="longterm">
      <div className="flex items-baseline gap-3">
        <Heading>Under load over weeks</Heading>
        {due > 0 && (
          <span className="text-ochre">
            <span className="figure">{due}</span> {due === 1 ? "is" : "are"} to be read
          </span>
        )}
        {may && (
          <Button plain className="ml-auto" onClick={() => add(!adding)}>
            {adding ? "Close" : "Put one under load"}
          </Button>
        )}
      </div>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {adding && (
        <NewSpecimen onBegin={(given) => change(() => trialsApi.beginLongTerm(given)).then((ok) => ok && add(false))} />
      )}
      {rows.length === 0 && !adding && (
        <p className="max-w-[70ch] text-second">
          Nothing hangs yet. Plastics give under a load that stays: two materials side by side for some weeks say more
          than any sheet.
        </p>
      )}
      {rows.some((r) => r.hours.length > 0) && (
        <div className="h-[230px] max-w-[680px]">
          <Drift
            lines={rows.map((r) => ({
              id: r.id,
              name: r.name,
              points: r.hours.map((h, i) => [h, r.rows?.[i]?.give ?? 0] as const).filter(([h, g]) => h > 0 && g > 0),
              fit: r.told?.at ?? [],
            }))}
            at={at}
            onLine={look}
          />
        </div>
      )}
      <ul>
        {rows.map((r) => (
          <Row
            key={r.id}
            row={r}
            here={r.id === at}
            onLook={() => look(r.id === at ? null : r.id)}
            onWrite={
              may ? (more) => change(() => trialsApi.amendLongTerm(r.id, r.version, { ...written(r), ...more })) : null
            }
            onTake={may ? () => change(() => trialsApi.takeCreep(r.id)) : null}
          />
        ))}
      </ul>
    </section>
  );
}

interface RowProps {
  row: Specimen;
  here: boolean;
  onLook: () => void;
  /** Null for those who may not. */
  onWrite: ((more: Partial<LongTermIn>) => Promise<unknown>) | null;
  onTake: (() => Promise<unknown>) | null;
}

function Row({ row: r, here, onLook, onWrite, onTake }: RowProps) {
  const [give, setGive] = useState("");
  const [when, setWhen] = useState(stamp(new Date()));
  return (
    <li className={`border-t border-rule ${here ? "bg-raised" : ""}`} data-specimen={r.name}>
      <button type="button" className="grid w-full grid-cols-[1fr_auto] gap-x-3 py-1 text-left" onClick={onLook}>
        <span>
          <b>{r.name}</b>{" "}
          <span className="narrow text-second">
            {r.material_name}, <span className="figure">{figure(r.stress, 1)} MPa</span>,{" "}
            <span className="figure">{figure(r.temperature_c, 0)} °C</span>
            {r.sunlight && ", in the sun"}
          </span>
        </span>
        <span>
          {r.told ? (
            <>
              ten years leave <b className="figure">{figure(100 * r.told.share, 0)} %</b>{" "}
              <span className="figure text-second">
                ({figure(100 * r.told.low, 0)} … {figure(100 * r.told.high, 0)})
              </span>
            </>
          ) : (
            <span className="text-second">too few readings</span>
          )}
        </span>
        <span className={`narrow col-span-2 ${r.due ? "text-ochre" : "text-second"}`}>
          {r.ended ? "ended" : r.due ? "to be read now" : `to be read ${moment(r.next ?? "")}`}
          {r.hours.length > 0 && (
            <>
              , <span className="figure">{r.hours.length}</span> readings over{" "}
              <span className="figure">{figure(Math.max(...r.hours) / 24, 0)}</span> days
            </>
          )}
        </span>
      </button>
      {here && (
        <div className="space-y-1.5 pb-2">
          {r.told?.says.map((s) => (
            <p key={s} className="text-second">
              {s}
            </p>
          ))}
          {onWrite && !r.ended && (
            <form
              className="flex items-end gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                const row = { id: newId(), at: new Date(when).toISOString(), give: typedNumber(give) };
                void onWrite({ rows: [...(r.rows ?? []), row] }).then((ok) => ok && setGive(""));
              }}
            >
              <Input label="read at" type="datetime-local" value={when} onChange={(e) => setWhen(e.target.value)} />
              <Input label="has given, mm" value={give} onChange={(e) => setGive(e.target.value)} className="w-28" />
              <Button type="submit" disabled={!Number.isFinite(typedNumber(give))}>
                Add the reading
              </Button>
              <Button plain onClick={() => void onWrite({ ended: true })}>
                It has ended
              </Button>
            </form>
          )}
          {onTake && r.told && (
            <Button plain onClick={() => void onTake()}>
              {`Take ${figure(r.told.share, 2)} as its creep knock-down`}
            </Button>
          )}
        </div>
      )}
    </li>
  );
}

function NewSpecimen({ onBegin }: { onBegin: (given: LongTermIn) => Promise<unknown> }) {
  const farm = useFarm().data;
  const [text, setText] = useState({ name: "", stress: "", temperature: "23", every: "7", begun: stamp(new Date()) });
  const [material, choose] = useState("petg");
  const [sunlight, shine] = useState(false);
  const field = (key: keyof typeof text, label: string, type = "text") => (
    <Input label={label} type={type} value={text[key]} onChange={(e) => setText({ ...text, [key]: e.target.value })} />
  );
  return (
    <form
      className="my-2 grid max-w-[680px] grid-cols-4 items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void onBegin({
          ...{ name: text.name, material, sunlight, ended: false, note: "", rows: [] },
          begun: new Date(text.begun).toISOString(),
          stress: typedNumber(text.stress),
          temperature_c: typedNumber(text.temperature),
          every_days: Number(text.every),
        });
      }}
    >
      {field("name", "called")}
      <Select
        label="material"
        value={material}
        options={[...choicesOf(farm?.records, "material"), ...Object.entries(farm?.grades ?? {})]}
        onPick={choose}
      />
      {field("stress", "greatest stress, MPa")}
      {field("temperature", "temperature, °C")}
      {field("begun", "loaded at", "datetime-local")}
      {field("every", "read every, days")}
      <Tick ticked={sunlight} onTick={shine}>
        in the sun
      </Tick>
      <Button type="submit" disabled={!text.name.trim() || !Number.isFinite(typedNumber(text.stress))}>
        Begin
      </Button>
    </form>
  );
}
