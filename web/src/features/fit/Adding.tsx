/** What can be pointed at: a touching face, an arm, where a feature is made, the faces where another part meets. */
import { useState } from "react";

import type { BoughtKind, FeatureKind } from "../../api/fit";
import { Button, Select } from "../../ui/controls";
import type { Asking, Beside } from "./pointing";

interface Props {
  asking: Asking | null;
  ask: (asking: Asking | null) => void;
  kinds: readonly FeatureKind[];
  beside: readonly Beside[];
  bought: readonly BoughtKind[];
  onBuy: (kind: BoughtKind) => void;
  /** How many rows want to be drawn, how many of them are picked; null while it is not known. */
  draw: { picked: number; of: number; onDraw: (() => void) | null };
}

export function Adding({ asking, ask, kinds, beside, bought, onBuy, draw }: Props) {
  const [kind, choose] = useState("snap");
  const chosen = kinds.find((k) => k.key === kind);
  const what = asking !== null && typeof asking === "object" ? asking : null;
  const setting = what && "other" in what ? what : null;
  const makes = what !== null && "making" in what;
  const toggle = (plain: "face" | "arm", words: string) => (
    <Button plain onClick={() => ask(asking === plain ? null : plain)}>
      {asking === plain ? "Stop pointing" : words}
    </Button>
  );
  return (
    <>
      {beside.length + bought.length > 0 && (
        <p className="flex items-center gap-2">
          <Select
            label="Other part"
            quiet
            value={setting?.other.part ?? ""}
            options={[
              ["", "another part …"],
              ...beside.map((b) => [b.part, b.name] as const),
              ...bought.map((b) => [b.key, `bought: ${b.title}`] as const),
            ]}
            onPick={(id) => {
              const kind = bought.find((b) => b.key === id);
              if (kind) return onBuy(kind);
              const other = beside.find((b) => b.part === id);
              return ask(other ? { other, mate: null, mine: null } : null);
            }}
            className="w-56"
          />
          <span className="text-second">{setting ? "point at a pair of faces" : "set against this one"}</span>
        </p>
      )}
      {kinds.length > 0 && (
        <p className="flex items-center gap-2">
          <Select
            label="Feature"
            quiet
            value={kind}
            options={kinds.map((k) => [k.key, k.title] as const)}
            onPick={(key) => {
              choose(key);
              ask(null);
            }}
            className="w-56"
          />
          <Button plain onClick={() => ask(makes || !chosen ? null : { making: chosen, first: null })}>
            {makes ? "Stop pointing" : "Make on a face"}
          </Button>
        </p>
      )}
      <p className="flex gap-2">
        {toggle("face", "Point at a face")}
        {toggle("arm", "Point at an arm")}
        {draw.of > 0 && (
          <Button disabled={!draw.onDraw} onClick={() => draw.onDraw?.()}>
            {`Draw ${draw.picked} of ${draw.of}`}
          </Button>
        )}
      </p>
    </>
  );
}
