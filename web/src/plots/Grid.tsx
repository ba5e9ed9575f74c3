/** What a plot of two amounts stands on: lines across and up with their numbers, the names of both axes. Props in. */
interface Mark {
  /** px from the box's left or top. */
  at: number;
  words: string;
}

interface Props {
  size: { width: number; height: number };
  pad: { left: number; right: number; top: number; foot: number };
  /** Along the foot, and up the left side. */
  across: readonly Mark[];
  up: readonly Mark[];
  x?: string;
  y: string;
}

export function Grid({ size, pad, across, up, x, y }: Props) {
  const [right, foot] = [size.width - pad.right, size.height - pad.foot];
  return (
    <>
      <g stroke="var(--color-rule)" strokeWidth="0.8">
        {across.map(({ at, words }) => (
          <line key={words} x1={at} x2={at} y1={pad.top} y2={foot} />
        ))}
        {up.map(({ at, words }) => (
          <line key={words} x1={pad.left} x2={right} y1={at} y2={at} />
        ))}
      </g>
      <g className="figure fill-second text-[11px]">
        {across.map(({ at, words }) => (
          <text key={words} x={at} y={foot + 13} textAnchor="middle">
            {words}
          </text>
        ))}
        {up.map(({ at, words }) => (
          <text key={words} x={pad.left - 5} y={at + 4} textAnchor="end">
            {words}
          </text>
        ))}
      </g>
      <g className="narrow fill-second text-[11px]">
        {x && (
          <text x={right} y={size.height - 5} textAnchor="end">
            {x}
          </text>
        )}
        <text x={4} y={13}>
          {y}
        </text>
      </g>
    </>
  );
}
