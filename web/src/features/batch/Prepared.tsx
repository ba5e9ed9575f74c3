/** A file that some other program prepared, beside the plate that was calculated: what differs, and what its waits leave. */
import { useState } from "react";

import type { Prepared as Known } from "../../api/client";
import { longTime } from "../../domain/batch";
import { figure, moment } from "../../domain/figures";
import { reserve } from "../../domain/strength";
import { isOpen } from "../../domain/work";
import { Button, Progress, Trouble } from "../../ui/controls";

interface Props {
  known: Known | null;
  /** Whether it was read beside the batch that is looked at. */
  here: boolean;
  copies: number;
  words: string;
  onRead: ((file: File) => Promise<void>) | null;
  onStop: ((work: string) => unknown) | null;
  /** Settles a difference by its number; no reason takes that back. */
  onAccept: ((difference: number, reason: string | null) => Promise<unknown>) | null;
}

const DYE: Readonly<Record<string, string>> = { fails: "font-semibold text-crown", doubtful: "text-ochre", good: "" };

type Found = NonNullable<Known["result"]>["differences"][number];

/** A difference, and why it may stay. */
function Differing({
  found,
  onAccept,
}: {
  found: Found;
  onAccept: ((reason: string | null) => Promise<unknown>) | null;
}) {
  const [reason, setReason] = useState("");
  const { accepted } = found;
  return (
    <li data-difference={found.key} className="border-t border-rule py-0.5">
      <span className={accepted ? "text-second" : (DYE[found.state] ?? "")}>{found.words}</span>
      {accepted && (
        <p className="narrow flex items-baseline gap-2 text-second">
          <span className="flex-1">
            Accepted by {accepted.by}, {moment(accepted.at)}: {accepted.reason}
          </span>
          {onAccept && (
            <Button plain onClick={() => void onAccept(null)}>
              Reopen it
            </Button>
          )}
        </p>
      )}
      {onAccept && !accepted && (
        <form
          className="flex items-end gap-2 pb-1"
          onSubmit={(e) => {
            e.preventDefault();
            void onAccept(reason);
          }}
        >
          <input
            aria-label="Why it may stay"
            placeholder="why it may stay"
            value={reason}
            maxLength={400}
            onChange={(e) => setReason(e.target.value)}
            className="min-w-0 flex-1 border-b border-rule bg-transparent"
          />
          <Button type="submit" plain disabled={reason.trim().length < 3}>
            Accept
          </Button>
        </form>
      )}
    </li>
  );
}

export function Prepared({ known, here, copies, words, onRead, onStop, onAccept }: Props) {
  const [file, setFile] = useState<File | null>(null);
  const result = known?.result ?? null;
  const busy = isOpen(known?.work);
  return (
    <div className="h-full overflow-y-auto px-2 py-2" data-testid="prepared">
      {onRead && (
        <form
          className="flex items-end gap-3 border-b border-rule pb-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (file) void onRead(file);
          }}
        >
          <label className="flex-1">
            <span className="block text-second">
              Prepared file of {copies === 1 ? "one copy" : `${copies} copies, ${words}`}, for this machine
            </span>
            <input
              type="file"
              accept=".gcode,.gco,.g,.nc,.txt"
              required
              aria-label="Prepared file"
              onChange={(e) => setFile(e.target.files?.[0] ?? null)}
              className="w-full"
            />
          </label>
          <Button type="submit" disabled={!file || busy}>
            Read it
          </Button>
        </form>
      )}
      {known && busy && (
        <div className="pt-2">
          <Progress
            doing={known.work.doing}
            done={known.work.done}
            total={known.work.total}
            onCancel={onStop ? () => void onStop(known.work.id) : undefined}
          />
        </div>
      )}
      {known?.work.problem && <Trouble message={known.work.problem.message} hint={known.work.problem.hint} />}
      {known && result && (
        <>
          <p className="pt-2">
            <b>{known.name}</b>{" "}
            <span className="text-second">
              by {known.by}, {moment(known.at)}: <span className="figure">{figure(result.moves, 0)}</span> moves,{" "}
              <span className="figure">{figure(result.layers, 0)}</span> layers, {longTime(result.seconds)},{" "}
              <span className="figure">{figure(result.grams, 0)} g</span>
              {!here && `; read beside ${known.copies} ${known.mode === "together" ? "together" : "one after another"}`}
            </span>
          </p>
          {known.reserve !== null && (
            <p data-testid="prepared-reserve">
              With its own layer times the reserve is{" "}
              <b className={`figure ${(known.low ?? known.reserve) < 1 ? "text-crown" : ""}`}>
                {reserve(known.reserve)}
              </b>
              , at worst <span className="figure">{reserve(known.low)}</span>.
            </p>
          )}
          <ul className="py-1" data-testid="differences">
            {result.differences.map((d, i) => (
              <Differing
                key={d.key + d.words}
                found={d}
                onAccept={onAccept && d.state !== "good" ? (reason) => onAccept(i, reason) : null}
              />
            ))}
            {result.notes.map((note) => (
              <li key={note} className="border-t border-rule py-0.5 text-second">
                {note}
              </li>
            ))}
          </ul>
          <p className="narrow text-second">
            On the plate: its lines at <span className="figure">{figure(result.at_mm, 1)} mm</span>, the weakest place.
          </p>
        </>
      )}
      {!known && (
        <p className="py-2 text-second">
          Moves and extrusion are read, no program&apos;s comments: its layers, line widths, times and copies are held
          against this plate, and a support that nobody meant is found. The file itself is not kept.
        </p>
      )}
    </div>
  );
}
