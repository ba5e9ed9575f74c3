/** Other parts set against this one by pairs of faces: where both would be, and what is left between them. */
import type { BoughtKind, Mate, MateOut } from "../../api/fit";
import { figure } from "../../domain/figures";
import { kindOfMeasure, signed } from "../../domain/fits";
import { Text } from "../../ui/Text";
import { Button } from "../../ui/controls";
import { Bought } from "./Bought";
import { SumLine } from "./SumLine";

interface Props {
  mates: readonly Mate[];
  told: readonly MateOut[];
  kinds: readonly BoughtKind[];
  warmth: { cold: string; warm: string };
  here: string | null;
  onOpen: (id: string) => void;
  /** Null for those who may not. */
  onPair: ((mate: Mate) => void) | null;
  onOut: ((id: string) => void) | null;
  onBought: ((id: string, bought: NonNullable<Mate["bought"]>) => void) | null;
  onFace: ((mate: Mate, face: string) => void) | null;
  onKeep: ((mate: Mate, told: MateOut) => void) | null;
  onWarmth: ((change: { cold?: string | null; warm?: string | null }) => void) | null;
}

const HOW = { round: "one axis", between: "one middle plane", against: "face on face" } as const;

export function Mates({ mates, told, kinds, warmth, here, onOpen, onPair, onOut, onBought, onFace, ...more }: Props) {
  const { onKeep, onWarmth } = more;
  return (
    <section className="border-t border-ink" aria-label="Parts that meet">
      <h3 className="px-3 pt-1.5 pb-1 font-semibold">Parts that meet</h3>
      <ul>
        {mates.map((m) => {
          const out = told.find((t) => t.id === m.id);
          const kind = kinds.find((k) => k.key === m.bought?.kind);
          return (
            <li key={m.id} className={`border-t border-rule ${m.id === here ? "bg-raised" : ""}`} data-mate={m.name}>
              <button
                type="button"
                className="grid w-full grid-cols-[1fr_auto] gap-x-3 px-3 py-1 text-left"
                aria-expanded={m.id === here}
                onClick={() => onOpen(m.id)}
              >
                <b>{m.name}</b>
                <span className="text-right">{out && <Overlap out={out} />}</span>
                {out && <Pairs out={out} />}
              </button>
              {m.id === here && out && (
                <div className="space-y-2 px-3 pb-2.5" data-testid="mate-fields">
                  {m.bought && kind && (
                    <Bought
                      mate={m}
                      kind={kind}
                      onChange={onBought && ((change) => m.bought && onBought(m.id, { ...m.bought, ...change }))}
                      onFace={onFace && ((face) => onFace(m, face))}
                    />
                  )}
                  {out.pairs.map((p, i) => p.left && <Left key={i} pair={p} left={p.left} />)}
                  <div className="grid grid-cols-4 gap-x-2">
                    <Text
                      label="coldest in use"
                      hint="23 °C"
                      now={warmth.cold}
                      onWrite={onWarmth && ((v) => onWarmth({ cold: v || null }))}
                    />
                    <Text
                      label="warmest in use"
                      hint="23 °C"
                      now={warmth.warm}
                      onWrite={onWarmth && ((v) => onWarmth({ warm: v || null }))}
                    />
                  </div>
                  <p className="flex gap-2">
                    {onPair && m.part && (
                      <Button plain onClick={() => onPair(m)}>
                        Add a pair of faces
                      </Button>
                    )}
                    {onKeep && m.part && out.matrix && (
                      <Button plain onClick={() => onKeep(m, out)}>
                        Keep its space free
                      </Button>
                    )}
                    {onOut && (
                      <Button plain onClick={() => onOut(m.id)} className="ml-auto">
                        Take out
                      </Button>
                    )}
                  </p>
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Overlap({ out }: { out: MateOut }) {
  if (out.why) return null;
  if (!out.meets) return <span className="text-crown">its faces do not meet</span>;
  if (out.overlap_mm3)
    return (
      <span className="text-crown">
        overlaps by <b className="figure">{figure(out.overlap_mm3, 1)} mm³</b>
      </span>
    );
  return <span>clear as drawn</span>;
}

function Pairs({ out }: { out: MateOut }) {
  if (out.why) return <span className="col-span-2 text-crown">{out.why}</span>;
  const miss = out.tilt_deg > 0.05 ? `${figure(out.tilt_deg, 1)}°` : `${figure(out.off_mm, 2)} mm`;
  return (
    <span className="narrow col-span-2 text-second">
      {out.pairs.length} {out.pairs.length === 1 ? "pair" : "pairs"} of faces
      {!out.meets && `, which miss each other by ${miss}`}
      {out.meets && out.free && ", free to slide or turn: it lies as in its own file there"}
    </span>
  );
}

type Pair = MateOut["pairs"][number];

function Left({ pair, left }: { pair: Pair; left: NonNullable<Pair["left"]> }) {
  const span = ([low, high]: readonly number[]) => `${signed(low ?? 0, 2)} … ${signed(high ?? 0, 2)} mm`;
  const bad = (value: number) => (value < 0 ? "text-crown" : "");
  return (
    <table className="w-full" data-testid="mate-left">
      <tbody>
        <SumLine
          words={`${kindOfMeasure(pair.mine)} ${figure(pair.mine_mm, 2)} on ${kindOfMeasure(pair.theirs)} ${figure(pair.theirs_mm, 2)} mm, ${HOW[pair.how]}`}
        >
          <b className={bad(left.gap_mm)}>{signed(left.gap_mm, 2)} mm</b>
        </SumLine>
        <SumLine words="per side as both are printed, at worst">
          <span className={bad(left.worst_mm[0] ?? 0)}>{span(left.worst_mm)}</span>
        </SumLine>
        <SumLine words="by the squares of both doubts">{span(left.squares_mm)}</SumLine>
        <SumLine words="coldest, warmest in use">
          <span className={bad(Math.min(left.cold_mm, left.warm_mm))}>
            {signed(left.cold_mm, 2)}, {signed(left.warm_mm, 2)} mm
          </span>
        </SumLine>
      </tbody>
    </table>
  );
}
