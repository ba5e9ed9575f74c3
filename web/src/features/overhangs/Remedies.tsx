/** What would remove the need for support, done on the solid: each step on or off, before beside after, revisions. */
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import {
  type Part,
  type Proposal,
  type RecipeStep,
  type Remedies as Known,
  type Remedy,
  type RemedyLook,
  type Revision,
  api,
} from "../../api/client";
import { useRemedyNames } from "../../api/queries";
import { useTaking } from "../../api/recipe";
import { useStage } from "../../api/stage";
import type { NumberKey } from "../../domain/explained";
import { clock, figure, hours, measure } from "../../domain/figures";
import { KINDS } from "../../domain/layers";
import { samePlace, stepAt } from "../../domain/recipe";
import { writeDirection } from "../../domain/vectors";
import { isOpen } from "../../domain/work";
import { ExactToo } from "../../ui/ExactToo";
import { Named } from "../../ui/Explained";
import { StageState } from "../../ui/StageHeader";
import { Button, Progress, Select } from "../../ui/controls";
import { Numbers, useLook } from "./Numbers";

interface Props {
  part: Part;
  known: Known | undefined;
  may: boolean;
  /** The remedy looked at, by its number among those done. */
  here: number | null;
  onHere: (remedy: Remedy, number: number) => void;
  /** A remedy whose numbers are being changed is seen before it is worked out. */
  onLook: (look: RemedyLook | null) => void;
}

export function Remedies({ part, known, may, here, onHere, onLook }: Props) {
  const navigate = useNavigate();
  const { calculate, trouble, onStop } = useStage(part, "remedies");
  const taking = useTaking((partId) => void navigate({ to: "/parts/$partId/overhangs", params: { partId } }));
  const proposal = known?.proposal ?? null;
  const order = (steps: readonly RecipeStep[] | null) => calculate(() => api.calculateRemedies(part.id, steps));
  const busy = proposal !== null && isOpen(proposal.work);
  return (
    <div className="space-y-3 py-2" data-testid="remedies">
      <StageState
        result={known?.proposal}
        complete={!!proposal?.after}
        verb="Calculate remedies"
        onCalculate={may ? () => order(null) : null}
        onStop={onStop}
        trouble={trouble ?? taking.trouble}
        about="Teardrops, roofs, gussets, chamfers and posts are made on the solid itself; each is proved by checking the layers again, or taken back."
      />
      {proposal?.after && proposal.before && <BeforeAfter proposal={proposal} />}
      {proposal?.uncalculated && <p className="text-ochre">{proposal.uncalculated}</p>}
      {proposal?.after && (
        <Steps
          key={proposal.id}
          part={part}
          proposal={proposal}
          choices={known?.choices ?? {}}
          may={may && !busy}
          here={here}
          onHere={onHere}
          onLook={onLook}
          onOrder={(steps) => void order(steps)}
        />
      )}
      {proposal?.after && <ExactToo uncarried={proposal.uncarried} inexact={proposal.inexact} />}
      {proposal?.after && (
        <div className="flex items-baseline gap-3">
          {proposal.taken ? (
            <Link to="/parts/$partId/overhangs" params={{ partId: proposal.taken }} className="underline">
              the revision made of it
            </Link>
          ) : (
            may &&
            proposal.stale_because.length === 0 &&
            !busy &&
            proposal.applied.length > 0 && (
              <Button onClick={() => void taking.take(proposal.id)} disabled={taking.busy}>
                Take as a revision
              </Button>
            )
          )}
          <a href={api.changesAddress(proposal.id)} className="underline" download>
            the changes in words
          </a>
        </div>
      )}
      {taking.work && <Progress doing={taking.work.doing} done={taking.work.done} total={taking.work.total} />}
      {known && known.revisions.length > 0 && (
        <Revisions rows={known.revisions} may={may && !busy} onRecipe={(steps) => void order(steps)} />
      )}
    </div>
  );
}

