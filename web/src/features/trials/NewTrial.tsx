/** Writing a trial down: the case that it stands for, the load, how and where it broke, what was learned. */
import { useState } from "react";

import type { How, PartTrials, Trial, TrialIn } from "../../api/trials";
import { figure } from "../../domain/figures";
import { MODES } from "../../domain/strength";
import type { Vec3 } from "../../domain/vectors";
import { Explained } from "../../ui/Explained";
import { Button, Input, Select } from "../../ui/controls";
import { HOWS, VERDICTS, amount } from "./words";

interface Props {
  state: PartTrials;
  broke: Vec3 | null;
  asking: boolean;
  busy: boolean;
  onAsk: () => void;
  onWrite: (given: TrialIn) => Promise<boolean>;
}

export function NewTrial({ state, broke, asking, busy, onAsk, onWrite }: Props) {
  const [text, setText] = useState({
    tested: new Date().toISOString().slice(0, 10),
    plate: "1",
    copies: state.copies === null ? "" : String(state.copies),
    load: "",
    lesson: "",
  });
  const [case_, setCase] = useState(state.cases[0]?.id ?? "");
  const [mode, setMode] = useState<"" | "together" | "sequential">(state.mode as "" | "together" | "sequential");
  const [how, setHow] = useState<How>("between layers");
  const [verdict, setVerdict] = useState<Trial["verdict"]>("unclear");
  const at = state.cases.find((c) => c.id === case_);
  const field = (key: keyof typeof text, label: string, more: Record<string, string> = {}) => (
    <Input label={label} value={text[key]} onChange={(e) => setText({ ...text, [key]: e.target.value })} {...more} />
  );
  return (
    <form
      className="space-y-2 border-t-[1.4px] border-ink px-4 py-3"
      aria-label="New trial"
      data-testid="new-trial"
      onSubmit={(e) => {
        e.preventDefault();
        void onWrite({
          ...{ tested: text.tested, plate: text.plate.trim() || "1", case: case_, how, verdict, mode },
          copies: text.copies.trim() ? Number(text.copies) : null,
          load: (text.load.trim() || null) as unknown as TrialIn["load"],
          at: broke ? [...broke] : null,
          lesson: text.lesson,
        });
      }}
    >
      <h3 className="font-semibold">Write a trial down</h3>
      <div className="grid grid-cols-[1.6fr_1fr_1fr] gap-2">
        <Select
          label="stands for"
          value={case_}
          options={[...state.cases.map((c) => [c.id, c.name] as const), ["", "no load case"] as const]}
          onPick={setCase}
        />
        {field("load", "load at the break", { placeholder: at ? amount(at.load, at.unit) : "1.2 kN" })}
        <Select label="broke" value={how} options={HOWS.map((h) => [h, h] as const)} onPick={(v) => setHow(v as How)} />
      </div>
      {at?.times != null && (
        <p className="narrow text-second" data-testid="predicts">
          <Explained of="predicted">Predicted</Explained>: {MODES[at.mode ?? ""]} at{" "}
          <b className="figure text-ink">{amount(at.load * at.times, at.unit)}</b>, ×
          <span className="figure">{figure(at.times, 2)}</span> its load, without knock-downs.
        </p>
      )}
      {at && at.times == null && (
        <p className="narrow text-second">Not predicted: its strength is not checked in this direction yet.</p>
      )}
      <div className="grid grid-cols-5 gap-2">
        {field("tested", "tested on", { type: "date" })}
        {field("plate", "plate")}
        {field("copies", "copies on it")}
        <Select
          label="printed"
          value={mode}
          options={[
            ["", "not said"],
            ["together", "together"],
            ["sequential", "in turn"],
          ]}
          onPick={(v) => setMode(v as typeof mode)}
        />
        <Select
          label="verdict"
          value={verdict}
          options={VERDICTS.map((v) => [v, v] as const)}
          onPick={(v) => setVerdict(v as Trial["verdict"])}
        />
      </div>
      <label className="block">
        <span className="block text-second">what was learned</span>
        <textarea
          className="h-[44px] w-full resize-y border border-bark bg-raised px-2 py-1"
          maxLength={4000}
          value={text.lesson}
          onChange={(e) => setText({ ...text, lesson: e.target.value })}
        />
      </label>
      <p className="flex items-center gap-3">
        <Button plain onClick={onAsk}>
          {asking ? "Stop pointing" : "Point at the break"}
        </Button>
        {broke && (
          <span className="narrow">
            at <span className="figure">{broke.map((v) => figure(v, 1)).join(", ")} mm</span>
          </span>
        )}
        <Button type="submit" disabled={busy} className="ml-auto">
          Save the trial
        </Button>
      </p>
    </form>
  );
}
