/** What trials say of the predictions, by way of failing, machine and material; looked at, then taken by a person. */
import { Fragment, useState } from "react";

import { useSend } from "../../api/queries";
import { type Correction, trialsApi, useEffectOf, useTrialsRefresh } from "../../api/trials";
import type { NumberKey } from "../../domain/explained";
import { figure } from "../../domain/figures";
import { reserve } from "../../domain/strength";
import { Named } from "../../ui/Explained";
import { Button, Heading, Input, Trouble } from "../../ui/controls";

/** What of the heads is explained. */
const HEADS: Readonly<Record<string, NumberKey>> = {
  "measured / predicted": "correction",
  "safe factor": "safe_factor",
};

const GROUP = { across: "between layers", along: "in the layers" } as const;

export function Corrections({ rows, may }: { rows: readonly Correction[]; may: boolean }) {
  const [here, open] = useState<number | null>(null);
  if (rows.length === 0) return null;
  return (
    <div className="mt-4" data-testid="corrections">
      <Heading>What they say of the predictions</Heading>
      <table className="w-full border-collapse">
        <thead>
          <tr className="narrow text-left text-second">
            {[
              "fails",
              "machine, material",
              "trials",
              "measured / predicted",
              "weight",
              "safe factor",
              "on record",
              "",
            ].map((h) => (
              <th key={h} className="py-1 pr-2 font-normal">
                <Named of={HEADS[h]}>{h}</Named>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((c, i) => (
            <Fragment key={`${c.group} ${c.names.machine ?? ""} ${c.names.material}`}>
              <tr className="border-t border-rule" data-correction={c.group}>
                <td className="py-1 pr-2">{GROUP[c.group]}</td>
                <td className="pr-2">
                  {c.names.machine ?? "any machine"}, {c.names.material}
                </td>
                <td className="figure pr-2">
                  {c.told ? `${c.told.count} on ${c.told.plates}` : `0 of ${c.trials.length}`}
                </td>
                <td className="figure pr-2">
                  {c.told && (
                    <>
                      <b>{figure(c.told.factor, 2)}</b> ({figure(c.told.low, 2)} … {figure(c.told.high, 2)})
                    </>
                  )}
                </td>
                <td className="figure pr-2">{c.told && `${figure(100 * c.told.weight, 0)} %`}</td>
                <td className="figure pr-2">{c.told && <b>{figure(c.told.offered, 2)}</b>}</td>
                <td className="figure pr-2">{c.held === null ? "–" : figure(c.held, 2)}</td>
                <td className="text-right">
                  {c.told && (
                    <Button plain onClick={() => open(here === i ? null : i)}>
                      {here === i ? "Close" : "What it would do"}
                    </Button>
                  )}
                </td>
              </tr>
              {here === i && c.told && (
                <tr>
                  <td colSpan={8} className="bg-raised px-3 pb-2">
                    <Taking correction={c} may={may} onDone={() => open(null)} />
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
      <p className="narrow mt-1 max-w-[80ch] text-second">
        A safe factor is what nineteen of twenty parts reach. Taken, it stands in the place of the allowance for
        scatter, never beside it. Nothing changes until somebody takes it.
      </p>
    </div>
  );
}

function Taking({ correction, may, onDone }: { correction: Correction; may: boolean; onDone: () => void }) {
  const effect = useEffectOf(correction);
  const { send, busy, trouble } = useSend();
  const refresh = useTrialsRefresh();
  const [reason, say] = useState("");
  const take = async () => {
    if (!(await send(() => trialsApi.takeCorrection(correction, reason)))) return;
    await refresh();
    onDone();
  };
  return (
    <div className="pt-1.5" data-testid="effect">
      {correction.told?.says.map((s) => (
        <p key={s} className="text-second">
          {s}
        </p>
      ))}
      <table className="mt-1 w-full max-w-[520px]">
        <thead>
          <tr className="narrow text-left text-second">
            <th className="font-normal">job</th>
            <th className="text-right font-normal">least reserve now</th>
            <th className="text-right font-normal">with the factor</th>
          </tr>
        </thead>
        <tbody>
          {(effect.data ?? []).map((e) => (
            <tr key={e.part} className="border-t border-rule">
              <td>
                {e.name} <span className="narrow text-second">revision {e.revision}</span>
              </td>
              <td className={`figure text-right ${e.before !== null && e.before < 1 ? "text-crown" : ""}`}>
                {e.before === null ? "not checked" : reserve(e.before)}
              </td>
              <td className={`figure text-right ${e.after !== null && e.after < 1 ? "text-crown" : ""}`}>
                {e.after === null ? "" : reserve(e.after)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {effect.isPending && <p className="text-second">Working out what it would do …</p>}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {may && correction.where.machine && (
        <form
          className="mt-2 flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void take();
          }}
        >
          <Input label="Why it is taken" value={reason} onChange={(e) => say(e.target.value)} className="flex-1" />
          <Button type="submit" disabled={busy}>
            {`Take ${figure(correction.told?.offered, 2)}`}
          </Button>
        </form>
      )}
      {!correction.where.machine && (
        <p className="text-second">These jobs name no machine: there is no record that could hold it.</p>
      )}
    </div>
  );
}
