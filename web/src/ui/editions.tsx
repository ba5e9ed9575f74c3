/** Every edit of a record, newest first, each with its way back. */
import { moment } from "../domain/figures";

export interface EditionLine {
  number: number;
  words: string;
  in_force: boolean;
  by: string;
  at: string;
}

/** `onBack` takes one edit back; without it nobody is offered to. */
export function Editions({
  editions,
  onBack,
}: {
  editions: readonly EditionLine[] | undefined;
  onBack: ((number: number) => void) | null;
}) {
  return editions?.map((e) => (
    <li key={e.number} className="flex items-baseline gap-3 border-b border-rule py-1">
      <span className="figure w-6 text-right text-second">{e.number}</span>
      <span className={`min-w-0 flex-1 ${e.in_force ? "" : "text-second line-through"}`}>{e.words}</span>
      <span className="narrow text-second">
        {e.by}, {moment(e.at)}
      </span>
      {onBack && e.number > 1 && e.in_force && (
        <button type="button" className="underline hover:text-moss" onClick={() => onBack(e.number)}>
          take back
        </button>
      )}
    </li>
  ));
}
