/** Two trials side by side: what each bore, and what differed between them. */
import { useState } from "react";

import { type TrialOfPart, useBeside } from "../../api/trials";
import { figure } from "../../domain/figures";
import { Select } from "../../ui/controls";
import { amount } from "./words";

interface Props {
  trial: TrialOfPart;
  others: readonly TrialOfPart[];
}

export function Beside({ trial, others }: Props) {
  const [other, choose] = useState("");
  const beside = others.find((t) => t.id === other) ?? null;
  const differs = useBeside(trial.id, beside?.id ?? null).data;
  const row = (words: string, of: (t: TrialOfPart) => string) => (
    <tr className="border-t border-rule">
      <td className="py-0.5 text-second">{words}</td>
      <td>{beside && of(beside)}</td>
      <td>{of(trial)}</td>
    </tr>
  );
  return (
    <div data-testid="beside-trial">
      <Select
        label="beside"
        value={other}
        options={[
          ["", "another trial …"],
          ...others.map((t) => [t.id, `${t.tested}, plate ${t.plate}, ${t.how}`] as const),
        ]}
        onPick={choose}
        className="w-72"
      />
      {beside && (
        <>
          <table className="mt-1 w-full">
            <tbody>
              {row("tested", (t) => t.tested)}
              {row("broke", (t) => `${t.how}${t.layer === null ? "" : `, layer ${t.layer}`}`)}
              {row("at", (t) => (t.load ? amount(t.load.n, t.load.unit) : "–"))}
              {row("times its load", (t) => (t.times === null ? "–" : `×${figure(t.times, 2)}`))}
              {row("predicted", (t) => (t.predicted ? `×${figure(t.predicted.times, 2)}` : "–"))}
              {row("measured over predicted", (t) => figure(t.ratio, 2))}
            </tbody>
          </table>
          {differs && (
            <p className={differs.length > 1 ? "text-ochre" : "text-second"}>
              {differs.length === 0
                ? "Nothing differed: what is between them is scatter."
                : `Differed: ${differs.join(", ")}.`}
            </p>
          )}
        </>
      )}
    </div>
  );
}
