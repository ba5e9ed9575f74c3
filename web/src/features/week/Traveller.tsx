/** One plate for whoever stands at the machine: large steps to tick, its print, a fault with its photo. Made for a phone. */
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";

import { keepPage } from "../../api/offline";
import { useSend, useSession } from "../../api/queries";
import { type Traveller as Plate, useSeats, useTraveller, weekApi } from "../../api/week";
import { moment } from "../../domain/figures";
import { mayPrint } from "../../domain/roles";
import { Button, Select, Trouble } from "../../ui/controls";
import { Printing } from "./Printing";
import { useTicks } from "./useTicks";

export function Traveller({ order, number }: { order: string; number: number }) {
  const plate = useTraveller(order, number);
  const { kept, tick, trouble: refused } = useTicks(order, number);
  const may = mayPrint(useSession().data?.role);
  const client = useQueryClient();
  const { send, trouble } = useSend();
  useEffect(() => void keepPage(), []);
  const change = async (call: () => Promise<unknown>) => {
    if ((await send(call)) === undefined) return;
    await client.invalidateQueries({ queryKey: ["traveller", order, number] });
    await client.invalidateQueries({ queryKey: ["week"] });
  };
  if (!plate.data)
    return plate.error ? (
      <div className="p-4">
        <Trouble message={plate.error.message} hint="Go back to the week." />
      </div>
    ) : (
      <p className="p-4 text-second">Reading the plate …</p>
    );
  const t = plate.data;
  const away = plate.isRefetchError || plate.isPaused;
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-[560px] space-y-4 p-4 text-[16px] leading-snug" data-testid="traveller">
        <header className="border-b-[1.4px] border-ink pb-2">
          <Link to="/week" className="text-second underline">
            week
          </Link>
          <h1 className="text-[21px] font-bold">
            {t.copies} {t.part}
          </h1>
          <p className="text-second">
            plate {t.number + 1} of {t.of}, {t.machine ?? `for a ${t.model}`}{" "}
            <a href={`/api/floor/plates/${order}/${number}/paper`} className="underline">
              on paper
            </a>
          </p>
        </header>
        {(away || kept.length > 0) && (
          <p className="border-l-4 border-ochre-mark bg-raised px-3 py-2" role="status" data-testid="kept">
            {away
              ? `No connection: this is how it stood at ${moment(new Date(plate.dataUpdatedAt).toISOString())}. `
              : ""}
            {kept.length > 0
              ? `${kept.length} ${kept.length === 1 ? "tick is" : "ticks are"} kept here and sent as soon as there is one.`
              : "What you tick is kept here and sent as soon as there is one."}
          </p>
        )}
        {[trouble, refused].map((p) => p && <Trouble key={p.code} message={p.message} hint={p.hint} />)}
        {t.cautions.map((line) => (
          <p key={line} className="border-l-4 border-crown px-3">
            {line}
          </p>
        ))}
        {t.print && (
          <Printing print={t.print} copies={t.copies} reached={t.reached} onChange={may ? change : null} large />
        )}
        {t.good !== null && (
          <p>
            Counted: <b>{t.good} good</b>, {t.bad} bad.
          </p>
        )}
        {may && <Start plate={t} onChange={change} />}
        <Steps plate={t} kept={kept} onTick={may ? tick : null} />
        {may && t.print && <Fault id={t.print.id} state={t.print.state} onChange={change} />}
        {t.photo && t.print && (
          <img src={`/api/floor/prints/${t.print.id}/photo`} alt="Photo of the fault" className="w-full" />
        )}
      </div>
    </div>
  );
}

interface StepsProps {
  plate: Plate;
  kept: ReturnType<typeof useTicks>["kept"];
  onTick: ((step: string, done: boolean) => void) | null;
}

