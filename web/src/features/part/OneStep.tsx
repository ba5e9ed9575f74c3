/** From a part to its first reserve in one step: point at what holds it, point at what loads it, type the load. */
import { useState } from "react";

import type { Part, Pointed } from "../../api/client";
import { useJobWriter } from "../../api/queries";
import { figure, measure } from "../../domain/figures";
import { type Way, faceName, heldOn, loadedBy, named, wayOf, waysOn } from "../../domain/loading";
import { axisWords, wordsOf, HOWS } from "../../domain/needs";
import { toVec3 } from "../../domain/vectors";
import { Button, Input, Select, Trouble } from "../../ui/controls";

/** What the next press on the part says. */
export type Pointing = "hold" | "load" | "measure";

interface Props {
  part: Part;
  may: boolean;
  /** Nothing can be pointed at before the part is. */
  drawn: boolean;
  pointing: Pointing | null;
  onPointing: (to: Pointing | null) => void;
  /** The face that a load is being typed for. */
  face: Pointed | null;
  onFace: (face: Pointed | null) => void;
}

export function OneStep({ part, may, drawn, pointing, onPointing, face, onFace }: Props) {
  const { write, trouble } = useJobWriter(part);
  const { loads, regions } = part.job;
  const called = (id: string | null) => regions.rows.find((r) => r.id === id)?.name ?? "the whole part";
  const turn = (to: Pointing) => {
    onFace(null);
    onPointing(pointing === to ? null : to);
  };
  return (
    <div data-testid="one-step" className="space-y-2">
      <table className="w-full border-collapse">
        <tbody>
          {loads.held.map((h) => (
            <tr key={h.id} className="border-b border-rule">
              <th className="w-16 py-0.5 text-left font-normal text-second">held</th>
              <td>{called(h.on)}</td>
              <td className="text-right text-second">{wordsOf(HOWS, h.how)}</td>
            </tr>
          ))}
          {loads.cases.flatMap((c) =>
            c.loads.map((l) => (
              <tr key={l.id} className="border-b border-rule">
                <th className="py-0.5 text-left font-normal text-second">{c.name}</th>
                <td>{called(l.on ?? null)}</td>
                <td className="text-right">
                  <b className="figure">{l.amount.typed}</b>{" "}
                  <span className="figure text-second">{l.direction ? axisWords(toVec3(l.direction)) : ""}</span>
                </td>
              </tr>
            )),
          )}
        </tbody>
      </table>
      {loads.held.length === 0 && loads.cases.length === 0 && (
        <p className="text-second">
          Nothing holds or loads it yet: without that its strength is not known, and no wall is advised.
        </p>
      )}
      {may && (
        <div className="flex gap-2">
          <Button
            plain={pointing !== "hold"}
            disabled={!drawn}
            aria-pressed={pointing === "hold"}
            onClick={() => turn("hold")}
          >
            Fix a face
          </Button>
          <Button
            plain={pointing !== "load"}
            disabled={!drawn}
            aria-pressed={pointing === "load"}
            onClick={() => turn("load")}
          >
            Load a face
          </Button>
        </div>
      )}
      {face && pointing === "load" && (
        <LoadOn
          key={JSON.stringify(face.shape)}
          part={part}
          face={face}
          onSave={async (amount, way) => {
            const load = { kind: "force", amount, direction: wayOf(way, face), words: way };
            const done = await write((j) => {
              const { id, rows } = named(j.regions.rows, face);
              return { regions: { rows }, loads: loadedBy(j.loads, { ...load, on: id }, null, "") };
            });
            if (!done) return;
            onFace(null);
            onPointing(null);
          }}
          onLeave={() => onFace(null)}
        />
      )}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
    </div>
  );
}

/** Writes a face that was pointed at as one that holds the part. */
export const holdOn = (face: Pointed) => (job: Part["job"]) => {
  const { id, rows } = named(job.regions.rows, face);
  return { regions: { rows }, loads: heldOn(job.loads, id) };
};

function LoadOn({
  part,
  face,
  onSave,
  onLeave,
}: {
  part: Part;
  face: Pointed;
  onSave: (amount: string, way: Way) => Promise<void>;
  onLeave: () => void;
}) {
  const ways = waysOn(face);
  const [amount, setAmount] = useState("");
  const [way, setWay] = useState<Way>(ways[0] ?? "−z");
  return (
    <form
      className="grid grid-cols-[1fr_150px_auto] items-end gap-2 border-l-4 border-ink bg-raised px-3 py-2"
      data-testid="load-on"
      onSubmit={(e) => {
        e.preventDefault();
        if (amount.trim()) void onSave(amount, way);
      }}
      onKeyDown={(e) => e.key === "Escape" && onLeave()}
    >
      <p className="col-span-3">
        On <b>{faceName(face, part.job.regions.rows)}</b>{" "}
        <span className="figure text-second">
          {face.diameter_mm !== null && `⌀ ${figure(face.diameter_mm, 2)} mm, `}
          {measure(face.area_mm2)} mm²
        </span>
      </p>
      <Input
        autoFocus
        label="force with unit"
        value={amount}
        placeholder="120 N"
        onChange={(e) => setAmount(e.target.value)}
      />
      <Select
        label="which way"
        value={way}
        options={ways.map((w) => [w, w] as const)}
        onPick={(to) => setWay(to as Way)}
      />
      <Button type="submit" disabled={!amount.trim()}>
        Save
      </Button>
    </form>
  );
}
