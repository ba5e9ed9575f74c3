/** The decision: the batch that is looked at taken with a reason, what was taken, and taking it back. */
import { useState } from "react";

import type { Batch } from "../../api/client";
import { MODE_WORDS } from "../../domain/batch";
import { figure, moment } from "../../domain/figures";
import { Button, Input, Tick } from "../../ui/controls";

interface Props {
  chosen: Batch["chosen"];
  /** Whether what is looked at is what was chosen. */
  here: boolean;
  /** Whether a copy was moved by hand since. */
  moved: boolean;
  copies: number;
  words: string;
  /** The prepared file that was read beside this batch; null where there is none. */
  prepared: string | null;
  onChoose: ((reason: string, byFile: boolean) => Promise<void>) | null;
  onPutBack: (() => Promise<void>) | null;
}

export function Decision({ chosen, here, moved, copies, words, prepared, onChoose, onPutBack }: Props) {
  const [reason, setReason] = useState(here ? (chosen?.reason ?? "") : "");
  const [byFile, setByFile] = useState(prepared !== null && chosen?.prepared === prepared);
  const batch = copies === 1 ? "one at a time" : `${copies} ${words}`;
  return (
    <div className="border-y border-rule py-2">
      {chosen && (
        <div className="pb-2" data-testid="chosen-batch">
          <p>
            <b>{chosen.copies === 1 ? "One at a time" : `${chosen.copies} ${MODE_WORDS[chosen.mode]}`}</b>{" "}
            <span className="text-second">
              chosen by {chosen.by}, {moment(chosen.at)}: “{chosen.reason}”
            </span>
          </p>
          {chosen.stale ? (
            <p className="text-ochre">
              The plate it was chosen on has changed since: fill the plate, and choose again.
            </p>
          ) : (
            chosen.measures.reserve !== null && (
              <p className="narrow text-second">
                reserve then <span className="figure">{figure(chosen.measures.reserve, 2)}</span>; the strength stage
                counts with its welds now{chosen.prepared !== null && `, by the layer times of ${chosen.prepared}`}
              </p>
            )
          )}
          {onPutBack && (
            <button type="button" className="text-second underline hover:text-ink" onClick={() => void onPutBack()}>
              put it back
            </button>
          )}
        </div>
      )}
      {onChoose && (!here || moved || (prepared !== null && chosen?.prepared !== prepared)) && (
        <form
          className="space-y-2"
          onSubmit={(e) => {
            e.preventDefault();
            void onChoose(reason, byFile);
          }}
        >
          <Input
            label={`Why ${batch}${moved ? ", with the copies where they were put" : ""}`}
            value={reason}
            required
            minLength={3}
            maxLength={400}
            onChange={(e) => setReason(e.target.value)}
          />
          {prepared !== null && (
            <Tick ticked={byFile} onTick={setByFile}>
              with the layer times of {prepared}
            </Tick>
          )}
          <Button type="submit">Use this batch</Button>
        </form>
      )}
    </div>
  );
}
