/** Pegs, tenon or plate: their fit and the sizes that may be set; what is left empty follows from the part. */
import { useState } from "react";

import type { DivideRequest, Pieces } from "../../api/client";
import { figure, typedNumber } from "../../domain/figures";
import { ORIGIN_MARK } from "../../domain/origins";
import { Select } from "../../ui/controls";
import type { Way } from "./Pieces";

interface Props {
  way: Way;
  draft: DivideRequest;
  fits: Pieces["fits"];
  onSay: (to: Partial<DivideRequest>) => void;
}

const MOVES = [
  ["slides", "slides along it"],
  ["turns", "turns about it"],
] as const;

const HOW = [
  ["glued", "glued"],
  ["press", "pressed in"],
  ["eased", "eased by hand"],
] as const;

export function JointFields({ way, draft, fits, onSay }: Props) {
  const fit = draft.fit ?? "location";
  return (
    <div className="grid grid-cols-2 gap-x-4 gap-y-1">
      {way !== "in_place" && (
        <Select
          label="Fit, clearance per side"
          value={fit}
          options={Object.entries(fits)
            .filter(([name]) => name !== "in_place")
            .map(([name, f]) => [name, `${name}, ${figure(f.value, 2)} mm ${ORIGIN_MARK[f.origin].sign}`] as const)}
          onPick={(name) => onSay({ fit: name as NonNullable<DivideRequest["fit"]> })}
        />
      )}
      {way === "in_place" && (
        <Select
          label="It"
          value={draft.turns ? "turns" : "slides"}
          options={MOVES}
          onPick={(how) => onSay({ turns: how === "turns" })}
        />
      )}
      {way === "in_place" && (
        <Size
          label={draft.turns ? "by how much" : "how far"}
          unit={draft.turns ? "°" : "mm"}
          placeholder="say it"
          value={draft.travel}
          onSay={(travel) => onSay({ travel })}
        />
      )}
      {way === "in_place" && fits.in_place && (
        <p className="col-span-2 text-second">
          Wanted: <b className="figure text-ink">{figure(fits.in_place.value, 2)} mm</b>{" "}
          {ORIGIN_MARK[fits.in_place.origin].sign} all along, after droop.
        </p>
      )}
      {way === "split" && (
        <Select
          label="Pegs"
          value={String(draft.pegs ?? 2)}
          options={[0, 1, 2, 3, 4, 5, 6].map((n) => [String(n), String(n)] as const)}
          onPick={(n) => onSay({ pegs: Number(n) })}
        />
      )}
      {way === "separate" && (
        <Select
          label="Joined"
          value={draft.how ?? "glued"}
          options={HOW}
          onPick={(how) => onSay({ how: how as NonNullable<DivideRequest["how"]> })}
        />
      )}
      {way === "split" && (
        <Size label="First socket, diameter" value={draft.diameter} onSay={(diameter) => onSay({ diameter })} />
      )}
      {way === "split" && (
        <Size label="Reach into each half" value={draft.engagement} onSay={(engagement) => onSay({ engagement })} />
      )}
      {way === "separate" && <Size label="Tenon, length" value={draft.depth} onSay={(depth) => onSay({ depth })} />}
      {way === "embed" && (
        <Size label="Plate, thickness" value={draft.thickness} onSay={(thickness) => onSay({ thickness })} />
      )}
      {way === "embed" && <Size label="Seat, width" value={draft.seat} onSay={(seat) => onSay({ seat })} />}
    </div>
  );
}

function Size({
  label,
  value,
  unit = "mm",
  placeholder = "from the part",
  onSay,
}: {
  label: string;
  value: number | null | undefined;
  unit?: string;
  placeholder?: string;
  onSay: (value: number | null) => void;
}) {
  const [text, setText] = useState(value?.toString() ?? "");
  const write = () => {
    const typed = typedNumber(text);
    const good = text.trim() !== "" && Number.isFinite(typed) && typed > 0;
    onSay(good ? typed : null);
    if (!good) setText("");
  };
  return (
    <label className="block">
      <span className="block text-second">{label}</span>
      <span className="flex items-center gap-1">
        <input
          inputMode="decimal"
          placeholder={placeholder}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onBlur={write}
          onKeyDown={(e) => e.key === "Enter" && write()}
          className="figure w-full border border-bark bg-raised px-1 text-right placeholder:font-sans placeholder:text-second"
        />
        <span className="text-second">{unit}</span>
      </span>
    </label>
  );
}
