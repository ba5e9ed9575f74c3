/** A reserve at the end of a row; one below 1 fails, in words and in red. */
import { reserve } from "../../domain/strength";

export function ReserveSaid({ value, fails }: { value: number; fails: boolean }) {
  return (
    <>
      {fails && <span className="text-crown">Fails: </span>}
      reserve <b className={`figure ${fails ? "text-crown" : ""}`}>{reserve(value)}</b>
    </>
  );
}
