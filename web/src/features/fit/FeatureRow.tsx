/** One feature that is made on a face: what it bears as the part stands; opened, its numbers and its sums. */
import type { RemedyLook } from "../../api/client";
import type { Feature, FeatureKind, FeatureRow as Row } from "../../api/fit";
import { figure } from "../../domain/figures";
import { Text } from "../../ui/Text";
import { Button, Select, Tick } from "../../ui/controls";
import { ReserveSaid } from "./ReserveSaid";
import { SumLine } from "./SumLine";

interface Props {
  feature: Feature;
  kind: FeatureKind | undefined;
  row: Row | undefined;
  /** What became of it in the drawing that holds. */
  drawn: Row | undefined;
  /** What it would add and take away, or why it cannot be. */
  tried: RemedyLook | undefined;
  here: boolean;
  picked: boolean;
  onOpen: () => void;
  onPick: (yes: boolean) => void;
  /** Null for those who may not. */
  onChange: ((change: Partial<Record<keyof Feature, unknown>>) => void) | null;
  onOut: (() => void) | null;
}

/** Shares and counts want no more than two places, lengths two. */
const written = (value: number, unit: string) => `${figure(value, 2)}${unit ? ` ${unit}` : ""}`;

export function FeatureRow({ feature, kind, row, drawn, tried, here, picked, onOpen, onPick, onChange, onOut }: Props) {
  const fails = row?.reserve !== null && row?.reserve !== undefined && row.reserve < 1;
  const refused = row?.why ?? (tried ? tried.why : drawn?.refused);
  const sizes = kind?.fields.filter((f) => !f.asks) ?? [];
  const asks = kind?.fields.filter((f) => f.asks) ?? [];
  const main = sizes.filter((f) => f.unit === "mm" && row?.numbers[f.name] !== undefined).slice(0, 3);
  const set = (name: string, value: string) => {
    const others = Object.entries(feature.numbers ?? {}).filter(([key]) => key !== name);
    onChange?.({ numbers: Object.fromEntries(value ? [...others, [name, value]] : others) });
  };
  const field = (f: FeatureKind["fields"][number]) => {
    const now = row?.numbers[f.name];
    if (f.choices.length > 0)
      return (
        <Select
          key={f.name}
          label={f.words}
          value={String(Math.round(feature.numbers?.[f.name]?.n ?? now ?? 0))}
          options={f.choices.map((words, i) => [String(i), words] as const)}
          disabled={!onChange}
          onPick={(v) => set(f.name, v)}
        />
      );
    return (
      <Text
        key={f.name}
        label={`${f.words}${f.unit ? `, ${f.unit}` : ""}`}
        hint={now === undefined ? "" : written(now, f.unit)}
        now={feature.numbers?.[f.name]?.typed ?? ""}
        onWrite={onChange && ((v) => set(f.name, v))}
      />
    );
  };
  return (
    <li className={`border-t border-rule ${here ? "bg-raised" : ""}`} data-feature={feature.name}>
      <div className="flex items-start">
        {row && !row.why && onChange && (
          <Tick ticked={picked} onTick={onPick} className="gap-0 pt-1.5 pl-3">
            <span className="sr-only">make {feature.name}</span>
          </Tick>
        )}
        <button
          type="button"
          className="grid min-w-0 flex-1 grid-cols-[1fr_auto] gap-x-3 px-3 py-1 text-left"
          aria-expanded={here}
          onClick={onOpen}
        >
          <b>{feature.name}</b>
          <span className="text-right">
            {feature.made ? (
              <span className="text-second">made in this part</span>
            ) : (
              row && row.reserve !== null && <ReserveSaid value={row.reserve} fails={fails} />
            )}
          </span>
          {main.length > 0 && (
            <span className="narrow col-span-2 text-second">
              {main.map((f, i) => (
                <span key={f.name}>
                  {i > 0 && ", "}
                  {f.words.split(",")[0]} <span className="figure">{written(row?.numbers[f.name] ?? 0, f.unit)}</span>
                </span>
              ))}
            </span>
          )}
          {refused && <span className="col-span-2 text-crown">{refused}</span>}
        </button>
      </div>
      {here && (
        <div className="space-y-2 px-3 pb-2.5" data-testid="feature-fields">
          {row?.says.map((s) => (
            <p key={s} className={s.startsWith("It stands") ? "text-crown" : "text-second"}>
              {s}
            </p>
          ))}
          {!feature.made && <div className="grid grid-cols-3 items-end gap-x-2 gap-y-1.5">{sizes.map(field)}</div>}
          {!feature.made && asks.length > 0 && (
            <>
              <h4 className="narrow text-second">for its sums</h4>
              <div className="grid grid-cols-3 items-end gap-x-2 gap-y-1.5">{asks.map(field)}</div>
            </>
          )}
          {row && row.lines.length > 0 && (
            <table className="w-full" data-testid="feature-sums">
              <tbody>
                {row.lines.map((x) => (
                  <SumLine key={x.words} words={x.words}>
                    <span className={x.fails ? "text-crown" : ""}>{written(x.value, x.unit)}</span>
                  </SumLine>
                ))}
              </tbody>
            </table>
          )}
          {onOut && (
            <p className="flex">
              <Button plain onClick={onOut} className="ml-auto">
                Take out
              </Button>
            </p>
          )}
        </div>
      )}
    </li>
  );
}
