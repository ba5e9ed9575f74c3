/** The face that was pointed at: what it is, what it shall be called, and what it is for. */
import { useState } from "react";

import type { Job, Sections } from "../../api/client";
import { figure, measure } from "../../domain/figures";
import { faceName, heldOn, named } from "../../domain/loading";
import { axisWords, newId } from "../../domain/needs";
import { toVec3 } from "../../domain/vectors";
import { Button, Input, Tick } from "../../ui/controls";
import { type OnDesk, useDesk } from "./state";

type Held = Job["loads"] & { held: readonly unknown[] };
type Purpose = "keep" | "hold" | "load" | "protect";

interface Props {
  face: OnDesk;
  /** Faces that were taken beside it: they get the same purpose. */
  others: readonly OnDesk[];
  onWide: (wide: boolean) => void;
  onAlike: () => void;
  /** Takes the face behind it; null where there is none. */
  onThrough: (() => void) | null;
  onDone: () => void;
}

export function FaceOnDesk({ face, others, onWide, onAlike, onThrough, onDone }: Props) {
  const { job, write, may, go, setLoadOn, caseId, showCase } = useDesk();
  const known = job.regions.rows.find((r) => r.id === face.region);
  const [name, setName] = useState(faceName(face, job.regions.rows));
  const use = async (purpose: Purpose) => {
    let first = "";
    const done = await write((j) => {
      let rows: Job["regions"]["rows"] = j.regions.rows;
      const ids = [face, ...others].map((f) => {
        const made = named(rows, f, f === face ? name : undefined);
        rows = made.rows as typeof rows;
        return made.id;
      });
      first = ids[0] ?? "";
      const sections: Sections = { regions: { rows } };
      if (purpose === "hold") sections.loads = ids.reduce((loads, id) => heldOn(loads, id), j.loads as Held);
      if (purpose === "protect") {
        const fitted = face.kind === "bore" || face.kind === "pin";
        const duty = { duty: fitted ? "mating" : "no_scar", fit: fitted ? "sliding" : null };
        sections.touching = { rows: [...j.touching.rows, ...ids.map((on) => ({ id: newId(), on, ...duty }))] };
      }
      return sections;
    });
    if (!done) return;
    if (purpose === "load") {
      setLoadOn(first);
      showCase(caseId);
    }
    if (purpose !== "keep") go(purpose === "protect" ? "faces" : "loads");
    onDone();
  };
  return (
    <form
      className="px-4 py-2"
      data-testid="face-on-desk"
      onSubmit={(e) => {
        e.preventDefault();
        void use("keep");
      }}
    >
      <p className="flex items-baseline justify-between gap-3">
        <span>
          <span className="font-semibold">
            {face.kind}
            {face.diameter_mm !== null && (
              <>
                {" "}
                ⌀ <span className="figure">{figure(face.diameter_mm, 2)}</span> mm
              </>
            )}
          </span>{" "}
          <span className="figure">{measure(face.area_mm2)} mm²</span>
          {face.axis && (
            <span className="text-second">
              {" "}
              {face.kind === "flat" ? "faces" : "axis"} {axisWords(toVec3(face.axis))}
            </span>
          )}
          {known && <span className="text-second"> · already “{known.name}”</span>}
          {others.length > 0 && <b data-testid="others"> and {others.length} more</b>}
        </span>
        <span className="narrow ml-auto flex gap-3">
          <button type="button" className="underline" onClick={onAlike}>
            all alike
          </button>
          {onThrough && (
            <button type="button" className="underline" onClick={onThrough}>
              the one behind
            </button>
          )}
        </span>
        <Tick className="narrow gap-1.5" ticked={face.wide} onTick={onWide}>
          {face.kind === "bore" || face.kind === "pin" ? "coaxial faces" : "tangent faces"}
        </Tick>
      </p>
      {may ? (
        <div className="mt-1.5 flex items-end gap-2">
          <Input
            label="called"
            value={name}
            maxLength={80}
            className="min-w-0 flex-1"
            onChange={(e) => setName(e.target.value)}
          />
          <Button onClick={() => void use("hold")} disabled={!name.trim()}>
            Fix
          </Button>
          <Button onClick={() => void use("load")} disabled={!name.trim() || others.length > 0}>
            Apply load
          </Button>
          <Button plain onClick={() => void use("protect")} disabled={!name.trim()}>
            Surface function
          </Button>
          <Button plain type="submit" disabled={!name.trim()}>
            Keep free
          </Button>
        </div>
      ) : (
        <p className="text-second">An engineer names faces and says what they are for.</p>
      )}
    </form>
  );
}
