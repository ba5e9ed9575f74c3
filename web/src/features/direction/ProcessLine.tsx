/** The process the study was made for, and the way to ask again with another. */
import { Popover } from "radix-ui";
import { useState } from "react";

import { ApiProblem, type Part, type Process, api } from "../../api/client";
import { useRefresh, useSend } from "../../api/queries";
import { figure } from "../../domain/figures";
import { Button, Input, Trouble } from "../../ui/controls";

const MATERIALS = [
  ["pla", "PLA"],
  ["petg", "PETG"],
  ["abs", "ABS"],
  ["asa", "ASA"],
  ["pc", "PC"],
  ["pa", "PA (nylon)"],
  ["pa_cf", "PA + chopped carbon"],
  ["tpu", "TPU 95A"],
] as const;

export function ProcessLine({ part, process, mayAsk }: { part: Part; process: Process; mayAsk: boolean }) {
  const refresh = useRefresh();
  const { send, trouble, setTrouble } = useSend();
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState({ limit: "", layer: "", width: "", material: "" });
  const begin = (now: boolean) => {
    setDraft({
      limit: String(process.limit),
      layer: String(process.layer),
      width: String(process.width),
      material: process.material ?? "petg",
    });
    setTrouble(null);
    setOpen(now);
  };
  const ask = async () => {
    const numbers = { limit: Number(draft.limit), layer: Number(draft.layer), width: Number(draft.width) };
    if (Object.values(numbers).some((n) => !Number.isFinite(n))) {
      setTrouble(new ApiProblem(422, "bad_options", "Limit, layer and line must be numbers.", "Write them like 0.2."));
      return;
    }
    if (await send(() => api.orderStudy(part.id, part.version, { ...numbers, material: draft.material }))) setOpen(false);
    await refresh(part);
  };
  const material = MATERIALS.find(([key]) => key === process.material)?.[1] ?? process.material;
  return (
    <Popover.Root open={open} onOpenChange={begin}>
      <Popover.Trigger disabled={!mayAsk} className="narrow border border-bark px-2 hover:bg-raised">
        {material} · layer <span className="figure">{figure(process.layer, 2)}</span> · line <span className="figure">{figure(process.width, 2)}</span> mm · limit{" "}
        <span className="figure">{figure(process.limit, 0)}°</span> <span className="text-second">assumed</span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={6} className="z-10 w-72 space-y-3 border-[1.4px] border-ink bg-raised p-4">
          <p className="font-semibold">Study again with</p>
          <div className="grid grid-cols-3 gap-2">
            <Input label="limit, °" inputMode="decimal" value={draft.limit} onChange={(e) => setDraft({ ...draft, limit: e.target.value })} />
            <Input label="layer, mm" inputMode="decimal" value={draft.layer} onChange={(e) => setDraft({ ...draft, layer: e.target.value })} />
            <Input label="line, mm" inputMode="decimal" value={draft.width} onChange={(e) => setDraft({ ...draft, width: e.target.value })} />
          </div>
          <label className="block">
            <span className="text-second">material</span>
            <select value={draft.material} onChange={(e) => setDraft({ ...draft, material: e.target.value })} className="w-full border border-bark bg-raised px-2 py-1">
              {MATERIALS.map(([key, words]) => (
                <option key={key} value={key}>
                  {words}
                </option>
              ))}
            </select>
          </label>
          <p className="text-second">The limit is counted from the vertical: a wall is 0°, a ceiling 90°. A choice made before stays on record.</p>
          {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
          <Button onClick={() => void ask()}>Study again</Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
