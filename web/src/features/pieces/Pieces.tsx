/** A part as several pieces: where it is cut, what joins it, how each piece is printed, together and apart. */
import { useCallback, useMemo, useState } from "react";

import { type DivideRequest, type Part, api } from "../../api/client";
import { useDivisionView, useOverhangs, usePieces, useSession, useShape } from "../../api/queries";
import { useStage } from "../../api/stage";
import { type Cut, AXES, cutThrough, pointOf, reachAlong, sheet } from "../../domain/cuts";
import { figure } from "../../domain/figures";
import { BARK, MOSS, OCHRE } from "../../domain/palette";
import { mayExport } from "../../domain/roles";
import { type Vec3, directionWords, scaled, toVec3 } from "../../domain/vectors";
import { isOpen } from "../../domain/work";
import { type Pointed, Specimen } from "../../scene/Specimen";
import { decodeShape, normalOf } from "../../scene/shape";
import { StageState } from "../../ui/StageHeader";
import { Either, Heading, Legend, Tabs } from "../../ui/controls";
import { CutFields } from "./CutFields";
import { JointFields } from "./JointFields";
import { Result } from "./Result";

const WAYS = [
  ["split", "cut in two"],
  ["separate", "a feature apart"],
  ["embed", "a plate put in"],
  ["in_place", "printed in place"],
] as const;

export type Way = (typeof WAYS)[number][0];

const ABOUT: Readonly<Record<Way, string>> = {
  split: "Two halves with sockets, and loose pegs between them; each half is printed the way that suits it.",
  separate: "What stands beyond the cut is printed by itself, lying if it can, and joined by a tenon in a pocket.",
  embed: "A level plate is printed beforehand and laid in at a pause, so that nothing has to bridge the void below it.",
  in_place:
    "Bodies that move are printed together: one of them is swept through its travel, past the others, and its gap is proved after what hangs has drooped.",
};

/** Of the pieces drawn together: halves or body, then what joins them. */
const DYES = ["#d8cfae", "#a9bf95", MOSS, OCHRE, BARK] as const;
const dyeOf = (piece: number): string => DYES[Math.min(piece, DYES.length - 1)] ?? DYES[0];
const SHEET = OCHRE;

export const FRESH: DivideRequest = { way: "split", fit: "location", pegs: 2, places: [], how: "glued", turns: false };

