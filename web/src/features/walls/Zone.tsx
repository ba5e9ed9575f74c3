/** A wall in the list: its thickness, what lines make of it, which sizes would be better. */
import type { ReactNode } from "react";

import type { WallZone } from "../../api/client";
import { figure, measure } from "../../domain/figures";
import { HELD_BACK, WALL_DYES, WALL_WORDS, dyeOf, kindWords } from "../../domain/walls";
import { Explained } from "../../ui/Explained";
import { Button } from "../../ui/controls";

interface ZoneProps {
  zone: WallZone;
  here: boolean;
  glows: boolean;
  onPick: () => void;
  /** Sets it to a thickness, mm; null for those who may not. */
  onSet: ((mm: number) => void) | null;
  /** What is shown below the sizes while it is looked at. */
  more?: ReactNode;
}

export function Zone({ zone, here, glows, onPick, onSet, more }: ZoneProps) {
  const quiet = glows ? "text-ink" : "text-second"; // second ink is too faint on a lit row
  const spread = zone.most_mm - zone.least_mm > 0.05;
  return (
    <li className={`border-b border-rule ${glows ? "bg-lit" : ""}`} data-zone={zone.kind}>
      <button
        type="button"
        onClick={onPick}
        aria-pressed={here}
        className="flex w-full items-baseline gap-2 py-1 text-left hover:bg-raised"
      >
        <span
          className="inline-block size-3 shrink-0 self-center"
          style={{ background: WALL_DYES[dyeOf(zone.kind, false)] }}
        />
        <b className="figure w-16 text-right">{figure(zone.thickness_mm, 2)} mm</b>
        <span className="flex-1">{kindWords(zone)}</span>
        {zone.because === "weak" && (
          <span className="figure font-semibold text-crown">reserve {figure(zone.reserve, 2)}</span>
        )}
        <span className={`figure ${quiet}`}>{measure(zone.area_mm2)} mm²</span>
      </button>
      {here && (
        <div className="space-y-1 pb-2 pl-5">
          <p className={quiet}>
            {zone.layers
              ? `A plate on its face: ${zone.layers} whole layers of it are laid${zone.kind === "heavy" ? ", and the middle is sparse infill" : ""}`
              : WALL_WORDS[zone.kind]}
            {spread && (
              <>
                ; from <span className="figure">{figure(zone.least_mm, 2)}</span> to{" "}
                <span className="figure">{figure(zone.most_mm, 2)} mm</span>
              </>
            )}
          </p>
          {zone.because && <p data-testid="held-back">{HELD_BACK[zone.because]?.(figure(zone.reserve, 2))}</p>}
          {zone.better.length > 0 && (
            <table className="w-full border-collapse" data-testid="better">
              <thead>
                <tr className={`narrow border-b border-ink text-right ${quiet}`}>
                  <th className="text-left font-normal">
                    <Explained of="wall_better">better</Explained>
                  </th>
                  <th className="font-normal">mm</th>
                  <th className="pl-2 font-normal">
                    <Explained of="mass">g</Explained>
                  </th>
                  <th className="pl-2 font-normal">
                    <Explained of="time">min</Explained>
                  </th>
                  <th
                    className="pl-2 font-normal"
                    title="the wall's own reserve changes by this factor: from stretched to bent"
                  >
                    <Explained of="reserve">reserve ×</Explained>
                  </th>
                  <th className="pl-2 font-normal" aria-label="Apply" />
                </tr>
              </thead>
              <tbody>
                {zone.better.map((b) => (
                  <tr key={b.mm} className="border-b border-rule text-right">
                    <td className="narrow text-left">
                      {b.advised ? "advised" : b.mm > zone.thickness_mm ? "next up" : "next down"}
                    </td>
                    <td className={`figure ${b.advised ? "font-semibold" : ""}`}>{figure(b.mm, 2)}</td>
                    <td className="figure pl-2">{signed(b.grams, 2)}</td>
                    <td className="figure pl-2">{signed(b.seconds / 60, 1)}</td>
                    <td className="figure pl-2">{b.holds.map((h) => figure(h, 2)).join("…")}</td>
                    <td className="py-0.5 pl-2">
                      {onSet && (
                        <Button
                          plain
                          className="!px-1.5 !py-0"
                          aria-label={`Apply ${figure(b.mm, 2)} mm`}
                          onClick={() => onSet(b.mm)}
                        >
                          Apply
                        </Button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {more}
        </div>
      )}
    </li>
  );
}

const signed = (value: number, digits: number): string => (value > 0 ? "+" : "") + figure(value, digits);
