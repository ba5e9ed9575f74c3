/** One direction on the desk: its verdict, the specimen, and the decision with its reason. */
import { useState } from "react";

import { type Candidate, type Part, type Study, api } from "../../api/client";
import { useBoresIn, useRefresh, useSend, useSession } from "../../api/queries";
import { figure, measure, moment } from "../../domain/figures";
import { holding, verdict } from "../../domain/measures";
import { BREAKS, FITS, isLoaded, wordsOf } from "../../domain/needs";
import { mayEdit, mayExport } from "../../domain/roles";
import { type Vec3, directionWords, dot, sameDirection, toVec3 } from "../../domain/vectors";
import { Arrows, type Label } from "../../scene/Arrows";
import { Specimen } from "../../scene/Specimen";
import { type Shape, floorOf } from "../../scene/shape";
import { Button, Trouble } from "../../ui/controls";
import { LETTERS, SideBySide } from "./SideBySide";
import { TurnBy } from "./TurnBy";

const HELD_INK = {
  fails: "text-crown",
  doubtful: "text-ochre",
  holds: "font-semibold",
  unknown: "font-normal text-second",
} as const;

interface Props {
  part: Part;
  /** Whether the reserves are those of the first, coarse answer. */
  coarse: boolean;
  study: Study | undefined;
  here: Candidate | null;
  place: number | null;
  up: Vec3;
  shape: Shape | null;
  waiting: boolean;
  /** Slices the direction that a link led here to; null where it is sliced, or for those who may not. */
  onAsk: (() => void) | null;
  pinned: readonly (Candidate | null)[];
  ghost: Shape | null;
  onTake: (candidate: Candidate) => void;
  /** Takes a direction to the desk that may be no candidate yet. */
  onTurn: ((up: Vec3) => void) | null;
  onPin: (() => void) | null;
  onUnpin: ((place: number) => void) | null;
  trouble: { message: string; hint: string } | null;
}

export function Desk({
  part,
  coarse,
  study,
  here,
  place,
  up,
  shape,
  waiting,
  onAsk,
  trouble,
  pinned,
  ghost,
  onTake,
  onTurn,
  onPin,
  onUnpin,
}: Props) {
  const held = here && holding(here, isLoaded(part), coarse);
  const lies = pinned.findIndex((c) => c !== null && c === here);
  return (
    <section className="flex min-h-0 min-w-0 flex-col">
      <header className="px-4 pt-3">
        <h2 className="text-[15px] font-bold">
          {here && (
            <span className="figure mr-2 inline-grid h-[21px] w-[21px] place-items-center rounded-full bg-ink text-[11px] text-raised">
              {place}
            </span>
          )}
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
                <a
                  href={api.comparisonAddress(study.id)}
                  target="_blank"
                  rel="noreferrer"
                  className="ml-3 text-second underline hover:text-ink"
                >
                  print the comparison
                </a>
              )}
            </span>
          )}
        </h2>
        <p className="min-h-5 text-[14px]" data-testid="verdict">
          {here ? (
            verdict(here)
          ) : waiting ? (
            "Slicing this direction …"
          ) : onAsk ? (
            <Button onClick={onAsk}>Calculate this direction</Button>
          ) : (
            ""
          )}{" "}
          {held && (
            <b className={HELD_INK[held.state]} data-testid="holds">
              {held.words}
            </b>
          )}
        </p>
        <DutyWords part={part} here={here} up={up} />
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      </header>
      <div className="relative min-h-32 flex-1">
        {onTurn && study && (
          <div className="absolute top-1 right-3 z-[1] bg-paper/85">
            <TurnBy up={up} onTake={onTurn} />
          </div>
        )}
        {shape && study ? (
          <Specimen
            shape={shape}
            up={up}
            limit={study.process.limit ?? 45}
            layer={study.process.layer ?? 0.2}
            over={(picture, width, height) => (
              <Arrows picture={picture} width={width} height={height} arrows={[]} labels={expected(part, up, shape)} />
            )}
            label={`${part.name} standing with ${directionWords(up)}; needing faces in red`}
          />
        ) : (
          <p className="p-4 text-second">Drawing the part …</p>
        )}
      </div>
      {pinned.length > 0 ? (
        <SideBySide
          pinned={pinned}
          here={here}
          ghost={ghost}
          limit={study?.process.limit ?? 45}
          onTake={onTake}
          onUnpin={onUnpin}
        />
      ) : (
        here && <Strip here={here} />
      )}
      <Decision
        part={part}
        study={study}
        here={here}
        warned={held?.state === "fails" || held?.state === "unknown" ? held : null}
      />
    </section>
  );
}

