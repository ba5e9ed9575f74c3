/** A print as its machine tells it, and what can be done with it: paused, gone on with, given up, taken off and counted. */
import { useState } from "react";

import { type Command, type Week, weekApi } from "../../api/week";
import { longTime } from "../../domain/batch";
import { Button, Input } from "../../ui/controls";

export type Print = NonNullable<Week["runs"][number]["print"]>;

const WORDS: Record<string, string> = {
  sent: "sent to its machine",
  heating: "heating",
  printing: "printing",
  paused: "paused",
  waiting: "waits for hands",
  finished: "finished, waits to be taken off",
  done: "taken off",
  failed: "failed",
  cancelled: "given up",
};
const COMMANDS: readonly (readonly [Command, string, readonly string[]])[] = [
  ["pause", "Pause", ["heating", "printing"]],
  ["continue", "Go on", ["paused", "waiting"]],
  ["cancel", "Give it up", ["sent", "heating", "printing", "paused", "waiting"]],
  ["clear", "It is cleared away", ["failed", "cancelled"]],
];

interface Props {
  print: Print;
  copies: number;
  reached: string;
  onChange: ((call: () => Promise<unknown>) => Promise<void>) | null;
  /** Large, for a finger. */
  large?: boolean;
}

export function Printing({ print, copies, reached, onChange, large = false }: Props) {
  const [bad, setBad] = useState("0");
  const spoiled = Number(bad);
  const counts = print.state === "finished" || (print.state === "printing" && reached === "by_hand");
  const size = large ? "!px-4 !py-3 text-[16px]" : "";
  const wrong = !(Number.isInteger(spoiled) && spoiled >= 0 && spoiled <= copies);
  return (
    <div className="space-y-1.5" data-testid="printing" data-state={print.state}>
      <p>
        <b className={print.state === "failed" || print.state === "cancelled" ? "text-crown" : ""}>
          {WORDS[print.state]}
        </b>
        {print.layers > 0 && print.state !== "done" && print.state !== "sent" && (
          <>
            , layer <span className="figure">{print.layer}</span> of <span className="figure">{print.layers}</span>
          </>
        )}
        {print.left_s > 0 && print.state !== "sent" && <>, {longTime(print.left_s)} left</>}
        {print.words && <span className="block">{print.words}</span>}
      </p>
      {print.silent && <p className="text-crown">Its machine does not answer; nothing here has changed since.</p>}
      {print.wish && <p className="text-second">Asked of the machine: {print.wish} …</p>}
      {onChange && (
        <div className="flex flex-wrap gap-2">
          {COMMANDS.filter(([, , states]) => states.includes(print.state)).map(([what, name]) => (
            <Button
              key={what}
              plain={what !== "continue" && what !== "clear"}
              className={size}
              disabled={!!print.wish}
              onClick={() => void onChange(() => weekApi.command(print.id, what))}
            >
              {name}
            </Button>
          ))}
        </div>
      )}
      {onChange && counts && (
        <form
          className="flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void onChange(() => weekApi.count(print.id, copies - spoiled, spoiled));
          }}
        >
          <Input
            label={`bad, of ${copies}`}
            inputMode="numeric"
            value={bad}
            onChange={(e) => setBad(e.target.value)}
            className={large ? "w-28 text-[16px]" : "w-20"}
          />
          <Button type="submit" disabled={wrong} className={size}>
            {wrong ? "Count" : `${copies - spoiled} good, taken off`}
          </Button>
        </form>
      )}
    </div>
  );
}