function Steps({ plate, kept, onTick }: StepsProps) {
  const seats = useSeats(plate.order, plate.number).data ?? [];
  return (
    <ol>
      {plate.steps.map((step, i) => {
        const waits = kept.find((k) => k.step === step.key);
        const seat = seats.find((s) => s.step === step.key);
        const done = waits ? waits.done : step.ticked !== null;
        return (
          <li key={step.key} className="border-t border-rule">
            <button
              type="button"
              role="checkbox"
              aria-checked={done}
              disabled={!onTick}
              data-step={step.key}
              className="flex min-h-[56px] w-full gap-3 py-2.5 text-left"
              onClick={() => onTick?.(step.key, !done)}
            >
              <span
                aria-hidden
                className={`mt-0.5 flex size-8 shrink-0 items-center justify-center border-2 border-ink text-[20px] ${done ? "bg-ink text-paper" : ""}`}
              >
                {done ? "✓" : ""}
              </span>
              <span>
                <b className={done ? "text-second" : ""}>
                  {i + 1}. {step.words}
                </b>
                {step.detail && <span className="block text-[14px] text-second">{step.detail}</span>}
                {seat && (
                  <svg
                    viewBox={seat.frame}
                    className="mt-1 block max-h-40 w-full"
                    role="img"
                    aria-label="The layer below the pause, from above"
                  >
                    <path
                      d={seat.path}
                      fill="var(--color-lit)"
                      fillRule="evenodd"
                      stroke="var(--color-ink)"
                      strokeWidth="0.3"
                    />
                  </svg>
                )}
                {waits ? (
                  <span className="block text-[14px] text-ochre">not sent yet</span>
                ) : (
                  step.ticked && (
                    <span className="block text-[14px] text-second">
                      {step.ticked.by}, {moment(step.ticked.at)}
                    </span>
                  )
                )}
              </span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}

interface StartProps {
  plate: Plate;
  onChange: (call: () => Promise<unknown>) => Promise<void>;
}

/** Starts it where it is on no machine: not yet, or no more after a fault. */
function Start({ plate, onChange }: StartProps) {
  const free = plate.machines.filter((m) => m.free);
  const [picked, setPicked] = useState<string | null>(null);
  const machine = free.find((m) => m.key === picked)?.key ?? free[0]?.key;
  const again = plate.print?.state === "failed" || plate.print?.state === "cancelled";
  if (plate.print && !again) return null;
  if (!machine) return <p className="text-second">Every {plate.model} holds a plate.</p>;
  return (
    <div className="flex items-end gap-2">
      <Select
        label="Machine"
        value={machine}
        options={free.map((m) => [m.key, m.name] as const)}
        onPick={setPicked}
        className="flex-1"
      />
      <Button
        className="!px-4 !py-3"
        onClick={() => void onChange(() => weekApi.start(plate.order, plate.number, machine))}
      >
        {again ? "Start it again" : "Start"}
      </Button>
    </div>
  );
}

interface FaultProps {
  id: string;
  state: string;
  onChange: (call: () => Promise<unknown>) => Promise<void>;
}

const ON_MACHINE = ["sent", "heating", "printing", "paused", "waiting", "finished"];

function Fault({ id, state, onChange }: FaultProps) {
  const [open, setOpen] = useState(false);
  const [words, setWords] = useState("");
  const [photo, setPhoto] = useState<File | null>(null);
  if (!ON_MACHINE.includes(state)) return null;
  if (!open)
    return (
      <Button plain className="!px-4 !py-3" onClick={() => setOpen(true)}>
        Something went wrong
      </Button>
    );
  return (
    <form
      className="space-y-2 border-t border-rule pt-3"
      data-testid="fault"
      onSubmit={(e) => {
        e.preventDefault();
        void onChange(() => weekApi.fault(id, words, photo)).then(() => setOpen(false));
      }}
    >
      <label className="block">
        What went wrong
        <textarea
          className="mt-1 block w-full border border-bark bg-raised p-2"
          rows={2}
          maxLength={200}
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
      </label>
      <label className="block">
        Photo
        <input
          type="file"
          accept="image/jpeg,image/png"
          capture="environment"
          className="mt-1 block"
          onChange={(e) => setPhoto(e.target.files?.[0] ?? null)}
        />
      </label>
      <Button type="submit" className="!px-4 !py-3" disabled={!words.trim()}>
        Record the fault: the print is given up
      </Button>
    </form>
  );
}
