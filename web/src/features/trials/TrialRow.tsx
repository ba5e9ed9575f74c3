/** One trial: what it bore beside what was predicted, what had changed since the one before, what was learned. */
import { useState } from "react";

import { type TrialOfPart, trialsApi } from "../../api/trials";
import { figure } from "../../domain/figures";
import { MODES } from "../../domain/strength";
import { Button, Input } from "../../ui/controls";
import { Beside } from "./Beside";
import { amount } from "./words";

interface Props {
  trial: TrialOfPart;
  /** The part's other trials. */
  others: readonly TrialOfPart[];
  here: boolean;
  onOpen: () => void;
  /** Null for those who may not. */
  onPhoto: ((photo: File) => void) | null;
  onStrike: ((reason: string) => Promise<unknown>) | null;
}

export function TrialRow({ trial: t, others, here, onOpen, onPhoto, onStrike }: Props) {
  const [reason, say] = useState<string | null>(null);
  return (
    <li className={`border-t border-rule ${here ? "bg-raised" : ""}`} data-trial={t.id}>
      <button
        type="button"
        className="grid w-full grid-cols-[1fr_auto] gap-x-3 px-4 py-1 text-left"
        aria-expanded={here}
        onClick={onOpen}
      >
        <span>
          <b className={t.verdict === "failed" ? "text-crown" : ""}>
            {t.verdict === "failed" ? "Failed: " : t.verdict === "passed" ? "Passed: " : ""}
            {t.how}
          </b>
          {t.load && (
            <>
              {" "}
              at <b className="figure">{amount(t.load.n, t.load.unit)}</b>
            </>
          )}
        </span>
        <span className="narrow text-second">{t.tested}</span>
        <span className="narrow col-span-2 text-second">
          revision <span className="figure">{t.revision}</span>, {t.up_words}, {t.machine ?? "any machine"},{" "}
          {t.material}
          {t.copies !== null && (
            <>
              , <span className="figure">{t.copies}</span> {t.mode}
            </>
          )}
          , plate {t.plate}
        </span>
        {t.predicted && t.times !== null && (
          <span className="col-span-2">
            bore <b className="figure">×{figure(t.times, 2)}</b> of “{t.case_name}”, predicted{" "}
            <span className="figure">×{figure(t.predicted.times, 2)}</span>
            {t.ratio !== null && t.how !== "not broken" && (
              <>
                : measured over predicted{" "}
                <b className={`figure ${t.ratio < 0.8 ? "text-crown" : ""}`}>{figure(t.ratio, 2)}</b>
              </>
            )}
          </span>
        )}
        {t.changed && (
          <span
            className={`narrow col-span-2 ${t.changed.length > 1 ? "text-ochre" : "text-second"}`}
            data-testid="changed"
          >
            {t.changed.length === 0
              ? "nothing changed since the one before"
              : `changed since the one before: ${t.changed.join(", ")}`}
            {t.changed.length > 1 && ". Which of them moved it is not known."}
          </span>
        )}
      </button>
      {here && (
        <div className="space-y-1.5 px-4 pb-2.5" data-testid="trial-open">
          {t.as_predicted === false && t.predicted && (
            <p className="text-ochre">
              It broke in another way than predicted ({MODES[t.predicted.mode]}): it is shown and not averaged.
            </p>
          )}
          {t.predicted && !t.predicted.welded && (
            <p className="narrow text-second">
              Predicted without the wait of its batch: none is chosen for this direction.
            </p>
          )}
          {t.lesson && <p className="whitespace-pre-wrap">{t.lesson}</p>}
          {t.photo && (
            <a href={trialsApi.photoAddress(t.id)} target="_blank" rel="noopener noreferrer">
              <img
                src={trialsApi.photoAddress(t.id)}
                alt={`The break of ${t.tested}`}
                className="max-h-[180px] border border-rule"
              />
            </a>
          )}
          {others.length > 0 && <Beside trial={t} others={others} />}
          <p className="flex items-center gap-3">
            {onPhoto && (
              <label className="cursor-pointer underline hover:text-moss">
                {t.photo ? "another photo" : "add a photo"}
                <input
                  type="file"
                  accept="image/jpeg,image/png"
                  className="sr-only"
                  data-testid="trial-photo"
                  onChange={(e) => {
                    const photo = e.target.files?.[0];
                    if (photo) onPhoto(photo);
                    e.target.value = "";
                  }}
                />
              </label>
            )}
            <span className="narrow text-second">written by {t.by}</span>
            {onStrike && reason === null && (
              <Button plain onClick={() => say("")} className="ml-auto">
                Take out
              </Button>
            )}
          </p>
          {onStrike && reason !== null && (
            <form
              className="flex items-end gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                void onStrike(reason).then((done) => done && say(null));
              }}
            >
              <Input
                label="Why it does not count"
                value={reason}
                onChange={(e) => say(e.target.value)}
                className="flex-1"
              />
              <Button type="submit">Take out</Button>
            </form>
          )}
        </div>
      )}
    </li>
  );
}