export function Pieces({ part }: { part: Part }) {
  const role = useSession().data?.role;
  const { may, calculate, trouble, onStop } = useStage(part, "pieces");
  const [coming, setComing] = useState(0);
  const known = usePieces(part, coming > 0).data;
  const overhangs = useOverhangs(part).data;
  const latest = known?.division ?? null;
  const [typed, setDraft] = useState<DivideRequest | null>(null);
  const [turnedTo, setWay] = useState<Way | null>(null);
  const [cut, setCut] = useState<Cut | null>(null);
  // Until something is typed, what was asked for last stands in the fields.
  const way = turnedTo ?? latest?.request.way ?? "split";
  const division = latest?.request.way === way ? latest : null;
  const draft = typed ?? division?.request ?? FRESH;
  const [apart, setApart] = useState(0.6);
  const [shows, setShows] = useState<"part" | "pieces">("pieces");

  const view = useShape(part.id, part.view);
  const shape = useMemo(() => (view.data ? decodeShape(view.data) : null), [view.data]);
  const up: Vec3 = useMemo(
    () => toVec3(overhangs?.up ?? part.choice?.up ?? [0, 0, 1]),
    [overhangs?.up, part.choice?.up],
  );
  const points = useMemo(() => shape?.geometry.getAttribute("position").array ?? null, [shape]);
  const reach = useCallback(
    (normal: Vec3): [number, number] => (points ? reachAlong(points, normal) : [0, 1]),
    [points],
  );
  const here: Cut = useMemo(() => {
    if (cut) return cut;
    const { point, normal } = latest?.request ?? {};
    if (normal && latest?.request.way === way) return cutThrough(toVec3(point ?? [0, 0, 0]), toVec3(normal));
    const [low, high] = reach(AXES.z);
    return { normal: AXES.z, at: (low + high) / 2 };
  }, [cut, reach, latest?.request, way]);

  const together = useDivisionView(division).data;
  const rows = division?.pieces;
  const pieces = useMemo(() => {
    if (!together || !rows) return null;
    return decodeShape(together, (feature) => scaled(toVec3(rows[feature - 1]?.apart ?? [0, 0, 0]), apart));
  }, [together, rows, apart]);
  const showsPieces = pieces !== null && shows === "pieces" && division !== null && !division.why;
  const tints = useMemo(
    () =>
      pieces && {
        regions: pieces.features,
        colours: Array.from({ length: rows?.length ?? 0 }, (_, i) => Math.min(i, DYES.length - 1)),
        dyes: DYES,
      },
    [pieces, rows],
  );
  const ghosts = useMemo(
    () =>
      shape && (way === "split" || way === "separate")
        ? [{ corners: sheet(here, shape.centre, 0.62 * shape.radius), colour: SHEET, both: true }]
        : undefined,
    [shape, here, way],
  );

  const pick = (at: Pointed) => {
    if (!shape) return;
    if (way === "in_place") {
      setDraft({ ...draft, pick: [...at.point] });
      return;
    }
    setCut(cutThrough(at.point, normalOf(shape, at.facet)));
  };
  const order = async () => {
    const cutting =
      way === "embed"
        ? {}
        : way === "in_place"
          ? { normal: [...here.normal], fit: "in_place" as const }
          : { point: [...pointOf(here)], normal: [...here.normal] };
    if (await calculate(() => api.calculatePieces(part.id, { ...draft, way, ...cutting }))) setShows("pieces");
  };
  const busy = latest !== null && isOpen(latest.work);
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[420px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <div className="border-b border-rule px-3.5 pt-3 pb-1">
          <Heading aside={known?.piece && <span className="text-second">this is the {known.piece}</span>}>
            Several pieces
          </Heading>
          <Tabs
            tabs={WAYS}
            here={way}
            onPick={(to) => {
              setWay(to);
              setDraft(null);
              setShows("pieces");
            }}
            label="How it is divided"
            className="pt-1"
          />
        </div>
        <div
          className="min-h-0 flex-1 space-y-3 overflow-y-auto px-3.5 py-2"
          tabIndex={0}
          aria-label="Pieces"
          data-testid="pieces"
        >
          <p className="text-second">{ABOUT[way]}</p>
          {way === "in_place" && (
            <p data-testid="moving">
              {draft.pick
                ? `The body at (${draft.pick.map((v) => figure(v, 1)).join(", ")}) mm moves.`
                : "Press on the body that moves."}
            </p>
          )}
          {way === "embed" ? (
            <p>Under the first level ceiling that needs support, {directionWords(up)}.</p>
          ) : (
            <CutFields
              cut={here}
              up={up}
              reach={way === "in_place" ? null : reach}
              onCut={(to) => {
                setCut(to);
                setShows("part");
              }}
            />
          )}
          <JointFields
            key={way}
            way={way}
            draft={draft}
            fits={known?.fits ?? {}}
            onSay={(to) => setDraft({ ...draft, ...to })}
          />
          <StageState
            result={known && (busy ? latest : division)}
            complete={false}
            verb="Calculate pieces"
            onCalculate={may && shape ? order : null}
            onStop={onStop}
            trouble={trouble}
          />
          {division && !busy && (
            <Result
              division={division}
              may={may}
              gives={mayExport(role) && (part.cautions.length === 0 || part.acknowledged)}
              coming={coming}
              onComing={setComing}
            />
          )}
          {known && known.siblings.length > 0 && <Siblings part={part} known={known} />}
        </div>
      </section>
      <section className="relative min-h-0 min-w-0">
        {shape && (
          <Specimen
            shape={showsPieces && pieces ? pieces : shape}
            up={up}
            limit={null}
            layer={overhangs?.analysis?.process.layer ?? 0.2}
            tints={showsPieces ? (tints ?? undefined) : undefined}
            ghosts={showsPieces ? undefined : ghosts}
            faces={showsPieces || way === "embed" ? undefined : { wide: false, onDesk: -1 }}
            onPick={showsPieces || way === "embed" ? undefined : pick}
            label={showsPieces ? `${part.name} in ${rows?.length ?? 0} pieces` : `${part.name} as one piece`}
          />
        )}
        {division && !division.why && pieces && (
          <div className="absolute top-3 right-3 flex items-center gap-3 bg-paper/85 pl-2">
            {showsPieces && (
              <label className="flex items-center gap-2 text-second">
                apart{" "}
                <input
                  type="range"
                  min={0}
                  max={1}
                  step={0.05}
                  value={apart}
                  onChange={(e) => setApart(Number(e.target.value))}
                  className="w-28 accent-moss"
                />
              </label>
            )}
            <Either label="The part or its pieces" of={["part", "pieces"]} here={shows} onPick={setShows} />
          </div>
        )}
        {showsPieces && rows && <Legend rows={rows.map((p, i) => [p.name, dyeOf(i)] as const)} />}
        {!showsPieces && way !== "embed" && (
          <p className="pointer-events-none absolute top-3 left-3 bg-paper/85 pr-1 text-[12px] text-second">
            {way === "in_place" ? "Press on the body that moves." : "Press on a flat face to lay the cut in it."}
          </p>
        )}
      </section>
    </div>
  );
}

function Siblings({ part, known }: { part: Part; known: NonNullable<ReturnType<typeof usePieces>["data"]> }) {
  return (
    <div data-testid="siblings">
      <p className="border-b-[1.4px] border-ink font-semibold">
        One piece of{" "}
        <a className="underline" href={`/parts/${known.whole}/pieces`}>
          the whole
        </a>
        , beside
      </p>
      <ul>
        {known.siblings
          .filter((s) => s.part !== part.id)
          .map((s) => (
            <li key={s.part} className="border-b border-rule py-0.5">
              <a className="underline" href={`/parts/${s.part}/overhangs`}>
                {s.name}
              </a>
            </li>
          ))}
      </ul>
    </div>
  );
}
