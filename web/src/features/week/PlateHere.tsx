/** The plate that is looked at: where and when, what makes it late, and whether it stays there. */
import { useState } from "react";

import type { Week } from "../../api/client";
import { longTime } from "../../domain/batch";
import { dayAndTime, lateWords } from "../../domain/week";
import { Button, Select } from "../../ui/controls";

interface Props {
  run: Week["runs"][number];
  plan: Week;
  /** Pins it, or with nothing lets planning have it again. */
  onPin: ((machine: string | null, start: number | null) => void) | null;
}

export function PlateHere({ run, plan, onPin }: Props) {
  const [machine, setMachine] = useState(run.machine);
  const own = plan.machines.find((m) => m.key === run.machine);
  const alike = plan.machines.filter((m) => m.model === own?.model && !m.out);
  return (
    <div className="space-y-1.5 border-b border-ink pb-3" data-testid="plate-here">
      <h3 className="font-bold">
        {run.copies} {run.part}
      </h3>
      <p className="text-second">
        plate {run.number + 1} of {run.of} on {own?.name}
      </p>
      <table className="w-full">
        <tbody>
          {(
            [
              ["started", dayAndTime(plan.zero, run.start_s)],
              ["last line", dayAndTime(plan.zero, run.end_s)],
              ["taken off", dayAndTime(plan.zero, run.free_s)],
              ["holds its machine", longTime(run.free_s - run.start_s)],
            ] as const
          ).map(([name, value]) => (
            <tr key={name}>
              <th className="text-left font-normal text-second">{name}</th>
              <td className="text-right">{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {run.late_s > 0 && (
        <p className="font-semibold text-crown">
          Late by {lateWords(run.late_s)}: {run.why}.
        </p>
      )}
      {onPin &&
        (run.pinned ? (
          <Button plain onClick={() => onPin(null, null)}>
            Unpin it
          </Button>
        ) : (
          <div className="flex items-end gap-2">
            <Select
              label="Keep it on"
              value={machine}
              options={alike.map((m) => [m.key, m.name] as const)}
              onPick={setMachine}
              className="flex-1"
            />
            <Button plain onClick={() => onPin(machine, run.start_s)}>
              Pin it
            </Button>
          </div>
        ))}
    </div>
  );
}
