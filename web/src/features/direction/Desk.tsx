/** One direction on the desk: its verdict, the specimen, and the decision with its reason. */
import { useState } from "react";

import { type Candidate, type Part, type Study, api } from "../../api/client";
import { useRefresh, useSend, useSession } from "../../api/queries";
import { figure, measure, moment } from "../../domain/figures";
import { verdict } from "../../domain/measures";
import { mayEdit, mayExport } from "../../domain/roles";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { Specimen } from "../../scene/Specimen";
import type { Shape } from "../../scene/shape";
import { Button, Trouble } from "../../ui/controls";
import { LETTERS, SideBySide } from "./SideBySide";

interface Props {
  part: Part;
  study: Study | undefined;
  here: Candidate | null;
  place: number | null;
  up: Vec3;
  shape: Shape | null;
  waiting: boolean;
  pinned: readonly (Candidate | null)[];
  ghost: Shape | null;
  onTake: (candidate: Candidate) => void;
  onPin: (() => void) | null;
  onUnpin: ((place: number) => void) | null;
  trouble: { message: string; hint: string } | null;
}

export function Desk({ part, study, here, place, up, shape, waiting, trouble, pinned, ghost, onTake, onPin, onUnpin }: Props) {
  const lies = pinned.findIndex((c) => c !== null && c === here);
  return (
    <section className="flex min-h-0 min-w-0 flex-col">
      <header className="px-4 pt-3">
        <h2 className="text-[15px] font-bold">
          {here && <span className="figure mr-2 inline-grid h-[21px] w-[21px] place-items-center rounded-full bg-ink text-[11px] text-raised">{place}</span>}
          {directionWords(up)}
          {here && (
            <span className="ml-3 text-[13px] font-normal">
              {lies >= 0 ? (
                <span className="text-second">pinned as {LETTERS[lies]}</span>
              ) : (
                onPin && (
                  <button type="button" className="text-second underline hover:text-ink" onClick={onPin}>
                    pin beside others
                  </button>
                )
              )}
              {study && (
                <a href={api.comparisonAddress(study.id)} target="_blank" rel="noreferrer" className="ml-3 text-second underline hover:text-ink">
                  print the comparison
                </a>
              )}
            </span>
          )}
        </h2>
        <p className="min-h-10 text-[14px]" data-testid="verdict">
          {here ? verdict(here) : waiting ? "Slicing this direction …" : ""}
        </p>
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      </header>
      <div className="min-h-32 flex-1">
        {shape && study ? (
          <Specimen shape={shape} up={up} limit={study.process.limit ?? 45} layer={study.process.layer ?? 0.2} label={`${part.name} standing with ${directionWords(up)}; needing faces in red`} />
        ) : (
          <p className="p-4 text-second">Drawing the part …</p>
        )}
      </div>
      {pinned.length > 0 ? (
        <SideBySide pinned={pinned} here={here} ghost={ghost} limit={study?.process.limit ?? 45} onTake={onTake} onUnpin={onUnpin} />
      ) : (
        here && <Strip here={here} />
      )}
      <Decision part={part} study={study} here={here} />
    </section>
  );
}

function Strip({ here }: { here: Candidate }) {
  const cells: [string, string, string][] = [
    ["steepest", figure(here.worst_overhang_deg, 1), "°"],
    ["support", measure(here.support_volume_mm3), "mm³"],
    ["scar", measure(here.scar_mm2), "mm²"],
    ["contact", measure(here.contact_area_mm2), "mm²"],
    ["stair", figure(here.finish_mm, 3), "mm"],
    ["curl", figure(here.curl, 0), "mm²/MPa"],
  ];
  return (
    <dl className="grid grid-cols-6 border-t border-rule">
      {cells.map(([name, value, unit]) => (
        <div key={name} className="border-r border-rule px-2 py-1 last:border-r-0">
          <dt className="narrow text-[11.5px] text-second">{name}</dt>
          <dd className="figure text-[13px] font-semibold">
            {value} <span className="text-[10.5px] font-normal text-second">{unit}</span>
          </dd>
        </div>
      ))}
    </dl>
  );
}

function Decision({ part, study, here }: { part: Part; study: Study | undefined; here: Candidate | null }) {
  const refresh = useRefresh();
  const role = useSession().data?.role;
  const [reason, setReason] = useState("");
  const { send, busy, trouble } = useSend();
  const choose = async () => {
    if (!study || !here) return;
    if (await send(() => api.choose(study.id, part.version, here.up, reason))) setReason("");
    await refresh(part);
  };
  const choice = part.choice;
  return (
    <footer className="border-t-[1.4px] border-ink bg-raised px-4 py-2.5">
      {choice && (
        <div className="mb-2 flex items-center justify-between gap-4 border-b border-rule pb-2" data-testid="choice">
          <p className="min-w-0">
            <span className="font-semibold">Stands with {directionWords(toVec3(choice.up))}</span>
            <span className="text-second">
              {" "}
              · {choice.by}, {moment(choice.at)} · {choice.alternatives} alternatives kept
            </span>
            <br />
            {choice.stale && <span className="font-semibold text-ochre">Chosen for another process: look again. </span>}
            <span className="italic" title={choice.reason}>“{choice.reason.length > 120 ? `${choice.reason.slice(0, 118)} …` : choice.reason}”</span>
          </p>
          <div className="flex shrink-0 gap-2">
            {mayExport(role) && (["3mf", "stl"] as const).map((kind) => (
              <a key={kind} href={api.fileAddress(part.id, kind)} download className="border border-ink px-3 py-1 font-semibold hover:bg-paper" data-testid={`export-${kind}`}>
                {kind.toUpperCase()}, turned
              </a>
            ))}
          </div>
        </div>
      )}
      {!mayEdit(role) ? (
        <p className="text-second">You are signed in as a {role}. An engineer chooses the direction.</p>
      ) : (
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void choose();
        }}
      >
        <label htmlFor="reason" className="font-semibold">
          {choice ? "Choose another: why?" : "Why this direction?"}
        </label>
        <div className="mt-1 flex items-stretch gap-2">
          <textarea
            id="reason"
            value={reason}
            maxLength={2000}
            rows={2}
            required
            placeholder="What speaks for it, and what was given up"
            onChange={(e) => setReason(e.target.value)}
            className="min-w-0 flex-1 resize-none border border-bark bg-paper px-2 py-1 placeholder:text-second"
          />
          <Button type="submit" disabled={!here || busy || reason.trim().length < 3}>
            Stand it so
          </Button>
        </div>
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
      </form>
      )}
    </footer>
  );
}
