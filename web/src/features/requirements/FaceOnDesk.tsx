/** The face that was pointed at: what it is, what it shall be called, and what it is for. */
import { useState } from "react";

import type { Job, Sections } from "../../api/client";
import { figure, measure } from "../../domain/figures";
import { faceName, heldOn } from "../../domain/loading";
import { axisWords, freeColour, newId } from "../../domain/needs";
import { toVec3 } from "../../domain/vectors";
import { Button, Input, Tick } from "../../ui/controls";
import { type OnDesk, useDesk } from "./state";

type Purpose = "keep" | "hold" | "load" | "protect";

export function FaceOnDesk({
  face,
  onWide,
  onDone,
}: {
  face: OnDesk;
  onWide: (wide: boolean) => void;
  onDone: () => void;
}) {
  const { job, write, may, go, setLoadOn, caseId, showCase } = useDesk();
  const known = job.regions.rows.find((r) => r.id === face.region);
  const [name, setName] = useState(faceName(face, job.regions.rows));
  const use = async (purpose: Purpose) => {
    const region = known?.id ?? newId();
    const rows = (j: Job) =>
      known
        ? j.regions.rows.map((r) => (r.id === region ? { ...r, name } : r))
        : [...j.regions.rows, { id: region, name, colour: freeColour(j.regions.rows), shape: face.shape }];
    const done = await write((j) => {
      const sections: Sections = { regions: { rows: rows(j) } };
      if (purpose === "hold") sections.loads = heldOn(j.loads, region);
      if (purpose === "protect") {
        const fitted = face.kind === "bore" || face.kind === "pin";
        sections.touching = {
          rows: [
            ...j.touching.rows,
            { id: newId(), on: region, duty: fitted ? "mating" : "no_scar", fit: fitted ? "sliding" : null },
          ],
        };
      }
      return sections;
    });
    if (!done) return;
    if (purpose === "load") {
      setLoadOn(region);
      showCase(caseId);
    }
    if (purpose !== "keep") go(purpose === "protect" ? "faces" : "loads");
    onDone();
  };
  return (
    <form
      className="border-t-[1.4px] border-ink bg-raised px-4 py-2.5"
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
          <Button onClick={() => void use("load")} disabled={!name.trim()}>
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
