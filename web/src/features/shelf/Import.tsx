/** The way in for parts: one file, or many at once, each with its own progress and outcome. */
import { useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useRef, useState } from "react";

import { api } from "../../api/client";
import { useParts, useSend, useWork } from "../../api/queries";
import { isOpen } from "../../domain/work";
import { Button, Heading, Input, Progress, Select, Trouble } from "../../ui/controls";

const UNITS = [
  ["auto", "as the file says, or by its size"],
  ["mm", "millimetres"],
  ["cm", "centimetres"],
  ["m", "metres"],
  ["in", "inches"],
] as const;

/** A file that was sent, and the work that reads it. */
interface Sent {
  file: string;
  work: string;
}

const nameOf = (file: File) => file.name.replace(/\.[^.]+$/, "").replace(/[-_]+/g, " ");
const sizeOf = (file: File) => `${(file.size / 1024).toFixed(0)} KiB`;

export function Import() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [files, setFiles] = useState<readonly File[]>([]);
  const [name, setName] = useState("");
  const [revises, setRevises] = useState("");
  const parts = useParts();
  const [units, setUnits] = useState<string>("auto");
  const [sent, setSent] = useState<readonly Sent[]>([]);
  const { send, busy, trouble, setTrouble } = useSend();
  const [over, setOver] = useState(false);
  const [first] = files;
  const several = files.length > 1;

  const pick = (picked: FileList | null) => {
    if (!picked?.length) return;
    setFiles([...picked]);
    setName(picked.length === 1 && picked[0] ? nameOf(picked[0]) : "");
    setTrouble(null);
    setSent([]);
  };
  const bring = async () => {
    setSent([]);
    for (const file of files) {
      const work = await send(() => api.importPart(file, several ? nameOf(file) : name, units, several ? "" : revises));
      if (!work) break;
      setSent((now) => [...now, { file: file.name, work: work.id }]);
      void client.invalidateQueries({ queryKey: ["queue"] });
    }
  };
  const here = (part: string) => {
    if (!several) void navigate({ to: "/parts/$partId/facts", params: { partId: part } });
  };

  return (
    <section className="min-h-0 space-y-4 overflow-y-auto p-5">
      <Heading>Import a part</Heading>
      <div
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          pick(e.dataTransfer.files);
        }}
        className={`border-[1.4px] border-dashed p-6 text-center ${over ? "border-moss bg-raised" : "border-bark"}`}
      >
        <p className="font-semibold">
          {several ? `${files.length} files` : first ? first.name : "Drop STL, 3MF, STEP, OBJ or PLY files here"}
        </p>
        <p className="mb-3 text-second">
          {several
            ? files.map((f) => f.name).join(", ")
            : first
              ? sizeOf(first)
              : "up to 200 MiB and 1.5 million triangles each"}
        </p>
        <Button plain onClick={() => input.current?.click()}>
          {first ? "Other files" : "Pick files"}
        </Button>
        <input
          ref={input}
          type="file"
          multiple
          accept=".stl,.3mf,.step,.stp,.obj,.ply"
          className="sr-only"
          aria-label="Files of parts"
          tabIndex={-1}
          onChange={(e) => {
            pick(e.target.files);
            e.target.value = ""; // the same file can be picked once more
          }}
        />
      </div>
      {!several && (
        <Select
          label="It is"
          value={revises}
          options={[
            ["", "a new part"],
            ...(parts.data ?? []).map(
              (p) => [p.id, `a revision of ${p.name}${p.revision > 1 ? `, rev ${p.revision}` : ""}`] as const,
            ),
          ]}
          onPick={setRevises}
        />
      )}
      {!several && revises && (
        <p className="text-second">
          Requirements, loads, surface functions and process are taken over; faces are looked for again, and what is not
          found is said.
        </p>
      )}
      {several ? (
        <p className="text-second">Each becomes a new part, named after its file.</p>
      ) : (
        <Input label="Name of the part" value={name} maxLength={120} onChange={(e) => setName(e.target.value)} />
      )}
      <Select label="Unit of the file" value={units} options={UNITS} onPick={setUnits} />
      <Button onClick={() => void bring()} disabled={!first || busy}>
        Import
      </Button>
      {busy && <p className="text-second">Sending the file …</p>}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {sent.length > 0 && (
        <ul className="space-y-2" data-testid="sent">
          {sent.map((s) => (
            <Outcome key={s.work} sent={s} named={several} onPart={here} />
          ))}
        </ul>
      )}
      <p className="text-second">
        Small faults are repaired and listed. A file without a unit is read as millimetres when its longest side is 5 to
        2000; otherwise the unit is guessed, and you are asked.
      </p>
    </section>
  );
}

/** What became of one file. */
function Outcome({ sent, named, onPart }: { sent: Sent; named: boolean; onPart: (part: string) => void }) {
  const client = useQueryClient();
  const { work } = useWork(sent.work, (done) => {
    if (!done.result) return;
    void client.invalidateQueries({ queryKey: ["parts"] });
    onPart(String(done.result.part));
  });
  const part = work?.result?.part;
  return (
    <li>
      {named && <p className="font-semibold">{sent.file}</p>}
      {work?.note && <p className="text-ochre">{work.note}</p>}
      {(!work || isOpen(work)) && (
        <Progress
          doing={work?.doing ?? ""}
          done={work?.done ?? 0}
          total={work?.total ?? 0}
          onCancel={work ? () => void api.cancel(work.id) : undefined}
        />
      )}
      {work?.state === "cancelled" && <p className="text-second">Stopped. Nothing of it was kept.</p>}
      {work?.problem && (
        <Trouble
          message={`${sent.file} was not imported. ${work.problem.message}`}
          hint={`${work.problem.hint} Nothing of it was kept.`}
        />
      )}
      {named && typeof part === "string" && (
        <Link to="/parts/$partId/facts" params={{ partId: part }} className="underline">
          open it
        </Link>
      )}
    </li>
  );
}
