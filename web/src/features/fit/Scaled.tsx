/** Whether the files that leave are larger by what the part shrinks. */
import type { FitState } from "../../api/fit";
import { figure } from "../../domain/figures";
import { Tick } from "../../ui/controls";

interface Props {
  scaled: boolean;
  state: Pick<FitState, "scale" | "prepared">;
  /** Null for those who may not. */
  onScale: ((scaled: boolean) => void) | null;
}

export function Scaled({ scaled, state, onScale }: Props) {
  if (state.prepared) return <p className="text-second">What prepares it for the machine scales it for shrinkage.</p>;
  const [plan, along] = state.scale ?? [];
  return (
    <p className="flex items-center gap-2" data-testid="scaled">
      <Tick ticked={scaled} onTick={(yes) => onScale?.(yes)}>
        scale printable files for shrinkage
      </Tick>
      {plan && along && (
        <span className="text-second">
          <span className="figure text-ink">×{figure(plan, 4)}</span> in plan,{" "}
          <span className="figure text-ink">×{figure(along, 4)}</span> across the layers; STEP stays as drawn
        </span>
      )}
    </p>
  );
}