/** Where the engineer expects a break, with its height: to be held against the layer lines. */
function expected(part: Part, up: Vec3, shape: Shape): Label[] {
  const floor = floorOf(shape, up) + dot(shape.centre, up);
  return part.job.requirements.rows.flatMap((r) =>
    r.guess?.spot
      ? [
          {
            id: r.id,
            at: toVec3(r.guess.spot),
            words: `expected: ${wordsOf(BREAKS, r.guess.how)}, z ${figure(dot(toVec3(r.guess.spot), up) - floor, 1)} mm`,
            colour: 0,
            sign: "spot" as const,
          },
        ]
      : [],
  );
}

/** What the job's duties say of this direction, in a line each. */
function DutyWords({ part, here, up }: { part: Part; here: Candidate | null; up: Vec3 }) {
  const fitted = part.job.touching.rows.some((t) => t.fit);
  const bores = useBoresIn(part, [up[0], up[1], up[2]], fitted);
  const words: string[] = [];
  const scar = here?.protected_scar_mm2 ?? 0;
  const plate = here?.protected_plate_mm2 ?? 0;
  if (scar > 0.5) words.push(`${measure(scar)} mm² of a protected face would be scarred by support.`);
  if (plate > 0.5) words.push(`${measure(plate)} mm² of a protected face lies on the plate.`);
  for (const b of (fitted && bores.data) || []) {
    const why =
      b.word === "lying"
        ? `${figure(b.chord_mm, 1)} mm of roof overhangs${b.prints ? (b.round ? "" : ", prints but not round") : ", too wide to bridge"}`
        : b.word === "tilted"
          ? `${figure(b.tilt_deg, 0)}° off the vertical, roof holds itself`
          : "stays round";
    words.push(`${b.name}, ${wordsOf(FITS, b.fit)}: ${b.word}, ${why}.`);
  }
  return words.length ? (
    <p className="narrow" data-testid="duty-words">
      {words.join(" ")}
    </p>
  ) : null;
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
    <dl className="grid grid-cols-6 border-t border-rule max-[1180px]:grid-cols-3">
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

function Decision({
  part,
  study,
  here,
  warned,
}: {
  part: Part;
  study: Study | undefined;
  here: Candidate | null;
  warned: { words: string; state: keyof typeof HELD_INK } | null;
}) {
  const refresh = useRefresh();
  const role = useSession().data?.role;
  const [reason, setReason] = useState("");
  const { send, busy, trouble } = useSend();
  const choose = async (decision: { up: number[]; reason: string } | null) => {
    if (!study || !decision) return;
    if (await send(() => api.choose(study.id, part.version, decision.up, decision.reason))) setReason("");
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
            {choice.stale_because.length > 0 && (
              <span className="font-semibold text-ochre">
                Changed since: {choice.stale_because.join(", ")}. Look again.{" "}
              </span>
            )}
            <span className="italic" title={choice.reason}>
              “{choice.reason.length > 120 ? `${choice.reason.slice(0, 118)} …` : choice.reason}”
            </span>
          </p>
          <div className="flex shrink-0 gap-2">
            {mayExport(role) &&
              (part.exact ? (["3mf", "stl", "step"] as const) : (["3mf", "stl"] as const)).map((kind) => (
                <a
                  key={kind}
                  href={api.fileAddress(part.id, kind)}
                  download
                  className="border border-ink px-3 py-1 font-semibold hover:bg-paper"
                  data-testid={`export-${kind}`}
                >
                  {kind.toUpperCase()}, {kind === "step" ? "as drawn" : "turned"}
                </a>
              ))}
          </div>
        </div>
      )}
      {!choice && part.carried && (
        <div className="mb-2 flex items-center justify-between gap-4 border-b border-rule pb-2" data-testid="carried">
          <p className="min-w-0">
            <b className="text-ochre">To confirm:</b>{" "}
            <span className="font-semibold">stands with {directionWords(toVec3(part.carried.up))}</span>
            <span className="text-second">, as revision {part.carried.revision} did</span>
            <br />
            <span className="italic">“{part.carried.reason}”</span>
          </p>
          {mayEdit(role) && (
            <Button
              disabled={busy || !study?.candidates.some((c) => sameDirection(c.up, part.carried?.up ?? []))}
              onClick={() => void choose(part.carried)}
            >
              Confirm it
            </Button>
          )}
        </div>
      )}
      {!mayEdit(role) ? (
        <p className="text-second">You are signed in as a {role}. An engineer chooses the direction.</p>
      ) : (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void choose(here && { up: here.up, reason });
          }}
        >
          <label htmlFor="reason" className="font-semibold">
            {choice || part.carried ? "Choose another: why?" : "Why this direction?"}
          </label>
          {warned && (
            <span className={`ml-3 ${HELD_INK[warned.state]}`} data-testid="warned">
              {warned.state === "fails" ? `${warned.words} Choose it only with what mends that.` : warned.words}
            </span>
          )}
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
              Use this direction
            </Button>
          </div>
          {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
        </form>
      )}
    </footer>
  );
}
