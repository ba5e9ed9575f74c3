/** What the head says of a part: its name, which an engineer may change, its revision and size, and its history. */
import { useState } from "react";

import { type Part, api } from "../api/client";
import { useMayWrite, usePart, useRefresh, useSend } from "../api/queries";
import { size } from "../domain/figures";
import { FormPopover } from "../ui/FormPopover";
import { Input } from "../ui/controls";
import { JobHistory } from "./History";

export function PartHistory({ id }: { id: string }) {
  const { data } = usePart(id);
  return data ? <JobHistory key={id} part={data} /> : null;
}

export function PartHead({ id }: { id: string }) {
  const { data } = usePart(id);
  if (!data) return null;
  return (
    <span className="flex items-baseline gap-4">
      <TitleEdit key={id} part={data} />
      {data.revision > 1 && <span className="figure text-second">rev {data.revision}</span>}
      <span className="figure border border-bark px-2 max-sm:hidden">{size(data.size_mm)} mm</span>
    </span>
  );
}

const listed = (words: string): string[] =>
  words
    .split(",")
    .map((w) => w.trim())
    .filter(Boolean);

/** The part's name; for an engineer a way to change it and the note. */
function TitleEdit({ part }: { part: Part }) {
  const may = useMayWrite(part);
  const refresh = useRefresh();
  const { send, busy, trouble, setTrouble } = useSend();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState(part.name);
  const [note, setNote] = useState(part.note);
  const [labels, setLabels] = useState(part.labels.join(", "));
  // The edition that was read when the form was opened: what others write meanwhile is not written over.
  const [base, setBase] = useState(part.version);
  if (!may) return <span className="text-[14px] font-bold">{part.name}</span>;
  const write = async () => {
    if (await send(() => api.writeJob(part.id, base, { title: { name, note, labels: listed(labels) } })))
      setOpen(false);
    await refresh(part);
  };
  return (
    <FormPopover
      label="Name, note and labels"
      open={open}
      onOpen={(now) => {
        setOpen(now);
        setName(part.name);
        setNote(part.note);
        setLabels(part.labels.join(", "));
        setBase(part.version);
        setTrouble(null);
      }}
      trigger={{
        className: "text-[14px] font-bold hover:underline",
        title: "Change name, note and labels",
        children: part.name,
      }}
      onSave={write}
      busy={busy}
      trouble={trouble}
      wide="w-[380px]"
    >
      <Input label="Name of the part" value={name} maxLength={120} required onChange={(e) => setName(e.target.value)} />
      <Input
        label="Labels, with commas between them"
        value={labels}
        maxLength={400}
        placeholder="gate, spare"
        onChange={(e) => setLabels(e.target.value)}
      />
      <label className="block">
        <span className="text-second">Note</span>
        <textarea
          rows={4}
          maxLength={4000}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          className="w-full resize-none border border-bark bg-paper px-2 py-1"
        />
      </label>
    </FormPopover>
  );
}
