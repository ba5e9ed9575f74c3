/** All parts of the workshop, and the way in for a new one. */
import { useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useRef, useState } from "react";

import { type PartRow, api } from "../../api/client";
import { isOpen, useBin, useParts, useRefresh, useSend, useSession, useWork } from "../../api/queries";
import { moment, size } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { Button, Heading, Input, Progress, Select, StateMark, Trouble } from "../../ui/controls";

const UNITS = [
  ["auto", "as the file says, or by its size"],
  ["mm", "millimetres"],
  ["cm", "centimetres"],
  ["m", "metres"],
  ["in", "inches"],
] as const;

export function Shelf() {
  const parts = useParts();
  const session = useSession();
  const may = mayEdit(session.data?.role);
  const refresh = useRefresh();
  const { send, trouble } = useSend();
  const strike = async (part: PartRow) => {
    await send(() => api.strike(part.sheet));
    await refresh(part);
  };
  return (
    <div className="grid h-full grid-cols-[1fr_380px]">
      <section className="flex min-h-0 flex-col border-r border-ink p-5">
        <Heading
          aside={
            <span className="text-second">
              {parts.data ? `${parts.data.length} ${parts.data.length === 1 ? "part" : "parts"}` : ""}
            </span>
          }
        >
          Parts
        </Heading>
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
        <div className="mt-3 min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Parts">
          {parts.isPending && <p className="text-second">Reading the list …</p>}
          {parts.error && <Trouble message={parts.error.message} hint="Reload the page." />}
          {parts.data?.length === 0 && <p className="text-second">No part yet. Import one on the right.</p>}
          {!!parts.data?.length && (
            <table className="w-full border-collapse">
              <thead className="sticky top-0 bg-paper">
                <tr className="border-b-[1.4px] border-ink text-left text-second">
                  <th className="py-1 pr-3 font-normal">part</th>
                  <th className="pr-3 text-right font-normal">box, mm</th>
                  <th className="pr-3 font-normal">direction</th>
                  <th className="font-normal">imported</th>
                  {may && <th />}
                </tr>
              </thead>
              <tbody>
                {parts.data.map((p) => (
                  <tr key={p.id} className="align-top border-b border-rule hover:bg-raised">
                    <td className="py-2 pr-3">
                      <Link
                        to="/parts/$partId/direction"
                        params={{ partId: p.id }}
                        className="text-[14px] font-semibold hover:underline"
                      >
                        {p.name}
                      </Link>
                      {p.revision > 1 && <span className="figure ml-2 text-[11px] text-second">rev {p.revision}</span>}
                      {p.note && <p className="max-w-[46ch] text-second">{p.note}</p>}
                    </td>
                    <td className="figure py-2 pr-3 text-right">{size(p.size_mm)}</td>
                    <td className="py-2 pr-3">
                      <span className="flex items-center gap-2">
                        <StateMark state={p.settled ? "settled" : "open"} />
                        {p.settled ? "chosen" : "open"}
                      </span>
                    </td>
                    <td className="figure py-2 text-second">{moment(p.created)}</td>
                    {may && (
                      <td className="py-2 pl-2 text-right">
                        <button
                          type="button"
                          className="text-second underline hover:text-ink"
                          aria-label={`Put ${p.name} in the bin`}
                          onClick={() => void strike(p)}
                        >
                          bin
                        </button>
                      </td>
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        <Bin mayEdit={may} />
      </section>
      {mayEdit(session.data?.role) ? (
        <Import />
      ) : (
        <section className="p-5 text-second">
          <Heading>Import a part</Heading>
          <p className="mt-2">
            You are signed in as a {session.data?.role}. An engineer of your workshop brings parts in.
          </p>
        </section>
      )}
    </div>
  );
}

/** What was struck and can still be brought back. */
function Bin({ mayEdit }: { mayEdit: boolean }) {
  const bin = useBin();
  const refresh = useRefresh();
  const { send, trouble } = useSend();
  if (!bin.data?.length) return null;
  return (
    <div className="mt-2 border-t-[1.4px] border-ink pt-2" data-testid="bin">
      <p className="font-semibold">In the bin</p>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <ul className="max-h-28 overflow-y-auto">
        {bin.data.map((p) => (
          <li key={p.id} className="flex items-baseline gap-3 py-0.5">
            <span className="min-w-0 flex-1 truncate">{p.name}</span>
            <span className="text-second">
              {p.by}; kept until {moment(p.until)}
            </span>
            {mayEdit && (
              <button
                type="button"
                className="underline hover:text-moss"
                onClick={() => void send(() => api.bringBack(p.sheet)).then(() => refresh(p))}
              >
                bring back
              </button>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}

function Import() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const [name, setName] = useState("");
  const [revises, setRevises] = useState("");
  const parts = useParts();
  const [units, setUnits] = useState<string>("auto");
  const [order, setOrder] = useState<string>();
  const [refused, setRefused] = useState<{ message: string; hint?: string } | null>(null);
  const { send, busy, trouble, setTrouble } = useSend();
  const [over, setOver] = useState(false);

  const { work } = useWork(order, (done) => {
    setOrder(undefined);
    if (done.result) {
      void client.invalidateQueries({ queryKey: ["parts"] });
      void navigate({ to: "/parts/$partId/direction", params: { partId: String(done.result.part) } });
    } else if (done.problem) {
      setRefused({
        message: `${file?.name ?? "The file"} was not imported. ${done.problem.message}`,
        hint: `${done.problem.hint} Nothing of it was kept.`,
      });
    }
  });

  const pick = (f: File | undefined) => {
    if (!f) return;
    setFile(f);
    setName(f.name.replace(/\.[^.]+$/, "").replace(/[-_]+/g, " "));
    setTrouble(null);
    setRefused(null);
  };
  const orderIt = async () => {
    if (!file) return;
    setRefused(null);
    const work = await send(() => api.importPart(file, name, units, revises));
    setOrder(work?.id);
  };

  return (
    <section className="space-y-4 p-5">
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
          pick(e.dataTransfer.files[0]);
        }}
        className={`border-[1.4px] border-dashed p-6 text-center ${over ? "border-moss bg-raised" : "border-bark"}`}
      >
        <p className="font-semibold">{file ? file.name : "Drop an STL, 3MF, STEP, OBJ or PLY file here"}</p>
        <p className="mb-3 text-second">
          {file ? `${(file.size / 1024).toFixed(0)} KiB` : "up to 200 MiB, 1.5 million triangles"}
        </p>
        <Button plain onClick={() => input.current?.click()}>
          {file ? "Another file" : "Pick a file"}
        </Button>
        <input
          ref={input}
          type="file"
          accept=".stl,.3mf,.step,.stp,.obj,.ply"
          className="sr-only"
          aria-label="File of the part"
          tabIndex={-1}
          onChange={(e) => pick(e.target.files?.[0])}
        />
      </div>
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
      {revises && (
        <p className="text-second">
          Requirements, loads, surface functions and process are taken over; faces are looked for again, and what is not
          found is said.
        </p>
      )}
      <Input label="Name of the part" value={name} maxLength={120} onChange={(e) => setName(e.target.value)} />
      <div>
        <label htmlFor="units" className="block text-second">
          Unit of the file
        </label>
        <select
          id="units"
          value={units}
          onChange={(e) => setUnits(e.target.value)}
          className="w-full border border-bark bg-raised px-2 py-1"
        >
          {UNITS.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </div>
      <Button onClick={() => void orderIt()} disabled={!file || busy || order !== undefined}>
        Import
      </Button>
      {busy && <p className="text-second">Sending the file …</p>}
      {order && (
        <Progress
          doing={work?.doing ?? ""}
          done={work?.done ?? 0}
          total={work?.total ?? 0}
          onCancel={isOpen(work) ? () => void api.cancel(order) : undefined}
        />
      )}
      {(trouble ?? refused) && (
        <Trouble message={(trouble ?? refused)?.message ?? ""} hint={(trouble ?? refused)?.hint} />
      )}
      <p className="text-second">
        Small faults are mended and listed. A file without a unit is read as millimetres when its longest side is 5 to
        2000; otherwise the unit is guessed, and you are asked.
      </p>
    </section>
  );
}
