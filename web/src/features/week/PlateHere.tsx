/** The plate that is looked at: where and when, what makes it late, how its print goes, and whether it stays there. */
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { type Week, weekApi } from "../../api/week";
import { longTime } from "../../domain/batch";
import { dayAndTime, lateWords } from "../../domain/week";
import { Button, Select } from "../../ui/controls";
import { Printing } from "./Printing";

interface Props {
  run: Week["runs"][number];
  plan: Week;
  /** Does something at the machine; null for those who may not. */
  onChange: ((call: () => Promise<unknown>) => Promise<void>) | null;
  /** Pins it, or with nothing lets planning have it again. */
  onPin: ((machine: string | null, start: number | null) => void) | null;
}

export function PlateHere({ run, plan, onChange, onPin }: Props) {
  const [machine, setMachine] = useState(run.machine);
  const own = plan.machines.find((m) => m.key === run.machine);
  const alike = plan.machines.filter((m) => m.model === own?.model && !m.out);
  const holds = plan.runs.some((r) => r.print && r.machine === machine);
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
      {run.print && <Printing print={run.print} copies={run.copies} reached={own?.reached ?? ""} onChange={onChange} />}
      {!run.print && (onChange ?? onPin) && (
        <>
          <Select
            label="Machine"
            value={machine}
            options={alike.map((m) => [m.key, m.loaded ? `${m.name}, ${m.loaded}` : m.name] as const)}
            onPick={setMachine}
          />
          <div className="flex flex-wrap gap-2">
            {onChange && (
              <Button
                disabled={holds}
                title={holds ? "It holds a plate; take that off first" : undefined}
                onClick={() => void onChange(() => weekApi.start(run.order, run.number, machine))}
              >
                Start now
              </Button>
            )}
            {onPin &&
              (run.pinned ? (
                <Button plain onClick={() => onPin(null, null)}>
                  Unpin it
                </Button>
              ) : (
                <Button plain onClick={() => onPin(machine, run.start_s)}>
                  Pin it
                </Button>
              ))}
          </div>
        </>
      )}
      <p className="space-x-3">
        <Link
          to="/plates/$order/$number"
          params={{ order: run.order, number: String(run.number) }}
          className="underline"
        >
          traveller
        </Link>
        {onChange && (
          <a href={`/api/floor/plates/${run.order}/${run.number}/file`} className="underline">
            plate (3MF)
          </a>
        )}
      </p>
    </div>
  );
}
