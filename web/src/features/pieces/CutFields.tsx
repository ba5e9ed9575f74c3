/** Where the cut lies: an axis, the build direction or a face that was pressed on; drawn along or typed. */
import { type Cut, AXES } from "../../domain/cuts";
import { figure, typedNumber } from "../../domain/figures";
import { type Vec3, dot } from "../../domain/vectors";
import { useDraft } from "../../ui/draft";

interface Props {
  cut: Cut;
  up: Vec3;
  /** From where to where the part reaches along a way, mm; null where only the way matters. */
  reach: ((normal: Vec3) => [number, number]) | null;
  onCut: (cut: Cut) => void;
}

const same = (a: Vec3, b: Vec3) => dot(a, b) > 1 - 1e-9;

export function CutFields({ cut, up, reach, onCut }: Props) {
  const [low, high] = reach ? reach(cut.normal) : [0, 0];
  const [text, setText] = useDraft(cut.at.toFixed(2));
  const turnTo = (normal: Vec3) => {
    const [a, b] = reach ? reach(normal) : [0, 0];
    onCut({ normal, at: (a + b) / 2 });
  };
  const ways: readonly (readonly [string, Vec3])[] = [...Object.entries(AXES), ["up", up]];
  const named = ways.find(([, v]) => same(v, cut.normal));
  const write = () => {
    const typed = typedNumber(text);
    if (Number.isFinite(typed)) onCut({ ...cut, at: typed });
    else setText(cut.at.toFixed(2));
  };
  return (
    <div className="space-y-1">
      <div className="flex items-center gap-2" role="group" aria-label="The way the cut looks">
        <span className="w-24 text-second">{reach ? "normal to" : "along"}</span>
        {ways.map(([name, v]) => (
          <button
            key={name}
            type="button"
            aria-pressed={named?.[0] === name}
            onClick={() => turnTo(v)}
            className={`border border-bark px-2 ${named?.[0] === name ? "bg-ink text-raised" : "hover:bg-raised"}`}
          >
            {name}
          </button>
        ))}
        <button
          type="button"
          onClick={() => onCut({ normal: [-cut.normal[0], -cut.normal[1], -cut.normal[2]], at: -cut.at })}
          className="border border-bark px-2 hover:bg-raised"
        >
          turn round
        </button>
      </div>
      {!named && (
        <p className="figure text-[11px] text-second" data-testid="cut-normal">
          ({cut.normal.map((v) => figure(v, 3)).join(", ")})
        </p>
      )}
      {reach && (
        <div className="flex items-center gap-2">
          <span className="w-24 text-second">at</span>
          <input
            type="range"
            aria-label="Where the cut lies, drawn"
            min={low}
            max={high}
            step={(high - low) / 400 || 0.1}
            value={cut.at}
            onChange={(e) => onCut({ ...cut, at: Number(e.target.value) })}
            className="w-40 accent-moss"
          />
          <input
            aria-label="Where the cut lies, mm"
            inputMode="decimal"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onBlur={write}
            onKeyDown={(e) => e.key === "Enter" && write()}
            className="figure w-20 border border-bark bg-raised px-1 text-right"
          />
          <span className="text-second">mm</span>
        </div>
      )}
    </div>
  );
}
