/** A wall of the part taken as an arm, a panel or a boss: how thick it must be for a load, and what each way costs. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { ApiProblem, type Part, type SizeResult, type WallZone, api } from "../../api/client";
import { clock, figure, measure } from "../../domain/figures";
import { MODES } from "../../domain/strength";
import { Button, Either, Input, Trouble } from "../../ui/controls";

const KINDS = ["arm", "panel", "boss"] as const;
type Kind = (typeof KINDS)[number];

const WAYS = [
  ["as_it_is", "as it is"],
  ["lines", "lines alone"],
  ["ribs", "thin, ribbed"],
  ["block", "block, infill"],
] as const;

interface Props {
  part: Part;
  zone: WallZone;
  /** Makes the wall so thick, or ribs so high; null for those who may not. */
  onWall: ((mm: number) => void) | null;
  onRibs: ((thick: number, high: number, pitch: number) => void) | null;
}

export function WallSize({ part, zone, onWall, onRibs }: Props) {
  const lies = zone.lies;
  const [kind, setKind] = useState<Kind>("arm");
  const [draft, setDraft] = useState({
    load: "",
    sag: "",
    factor: "2",
    span: lies ? lies.long_mm.toFixed(1) : "",
    width: lies ? lies.short_mm.toFixed(1) : "",
    thick: zone.thickness_mm.toFixed(2),
    hole: "4",
  });
  const set = (name: keyof typeof draft) => (e: { target: { value: string } }) =>
    setDraft({ ...draft, [name]: e.target.value });
  const num = (text: string) => Number(text.replace(",", "."));
  const asked = {
    kind,
    load_n: num(draft.load),
    factor: num(draft.factor),
    span_mm: num(draft.span),
    width_mm: num(draft.width),
    thickness_mm: num(draft.thick),
    sag_mm: draft.sag ? num(draft.sag) : null,
    along: [...(lies?.along ?? [1, 0, 0])],
    normal: lies ? [...lies.normal] : null,
    hole_mm: num(draft.hole) || 0,
  };
  const wants =
    kind === "boss"
      ? [asked.load_n, asked.factor]
      : [asked.load_n, asked.factor, asked.span_mm, asked.width_mm, asked.thickness_mm, asked.sag_mm ?? 1];
  const ready = wants.every((v) => Number.isFinite(v) && v > 0) && asked.factor >= 1;
  const result = useQuery({
    queryKey: ["calculated", part.id, part.version, asked],
    queryFn: ({ signal }) => api.calculateSize(part.id, asked, signal),
    enabled: ready,
    placeholderData: (before) => before,
    retry: false,
    staleTime: Infinity,
  });
  const field = (name: keyof typeof draft, label: string) => (
    <Input key={name} label={label} value={draft[name]} inputMode="decimal" onChange={set(name)} className="min-w-0" />
  );
  return (
    <div className="-ml-3 space-y-1.5 border border-rule bg-paper px-2 py-1.5" data-testid="wall-size">
      <div className="flex items-baseline justify-between">
        <b>Calculated as</b>
        <Either label="Taken as" of={KINDS} here={kind} onPick={setKind} />
      </div>
      <div className="grid grid-cols-4 gap-x-2 gap-y-1">
        {field("load", "load, N")}
        {field("factor", "factor")}
        {kind === "boss"
          ? field("hole", "hole, mm")
          : [
              field("sag", "may give, mm"),
              field("thick", "thick, mm"),
              field("span", kind === "arm" ? "long, mm" : "span, mm"),
              field("width", "wide, mm"),
            ]}
      </div>
      {!ready && (
        <p className="text-second">
          {kind === "arm"
            ? "Held at one end, pulled at the other."
            : kind === "panel"
              ? "Held at two sides, loaded evenly."
              : "Stands up, pulled up."}{" "}
          Type the load
          {lies || kind === "boss" ? "" : ", and its sides: this wall is round, so they cannot be read off it"}.
        </p>
      )}
      {result.error instanceof ApiProblem && <Trouble message={result.error.message} hint={result.error.hint} />}
      {ready && result.data?.bent && kind !== "boss" && (
        <Bent bent={result.data.bent} asked={result.isPlaceholderData} onWall={onWall} onRibs={lies ? onRibs : null} />
      )}
      {ready && result.data?.boss && kind === "boss" && <Boss boss={result.data.boss} />}
    </div>
  );
}

