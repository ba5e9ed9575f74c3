/** Where a number is from: a sign, and its word where there is room. What was measured here leads to its readings. */
import { Link } from "@tanstack/react-router";

import { markOf } from "../domain/origins";

/** Where the readings behind an origin are. */
const LEADS = { coupon: "/coupons", trial: "/trials" } as const;

interface Props {
  origin: string;
  /** What stands after the sign, in place of the origin's own word; null: the sign alone. */
  words?: string | null;
}

export function OriginMark({ origin, words }: Props) {
  const mark = markOf(origin);
  const text = words === null ? mark.sign : `${mark.sign} ${words ?? mark.word}`;
  const to = LEADS[origin as keyof typeof LEADS];
  if (!to) return <span title={mark.long}>{text}</span>;
  return (
    <Link to={to} title={`${mark.long}: its readings`} className="underline hover:text-moss">
      {text}
    </Link>
  );
}
