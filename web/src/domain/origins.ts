/** Where a number is from, told apart by a mark and a word, not by colour alone. */
export type Origin = "handbook" | "maker" | "own" | "coupon";

export const ORIGIN_MARK: Record<Origin, { sign: string; word: string; long: string }> = {
  handbook: { sign: "○", word: "assumed", long: "starting value of the handbook" },
  maker: { sign: "◇", word: "maker's", long: "from the maker's sheet" },
  own: { sign: "□", word: "own setting", long: "the workshop's own setting" },
  coupon: { sign: "■", word: "coupon", long: "measured on the workshop's own coupon" },
};

export const ORIGINS = Object.keys(ORIGIN_MARK) as Origin[];