function Bent({
  bent,
  asked,
  onWall,
  onRibs,
}: {
  bent: NonNullable<SizeResult["bent"]>;
  /** Other values are asked for: what stands here is of those before, and is not applied. */
  asked: boolean;
  onWall: Props["onWall"];
  onRibs: Props["onRibs"];
}) {
  return (
    <>
      <p>
        May carry <b className="figure">{figure(bent.allowed_mpa, 1)} MPa</b> along its span,{" "}
        <span className="figure">{figure(bent.lean_deg, 0)}°</span> out of the layers; beyond that it {MODES[bent.mode]}
        . As it is it holds <b className="figure">{measure(bent.most_load_n)} N</b>,{" "}
        {bent.most_ends === "strength" ? "then it breaks" : "then it gives too much"}.
        {bent.rib_pitch_mm !== null && (
          <>
            {" "}
            Alone it gives that much between ribs <span className="figure">{figure(bent.rib_pitch_mm, 0)} mm</span>{" "}
            apart.
          </>
        )}
      </p>
      <table className={`w-full border-collapse ${asked ? "opacity-50" : ""}`} aria-busy={asked} data-testid="ways">
        <thead>
          <tr className="narrow border-b border-ink text-right align-bottom">
            <th className="text-left font-normal">way</th>
            <th className="font-normal">mm</th>
            <th className="pl-1.5 font-normal">reserve</th>
            <th className="pl-1.5 font-normal" title="At once, at 23 °C; heat and time add to it">
              gives, mm
            </th>
            <th className="pl-1.5 font-normal">g</th>
            <th className="pl-1.5 font-normal">h:mm:ss</th>
            <th className="pl-2 font-normal" aria-label="Apply" />
          </tr>
        </thead>
        <tbody>
          {WAYS.map(([key, name]) => {
            const way = bent.ways[key];
            return (
              <tr key={key} className="border-b border-rule text-right" data-way={key} title={way?.words}>
                <td className="narrow pr-1 text-left whitespace-nowrap">{name}</td>
                {way ? (
                  <>
                    <td className="figure">{figure(way.size_mm, 2)}</td>
                    <td className={`figure pl-1.5 ${way.reserve < 1 ? "font-semibold text-crown" : ""}`}>
                      {figure(way.reserve, 2)}
                    </td>
                    <td className="figure pl-1.5">{figure(way.gives_mm, 2)}</td>
                    <td className="figure pl-1.5">{measure(way.grams)}</td>
                    <td className="figure pl-1.5">{clock(way.seconds)}</td>
                    <td className="py-0.5 pl-1">
                      {key === "lines" && onWall && (
                        <Button plain className="!px-1.5 !py-0" disabled={asked} onClick={() => onWall(way.size_mm)}>
                          Apply
                        </Button>
                      )}
                      {key === "ribs" && onRibs && (
                        <Button
                          plain
                          className="!px-1.5 !py-0"
                          disabled={asked}
                          onClick={() => onRibs(bent.rib_mm, way.size_mm, bent.ribs_apart_mm)}
                        >
                          Apply
                        </Button>
                      )}
                    </td>
                  </>
                ) : (
                  <td colSpan={6} className="text-left">
                    none carries it
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="narrow">
        Beam sums for a straight load at rest; reserve 1 has the factor in it. Where a failure can hurt somebody, check
        the real part and prove it.
      </p>
    </>
  );
}

function Boss({ boss }: { boss: NonNullable<SizeResult["boss"]> }) {
  return (
    <p data-testid="boss-size">
      Make it <b className="figure">⌀ {figure(boss.outside_mm, 2)} mm</b> outside,{" "}
      <span className="figure">{figure(boss.wall_mm, 2)} mm</span> of wall in whole lines: its weld then carries{" "}
      <b className="figure">{measure(boss.carries_n)} N</b>. A screw cut in plastic wants{" "}
      <span className="figure">{figure(boss.engagement_mm, 1)} mm</span> of depth.
    </p>
  );
}
