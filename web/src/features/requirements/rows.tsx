/** What the lists of the requirements share: a face by its name, an amount as typed, taking a row out. */

import { type Balance } from "../../api/client";
import { measure } from "../../domain/figures";
import { axisWords, size3 } from "../../domain/needs";
import { toVec3 } from "../../domain/vectors";
import { Input } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { Chip } from "./Chip";
import { useDesk } from "./state";

export function useRegion() {
  const { job } = useDesk();
  return (id: string | null | undefined) => job.regions.rows.find((r) => r.id === id);
}

export function FaceName({ id }: { id: string | null | undefined }) {
  const row = useRegion()(id);
  if (!row) return <span className="font-semibold text-crown">face is gone</span>;
  return (
    <span className="inline-flex items-center gap-1.5">
      <Chip colour={row.colour} /> {row.name}
    </span>
  );
}

export function Out({ what, onOut }: { what: string; onOut: () => void }) {
  return (
    <button type="button" className="text-second hover:text-ink" aria-label={`Take out ${what}`} onClick={onOut}>
      ×
    </button>
  );
}

export function InWords({ sum }: { sum: Balance }) {
  if (!sum.force_n) return <span className="text-crown">cannot be summed</span>;
  const size = size3(sum.force_n);
  return (
    <span className="figure">
      {measure(size)} N{" "}
      {size > 1e-6 && <span className="text-second">to {axisWords(toVec3(sum.force_n.map((v) => v / size)))}</span>}
    </span>
  );
}

export function Typed({
  label,
  value,
  disabled,
  onWrite,
}: {
  label: string;
  value: string;
  disabled: boolean;
  onWrite: (value: string) => void;
}) {
  const [text, setText] = useDraft(value);
  return (
    <Input
      label={label}
      disabled={disabled}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && onWrite(text)}
      onKeyDown={(e) => {
        if (e.key === "Enter" && text !== value) onWrite(text);
        else if (e.key === "Escape") setText(value);
      }}
    />
  );
}
