/** What belongs to a record but is no measured number: its name, the machines of a model, the grade, what a capability was measured on, what a size is of. */
import { useState } from "react";

import { type Farm as Library, type FarmRecord, type Kind, type RecordIn } from "../../api/client";
import { choicesOf, itemWords } from "../../domain/records";
import { Input, Select } from "../../ui/controls";
import { useDraft } from "../../ui/draft";

export function Edited({
  label,
  value,
  disabled,
  className,
  onWrite,
}: {
  label: string;
  value: string;
  disabled: boolean;
  className: string;
  onWrite: (value: string) => void;
}) {
  const [text, setText] = useDraft(value);
  return (
    <Input
      label={label}
      className={className}
      disabled={disabled}
      value={text}
      maxLength={400}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && text.trim() !== "" && onWrite(text)}
    />
  );
}

export function Beside({
  row,
  farm,
  may,
  onPut,
}: {
  row: FarmRecord;
  farm: Library;
  may: boolean;
  onPut: (change: Partial<RecordIn>) => Promise<void>;
}) {
  const { record, kind } = row;
  const of = (k: Kind) => choicesOf(farm.records, k);
  if (kind === "material")
    return (
      <div className="mt-1.5 w-[260px]">
        <Select
          label="falls back to the generic grade"
          disabled={!may}
          value={record.grade ?? "petg"}
          options={Object.entries(farm.grades)}
          onPick={(grade) => void onPut({ grade })}
        />
      </div>
    );
  if (kind === "capability")
    return (
      <div className="mt-1.5 grid grid-cols-6 items-end gap-2">
        <Select
          label="machine"
          disabled={!may}
          value={record.machine ?? ""}
          options={[["", "–"], ...of("machine")]}
          onPick={(v) => void onPut({ machine: v || null })}
        />
        <Select
          label="material"
          disabled={!may}
          value={record.material ?? ""}
          options={[["", "–"], ...of("material"), ...Object.entries(farm.grades)]}
          onPick={(v) => void onPut({ material: v || null })}
        />
        <Select
          label="process"
          disabled={!may}
          value={record.profile ?? ""}
          options={[["", "starting values"], ...of("profile")]}
          onPick={(v) => void onPut({ profile: v || null })}
        />
        <Input
          label="measured"
          type="date"
          disabled={!may}
          value={record.measured ?? ""}
          onChange={(e) => void onPut({ measured: e.target.value || null })}
        />
        <Edited
          label="by"
          value={record.operator}
          disabled={!may}
          className=""
          onWrite={(operator) => void onPut({ operator })}
        />
        <Edited
          label="coupons"
          value={record.count?.toString() ?? ""}
          disabled={!may}
          className=""
          onWrite={(v) => void onPut({ count: Number(v) })}
        />
      </div>
    );
  if (kind === "size")
    return (
      <div className="mt-1.5 flex gap-3">
        <Select
          label="it is a"
          disabled={!may}
          value={record.item}
          options={Object.keys(farm.items).map((i) => [i, itemWords(i)] as const)}
          onPick={(item) => void onPut({ item, values: {} })}
        />
        <Edited
          label="of size"
          value={record.size}
          disabled={!may}
          className="w-[120px]"
          onWrite={(size) => void onPut({ size })}
        />
        <p className="self-end pb-1 text-second">
          A job's hardware of this size takes these numbers; what is left empty stays the table's.
        </p>
      </div>
    );
  if (kind !== "machine") return null;
  return (
    <ul className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1" aria-label="Machines of this model">
      {record.machines.map((m) => (
        <li key={m.id} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-ink"
            aria-label={`${m.name} is in service`}
            disabled={!may}
            checked={m.in_service}
            onChange={(e) =>
              void onPut({
                machines: record.machines.map((x) => (x.id === m.id ? { ...x, in_service: e.target.checked } : x)),
              })
            }
          />
          <span className={m.in_service ? "" : "text-second line-through"}>{m.name}</span>
          <select
            aria-label={`How ${m.name} is reached`}
            className="border border-rule bg-raised px-0.5 text-second"
            disabled={!may}
            value={m.reached}
            onChange={(e) =>
              void onPut({
                machines: record.machines.map((x) =>
                  x.id === m.id ? { ...x, reached: e.target.value as typeof x.reached } : x,
                ),
              })
            }
          >
            <option value="by_hand">by hand</option>
            <option value="simulated">simulated farm</option>
            <option value="folder">files in its folder</option>
          </select>
          {may && (
            <button
              type="button"
              className="text-second hover:text-ink"
              aria-label={`Take out ${m.name}`}
              onClick={() => void onPut({ machines: record.machines.filter((x) => x.id !== m.id) })}
            >
              ×
            </button>
          )}
        </li>
      ))}
      {may && (
        <NewMachine
          onAdd={(name) =>
            void onPut({
              machines: [
                ...record.machines,
                { id: crypto.randomUUID().slice(0, 13), name, note: "", in_service: true, reached: "by_hand" },
              ],
            })
          }
        />
      )}
    </ul>
  );
}

function NewMachine({ onAdd }: { onAdd: (name: string) => void }) {
  const [name, setName] = useState("");
  return (
    <li>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) onAdd(name.trim());
          setName("");
        }}
      >
        <input
          aria-label="Name of one more machine"
          placeholder="one more machine"
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
          className="w-36 border border-bark bg-raised px-2 py-0.5"
        />
      </form>
    </li>
  );
}
