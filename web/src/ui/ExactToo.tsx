/** What of the edits is in the exact solid that goes back to CAD, and what is not. */

interface Props {
  /** Edits that are not in it; null where there is no exact solid. */
  uncarried: readonly { name: string; why: string; piece: string | null }[] | null;
  /** Why it could not be changed at all. */
  inexact?: string | null;
}

export function ExactToo({ uncarried, inexact = null }: Props) {
  if (inexact) return <p className="border-l-4 border-ochre-mark bg-raised px-3 py-1">No STEP of it: {inexact}</p>;
  if (uncarried === null) return null;
  if (uncarried.length === 0)
    return (
      <p className="text-second" data-testid="exact-too">
        The exact solid is changed in the same way: it goes back to CAD as STEP.
      </p>
    );
  return (
    <div className="border-l-4 border-ochre-mark bg-raised px-3 py-1" data-testid="exact-too">
      <p className="font-semibold">Not in the STEP, to be drawn by hand:</p>
      <ul>
        {uncarried.map((row, i) => (
          <li key={i}>
            <span className="narrow font-semibold">{row.piece ? `${row.piece}, ${row.name}` : row.name}</span>:{" "}
            {row.why}
          </li>
        ))}
      </ul>
    </div>
  );
}
