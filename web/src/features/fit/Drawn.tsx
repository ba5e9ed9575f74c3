/** What became of a drawing: how much was drawn, what else has moved, and taking it. */
import type { FitAnalysis } from "../../api/fit";
import { figure } from "../../domain/figures";
import { Button } from "../../ui/controls";

interface Props {
  analysis: FitAnalysis;
  coming: boolean;
  onTake: (() => void) | null;
}

export function Drawn({ analysis, coming, onTake }: Props) {
  const all = [...analysis.rows, ...analysis.flexes, ...analysis.features];
  const done = all.filter((r) => r.applied).length;
  const refused = all.filter((r) => r.refused).length;
  if (analysis.steps === 0 && refused === 0) return null;
  return (
    <div className="space-y-1" data-testid="take-fit">
      <p>
        <b className="figure">{done}</b> {done === 1 ? "is" : "are"} drawn anew
        {refused > 0 && <span className="text-crown">, {refused} cannot be</span>}. Anything else has moved by{" "}
        <span className="figure">{figure(analysis.stray_mm3, 2)} mm³</span>.
      </p>
      {analysis.inexact && <p className="narrow text-ochre">{analysis.inexact}</p>}
      {onTake && analysis.view && (
        <Button disabled={coming} onClick={onTake}>
          {coming ? "Making the revision …" : "Take as a revision"}
        </Button>
      )}
    </div>
  );
}