type Reading = number | null;
/** A reserve that fails, required factor and knock-downs in it. */
const LOW = (v: Reading): boolean => v !== null && v < 1;
const FIGURES: readonly [
  string,
  string,
  (s: NonNullable<Proposal["after"]>) => Reading,
  (v: Reading) => string,
  ((v: Reading) => boolean)?,
  NumberKey?,
][] = [
  ["regions that need support", "", (s) => s.wanting, (v) => figure(v, 0), (v) => (v ?? 0) > 0, "needs_support"],
  ["support under all that hangs", "mm³", (s) => s.support_volume_mm3, measure],
  ["overhang", "mm²", (s) => s.overhang_area_mm2, measure, undefined, "overhang"],
  ["volume", "mm³", (s) => s.volume_mm3, measure, undefined, "volume_change"],
  ["plastic", "g", (s) => s.grams, measure, undefined, "mass"],
  ["time of one copy", "h:mm:ss", (s) => s.seconds, clock, undefined, "time"],
  ["least reserve, coarse", "", (s) => s.reserve, (v) => figure(v, 2), LOW, "reserve"],
];

function BeforeAfter({ proposal }: { proposal: Proposal }) {
  const { before, after } = proposal;
  if (!before || !after) return null;
  return (
    <table className="w-full border-collapse" data-testid="before-after">
      <thead>
        <tr className="narrow border-b-[1.4px] border-ink text-right text-second">
          <th className="text-left font-normal">{proposal.up_words}</th>
          <th className="font-normal">before</th>
          <th className="font-normal">after</th>
          <th className="w-11 font-normal" />
        </tr>
      </thead>
      <tbody>
        {FIGURES.filter(([, , of]) => of(after) !== null).map(([name, unit, of, write, fails, key]) => (
          <tr key={name} className="border-b border-rule text-right">
            <td className="narrow text-left text-second">
              <Named of={key}>{name}</Named>
            </td>
            <td className={`figure ${fails === LOW && LOW(of(before)) ? "text-crown" : ""}`}>{write(of(before))}</td>
            <td className={`figure font-semibold ${fails?.(of(after)) ? "text-crown" : ""}`}>{write(of(after))}</td>
            <td className="figure pl-1 text-left text-[11px] text-second">{unit}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface StepsProps {
  part: Part;
  proposal: Proposal;
  choices: Known["choices"];
  may: boolean;
  here: number | null;
  onHere: (remedy: Remedy, number: number) => void;
  onLook: (look: RemedyLook | null) => void;
  onOrder: (steps: RecipeStep[]) => void;
}

const AT_THE_PLATE = stepAt("foot_chamfer", "plate", [0, 0, 0]);

function Steps({ part, proposal, choices, may, here, onHere, onLook, onOrder }: StepsProps) {
  const [steps, setSteps] = useState(proposal.steps);
  const changed = JSON.stringify(steps) !== JSON.stringify(proposal.steps);
  const [tried, setTried] = useState<number | null>(null);
  const looked = useLook(part, tried === null ? null : (steps[tried] ?? null), onLook);
  const change = (i: number, to: Partial<RecipeStep>) => {
    setSteps(steps.map((x, k) => (k === i ? { ...x, ...to } : x)));
    if (!("on" in to)) setTried(i);
  };
  const named = useRemedyNames();
  const done = (s: RecipeStep) => proposal.applied.findIndex((a) => samePlace(s, a));
  return (
    <div>
      <p className="flex items-baseline border-b-[1.4px] border-ink pb-0.5 font-semibold">
        {proposal.applied.length} {proposal.applied.length === 1 ? "remedy" : "remedies"} done
        {changed && may && (
          <button type="button" className="ml-auto font-normal underline" onClick={() => onOrder(steps)}>
            Calculate with these
          </button>
        )}
      </p>
      {steps.length === 0 && (
        <p className="py-1 text-second" data-testid="none-done">
          {proposal.left.length === 0 ? (
            "Nothing needs a remedy in this direction."
          ) : (
            <>
              No remedy cures what hangs in this direction; each says below why. Look at{" "}
              <Link to="/parts/$partId/direction" params={{ partId: part.id }} className="underline hover:text-ink">
                other directions
              </Link>{" "}
              as they are after remedies, or make it of{" "}
              <Link to="/parts/$partId/pieces" params={{ partId: part.id }} className="underline hover:text-ink">
                several pieces
              </Link>
              .
            </>
          )}
        </p>
      )}
      {steps.map((s, i) => {
        const number = done(s);
        const row = proposal.applied[number];
        const open = row !== undefined && number === here;
        return (
          <div key={i} className={`border-b border-rule ${open ? "bg-lit/60" : ""}`} data-step={s.key} data-on={s.on}>
            <div className="grid grid-cols-[20px_1fr_auto] items-baseline gap-x-1 py-1">
              <input
                type="checkbox"
                checked={s.on}
                disabled={!may}
                aria-label={`${named(s.key).title} ${i + 1}`}
                onChange={(e) => change(i, { on: e.target.checked })}
              />
              <button
                type="button"
                className="text-left hover:underline"
                aria-expanded={open}
                disabled={row === undefined}
                onClick={() => row && onHere(row, number)}
              >
                <b>{named(s.key).title}</b> <span className="text-second">{KINDS[s.kind]}</span>
                {row && <span className="figure pl-2 text-[11px] text-second">{figure(row.z_mm, 1)} mm up</span>}
              </button>
              <span className="figure pr-1 text-right">
                {row ? gained(named(row.key).from_core, row) : s.on ? "not done" : "off"}
              </span>
            </div>
            {open && (
              <div className="pb-2 pl-[24px] pr-2">
                <p>
                  {row.words}{" "}
                  <span className="text-second">
                    Adds {measure(row.volume_added_mm3)} mm³, takes {measure(row.volume_removed_mm3)} mm³ away
                    {named(row.key).hand ? `; ${named(row.key).hand}` : ""}.
                  </span>
                </p>
                {may && (
                  <Numbers
                    step={s}
                    known={tried === i && looked?.parameters.length ? looked.parameters : row.parameters}
                    choices={choices[s.kind] ?? []}
                    look={tried === i ? looked : null}
                    onChange={(to) => change(i, to)}
                  />
                )}
              </div>
            )}
          </div>
        );
      })}
      {may && !steps.some((s) => s.kind === "plate") && (
        <button type="button" className="py-1 text-left underline" onClick={() => onOrder([...steps, AT_THE_PLATE])}>
          also chamfer the edges on the plate, against the first layer&apos;s bulge
        </button>
      )}
      {proposal.unfit.map((u, i) => (
        <p key={i} className="border-b border-rule py-1 text-ochre" data-testid="unfit">
          <b>{named(u.key).title}</b> not done: {u.why}
        </p>
      ))}
      {proposal.questions.map((q, i) => (
        <div key={i} className="border-b border-rule py-1" data-testid="question">
          <p>
            <b className="text-ochre">{named(q.key).title}</b> <span className="text-second">{KINDS[q.kind]}</span>{" "}
            would fill <span className="figure">{measure(q.filled_mm3)}</span> mm³ of the {q.space}. Does anything run,
            turn or sit there?
          </p>
          {may && (
            <button
              type="button"
              className="underline"
              onClick={() => onOrder([...steps, { ...stepAt(q.key, q.kind, q.centre_mm), may_fill: true }])}
            >
              Nothing does: add it all the same
            </button>
          )}
        </div>
      ))}
      {proposal.better && (
        <p className="border-l-4 border-ochre-mark bg-raised px-3 py-1" data-testid="better">
          {proposal.better.words}{" "}
          <Link
            to="/parts/$partId/direction"
            params={{ partId: part.id }}
            search={{ up: writeDirection(proposal.better.up) }}
            className="underline"
          >
            Look at it
          </Link>
        </p>
      )}
      {proposal.left.map((row, i) => (
        <details key={i} className="border-b border-rule py-1" data-testid="left">
          <summary className="cursor-pointer">
            <b className="text-crown">Left: {KINDS[row.kind]}</b>{" "}
            <span className="figure text-[11px] text-second">
              {figure(row.z_mm, 1)} mm up · {measure(row.area_mm2)} mm²
            </span>
          </summary>
          {row.why.map((w) => (
            <p key={w} className="pl-[14px] text-second">
              {w}
            </p>
          ))}
        </details>
      ))}
    </div>
  );
}

/** The part's revisions as a tree, their figures side by side. */
function Revisions({
  rows,
  may,
  onRecipe,
}: {
  rows: readonly Revision[];
  may: boolean;
  onRecipe: (steps: RecipeStep[]) => void;
}) {
  const number = new Map(rows.map((r) => [r.id, r.revision]));
  const others = rows.filter((r) => !r.here && !!r.recipe?.length);
  return (
    <div data-testid="revisions">
      <table className="w-full border-collapse">
        <thead>
          <tr className="narrow border-b-[1.4px] border-ink text-right align-bottom text-second">
            <th className="text-left font-semibold text-ink">Revisions</th>
            <th className="font-normal" title="regions that need support">
              open
            </th>
            <th className="font-normal">support mm³</th>
            <th className="font-normal">volume mm³</th>
            <th className="font-normal">h:mm</th>
            <th className="font-normal" title="least reserve in its direction">
              reserve
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr
              key={r.id}
              className={`border-b border-rule text-right ${r.here ? "bg-raised font-semibold" : ""}`}
              data-revision={r.revision}
            >
              <td className="narrow text-left">
                {r.here ? (
                  <span>rev {r.revision}</span>
                ) : (
                  <Link to="/parts/$partId/overhangs" params={{ partId: r.id }} className="underline">
                    rev {r.revision}
                  </Link>
                )}{" "}
                <span className="font-normal text-second">
                  {r.piece ??
                    (r.scale
                      ? `× ${figure(r.scale, 2)}`
                      : r.steps === null
                        ? "from a file"
                        : `${r.steps} ${r.steps === 1 ? "remedy" : "remedies"}`)}
                  {r.before && number.has(r.before) && ` on ${number.get(r.before)}`}
                </span>
              </td>
              <td className={`figure ${r.wanting ? "text-crown" : ""}`}>{r.wanting ?? "–"}</td>
              <td className="figure">{r.support_volume_mm3 === null ? "–" : measure(r.support_volume_mm3)}</td>
              <td className="figure">{r.volume_mm3 === null ? "–" : measure(r.volume_mm3)}</td>
              <td className="figure">{r.seconds === null ? "–" : hours(r.seconds)}</td>
              <td className={`figure ${r.reserve !== null && r.reserve < 1 ? "text-crown" : ""}`}>
                {r.reserve === null ? "–" : figure(r.reserve, 2)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {may && others.length > 0 && (
        <Select
          label="Do the steps of another revision here"
          value=""
          options={[
            ["", "choose a revision"],
            ...others.map((r) => [r.id, `rev ${r.revision}, ${r.recipe?.length ?? 0} steps`] as const),
          ]}
          onPick={(id) => {
            const found = others.find((r) => r.id === id);
            if (found?.recipe) onRecipe(found.recipe);
          }}
        />
      )}
    </div>
  );
}

/** What a remedy adds or takes: plastic, or room where it takes from a core that is mostly air. */
const gained = (
  room: boolean,
  row: { grams: number; volume_added_mm3: number; volume_removed_mm3: number },
): string => {
  const value = room ? (row.volume_added_mm3 - row.volume_removed_mm3) / 1000 : row.grams;
  return `${value >= 0 ? "+" : "−"}${figure(Math.abs(value), 2)} ${room ? "cm³" : "g"}`;
};
