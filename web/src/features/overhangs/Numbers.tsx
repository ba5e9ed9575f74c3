/** The numbers of one remedy, set by hand; what they would change is seen before it is worked out. */
import { useEffect, useState } from "react";

import { type Parameter, type Part, type RecipeStep, type RemedyLook, ApiProblem, api } from "../../api/client";
import { useRemedyNames } from "../../api/queries";
import { measure, typedNumber } from "../../domain/figures";
import { Select } from "../../ui/controls";
import { useDraft } from "../../ui/draft";

const REST = 160; // ms without a change before the server is asked

/** What a step would do as it is set now; null where none is looked at or nothing is known yet. */
export function useLook(
  part: Part,
  step: RecipeStep | null,
  onLook: (look: RemedyLook | null) => void,
): RemedyLook | null {
  const [look, setLook] = useState<RemedyLook | null>(null);
  const asked = step && JSON.stringify(step);
  useEffect(() => {
    if (!asked) return;
    const stop = new AbortController();
    const timer = setTimeout(() => {
      api
        .lookAtRemedy(part.id, JSON.parse(asked) as RecipeStep, stop.signal)
        .then((seen) => {
          setLook(seen);
          onLook(seen);
        })
        .catch((error: unknown) => {
          if (error instanceof ApiProblem)
            setLook({
              why: error.message,
              words: "",
              parameters: [],
              volume_added_mm3: 0,
              volume_removed_mm3: 0,
              adds: "",
              takes: "",
            });
        });
    }, REST);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [part.id, asked, onLook]);
  useEffect(() => () => onLook(null), [onLook]);
  return look;
}

interface Props {
  step: RecipeStep;
  known: readonly Parameter[];
  /** Remedies that may be tried for the same place. */
  choices: readonly string[];
  look: RemedyLook | null;
  onChange: (to: Partial<RecipeStep>) => void;
}

export function Numbers({ step, known, choices, look, onChange }: Props) {
  const named = useRemedyNames();
  const set = (name: string, value: number | null) => {
    const others = Object.entries(step.set ?? {}).filter(([key]) => key !== name);
    onChange({ set: Object.fromEntries(value === null ? others : [...others, [name, value]]) });
  };
  return (
    <div className="mt-1 border-t border-rule pt-1" data-testid="numbers">
      {known.map((p) => (
        <Row key={p.name} parameter={p} value={step.set?.[p.name]} onSet={(value) => set(p.name, value)} />
      ))}
      {choices.length > 1 && (
        <Select
          label="Another remedy for it"
          value={choices.includes(step.key) ? step.key : ""}
          options={choices.map((k) => [k, named(k).title] as const)}
          onPick={(key) => onChange({ key, set: {} })}
          className="mt-1"
        />
      )}
      {look && (
        <p className={`mt-1 ${look.why ? "text-crown" : "text-moss"}`} role="status" data-testid="look">
          {look.why ??
            `${look.words} Would add ${measure(look.volume_added_mm3)} mm³ and take ${measure(look.volume_removed_mm3)} mm³ away; not proved yet.`}
        </p>
      )}
    </div>
  );
}

const digits = (p: Parameter) => (p.unit === "°" ? 1 : 2);
const shown = (p: Parameter, value: number) => String(Number(value.toFixed(digits(p))));

/** One number: typed, or drawn along its range; left to follow from the part where nothing is set. */
function Row({
  parameter: p,
  value,
  onSet,
}: {
  parameter: Parameter;
  value: number | undefined;
  onSet: (value: number | null) => void;
}) {
  const now = value ?? p.value;
  const [text, setText] = useDraft(shown(p, now));
  const most = p.unit === "°" ? p.high : Math.min(p.high, Math.max(4 * p.value, p.low + 1));
  const write = () => {
    const typed = typedNumber(text);
    if (text.trim() === "") onSet(null);
    else if (Number.isFinite(typed) && shown(p, typed) !== shown(p, now)) onSet(typed);
    else setText(shown(p, now));
  };
  return (
    <div className="grid grid-cols-[1fr_84px_56px_16px_34px] items-center gap-x-1.5">
      <span className="narrow text-second">{p.words}</span>
      <input
        type="range"
        aria-label={`${p.words}, drawn`}
        min={p.low}
        max={most}
        step={p.unit === "°" ? 0.5 : 0.05}
        value={now}
        onChange={(e) => onSet(Number(e.target.value))}
        className="accent-moss"
      />
      <input
        aria-label={p.words}
        inputMode="decimal"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={write}
        onKeyDown={(e) => e.key === "Enter" && write()}
        className={`figure w-full border bg-paper px-1 text-right ${value === undefined ? "border-rule" : "border-ink"}`}
      />
      <span className="figure text-[11px] text-second">{p.unit}</span>
      {value !== undefined ? (
        <button type="button" className="narrow text-second underline" onClick={() => onSet(null)}>
          reset
        </button>
      ) : (
        <span />
      )}
    </div>
  );
}
