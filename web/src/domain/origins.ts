/** Where a number is from, told apart by a mark and a word, not by colour alone. */
export type Origin = "handbook" | "maker" | "own" | "coupon" | "trial";

export const ORIGIN_MARK: Record<Origin, { sign: string; word: string; long: string }> = {
  handbook: { sign: "○", word: "assumed", long: "starting value of the handbook" },
  maker: { sign: "◇", word: "maker's", long: "from the maker's sheet" },
  own: { sign: "□", word: "own setting", long: "the workshop's own setting" },
  coupon: { sign: "■", word: "coupon", long: "measured on the workshop's own coupon" },
  trial: { sign: "◆", word: "trials", long: "learned from the workshop's own trials of parts" },
};

/** Of a number that no record says: it was calculated from others. */
const CALCULATED = { sign: "△", word: "calculated", long: "calculated from the batch" };

export const markOf = (origin: string) => ORIGIN_MARK[origin as Origin] ?? CALCULATED;

export const ORIGINS = Object.keys(ORIGIN_MARK) as Origin[];
