/** The unit of a file that names none: asked before anything else, with the size that each would make of the part. */
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { type Part, type UnitWord, api } from "../../api/client";
import { useRefresh, useSend, useWork } from "../../api/queries";
import { measure } from "../../domain/figures";
import { isOpen } from "../../domain/work";
import { Button, Progress, Trouble } from "../../ui/controls";

const UNITS: readonly (readonly [UnitWord, number])[] = [
  ["mm", 1],
  ["cm", 10],
  ["m", 1000],
  ["in", 25.4],
];

export function UnitAsked({ part, mayEdit }: { part: Part; mayEdit: boolean }) {
  const refresh = useRefresh();
  const client = useQueryClient();
  const { send, busy, trouble } = useSend();
  const [order, setOrder] = useState<string>();
  const { work } = useWork(order, () => {
    setOrder(undefined);
    void client.invalidateQueries();
  });
  const asked = part.unit_asked;
  if (!asked) return null;
  const choices = UNITS.some(([, mm]) => mm === asked.scale_mm)
    ? UNITS
    : [["as read", asked.scale_mm] as const, ...UNITS];
  const say = async (units: UnitWord) => {
    const result = await send(() => api.sayUnit(part.id, units));
    if (result?.work) setOrder(result.work.id);
    else if (result) await refresh(part);
  };
  return (
    <div
      className="border-b-[1.4px] border-ink bg-raised px-4 py-2"
      role="group"
      aria-label="Unit of the file"
      data-testid="unit-asked"
    >
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <p>
          <b className="text-ochre">Which unit?</b> The file names none. How long is the part?
        </p>
        {choices.map(([units, mm]) => {
          const read = mm === asked.scale_mm;
          return (
            <Button
              key={units}
              plain={!read}
              disabled={!mayEdit || busy || isOpen(work ?? undefined)}
              onClick={() => void say(units)}
            >
              <span className="figure">{measure(asked.longest * mm)} mm</span> ·{" "}
              {units === "as read" ? "as it was read" : units}
              {read && units !== "as read" && ", as it was read"}
            </Button>
          );
        })}
      </div>
      {work && isOpen(work) && <Progress doing={work.doing} done={work.done} total={work.total} />}
      {work?.problem && <Trouble message={work.problem.message} hint={work.problem.hint} />}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
    </div>
  );
}
