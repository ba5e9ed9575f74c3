/** How findings and remedies look: their colours on the part and in the layer log. */
import type { Finding } from "../../api/client";
import { CROWN, CROWN_LIT, DEEP_MOSS, LICHEN, LICHEN_LIT, OCHRE, OCHRE_LIT, PALE_LICHEN } from "../../domain/palette";
import type { Stretch } from "../../plots/LayerLog";
import { TRIED } from "../../scene/tried";

/** Of the part: fails, doubtful, holds or settled; the same three, lit. */
export const DYES = [CROWN, OCHRE, PALE_LICHEN, CROWN_LIT, OCHRE_LIT, LICHEN_LIT] as const;
const TONE = { fails: 0, doubtful: 1, holds: 2 } as const;

/** Of the changed part: what a remedy made, and the one that is looked at. */
export const CHANGED = [LICHEN, DEEP_MOSS] as const;

export const LEGENDS = {
  before: [
    ["fails", DYES[0]],
    ["doubtful", DYES[1]],
    ["holds or settled", DYES[2]],
  ],
  after: [
    ["made by a remedy", CHANGED[0]],
    ["the one looked at", CHANGED[1]],
  ],
  tried: [
    ["would be added", TRIED[0]],
    ["would be taken away", TRIED[1]],
  ],
} as const;

export const toneOf = (f: Finding): number => (f.state === "open" ? TONE[f.verdict] : TONE.holds);

export const stretchOf = (r: Finding, picked: number | null): Stretch => ({
  key: String(r.number_on_part),
  low: r.z_mm,
  high: r.top_mm,
  mm: r.number,
  colour: DYES[toneOf(r)] ?? DYES[2],
  words: `${r.number_on_part}: ${r.sentence}`,
  lit: r.number_on_part === picked,
});

/** mm: how far each loop of each layer lies from the middle. */
export function* extents(count: number, layer: (k: number) => Float32Array[]): Generator<number> {
  for (let k = 0; k < count; k++) for (const loop of layer(k)) yield loop.reduce((a, v) => Math.max(a, Math.abs(v)), 0);
}
