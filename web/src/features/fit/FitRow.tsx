/** One touching face: how it comes out, what is to be drawn; opened, what it meets and what the process does to it. */
import type { FitEstimate, OtherFace, FitRow as Row, Touch } from "../../api/fit";
import type { NumberKey } from "../../domain/explained";
import { figure } from "../../domain/figures";
import { VERDICTS, kindOfMeasure, signed } from "../../domain/fits";
import { FITS } from "../../domain/needs";
import { reserve } from "../../domain/strength";
import { OriginMark } from "../../ui/OriginMark";
import { Text } from "../../ui/Text";
import { Button, Select } from "../../ui/controls";
import { SumLine } from "./SumLine";

interface Props {
  touch: Touch;
  name: string;
  row: Row | undefined;
  /** The named faces that it can be measured to. */
  faces: readonly (readonly [string, string])[];
  /** The touching faces of other parts that it can meet. */
  others: readonly OtherFace[];
  /** What became of it in the drawing that holds. */
  drawn: Row | undefined;
  here: boolean;
  picked: boolean;
  onOpen: () => void;
  onPick: (picked: boolean) => void;
  /** Null for those who may not. */
  onChange: ((change: Partial<Record<keyof Touch, unknown>>) => void) | null;
  onOut: (() => void) | null;
}

/** What of them is explained. */
export const NAMED: Readonly<Partial<Record<string, NumberKey>>> = { "comes out": "comes_out", clearance: "clearance" };

export const COLUMNS = ["", "face", "fit", "drawn", "comes out", "clearance", "draw"] as const;

export function FitRow(props: Props) {
  const { touch, name, row, drawn, here, picked, onOpen, onPick, onChange } = props;
  const told = row?.estimate;
  const verdict = told ? VERDICTS[told.verdict] : undefined;
  const refused = drawn?.refused ?? null;
  const round = told?.kind === "bore" || told?.kind === "pin";
  const sized = told && told.kind !== "other" && told.kind !== "flat" && told.kind !== "corner";
  return (
    <>
      <tr className={`border-t border-rule align-top ${here ? "bg-raised" : ""}`} data-fit={name}>
        <td className="w-8 py-1.5 pl-3">
          {row?.changes && onChange && (
            <input
              type="checkbox"
              className="accent-ink"
              aria-label={`draw ${name}`}
              checked={picked}
              onChange={(e) => onPick(e.target.checked)}
            />
          )}
        </td>
        <td className="py-1 pr-2">
          <button type="button" className="text-left" aria-expanded={here} onClick={onOpen}>
            <b>{name}</b>
            {told && (
              <span className="narrow block text-second">
                {kindOfMeasure(told.kind)}
                {told.lies && `, ${told.lies}`}
                {round && told.count > 1 && `, ${told.count} in line`}
              </span>
            )}
          </button>
        </td>
        <td className="narrow py-1 pr-2 text-second">
          {touch.duty === "inside_corner" ? "relieved" : (FITS.find(([k]) => k === (touch.fit ?? ""))?.[1] ?? "")}
        </td>
        <td className="figure py-1 pr-2 text-right">{sized ? figure(told.drawn_mm, 2) : "–"}</td>
        <td className="figure py-1 pr-2 text-right">
          {told && sized ? (
            <>
              {figure(told.printed_mm, 2)} <span className="text-second">±{figure(told.doubt_mm, 2)}</span>
            </>
          ) : (
            "–"
          )}
        </td>
        <td className="py-1 pr-2 text-right">
          {told && (
            <>
              <span className={`figure ${verdict?.fails ? "font-bold text-crown" : ""}`}>
                {told.gap_mm === null ? "" : signed(told.gap_mm)}
              </span>
              <span className={`narrow block ${verdict?.fails ? "text-crown" : "text-second"}`}>
                {told.kind === "corner" ? "a fillet stays" : verdict?.word}
              </span>
            </>
          )}
        </td>
        <td className="py-1 pr-3 text-right">
          {told && row?.changes && (
            <>
              <b className="figure">
                {told.kind === "corner" ? `R ${figure(told.to_draw_mm, 2)}` : figure(told.to_draw_mm, 2)}
              </b>
              {told.kind !== "corner" && <span className="figure block text-second">{signed(told.change_mm)}</span>}
            </>
          )}
          {told && !row?.changes && <span className="narrow text-second">{touch.drawn ? "drawn" : "as it is"}</span>}
        </td>
      </tr>
      {(row?.why ?? refused) && (
        <tr>
          <td />
          <td colSpan={6} className="pr-3 pb-1 text-crown">
            {row?.why ?? refused}
          </td>
        </tr>
      )}
      {here && (
        <tr className="bg-raised">
          <td />
          <td colSpan={6} className="pr-3 pb-2.5">
            <Opened {...props} told={told ?? null} />
          </td>
        </tr>
      )}
    </>
  );
}

/** A pin pushed from the side: what it bears at its root, and which radius there would save it. */
function Pushed({ pushed }: { pushed: NonNullable<Row["pushed"]> }) {
  const fails = pushed.reserve < 1;
  const cure = pushed.radius === null ? "no root radius saves it" : `root R ${figure(pushed.radius, 2)} mm saves it`;
  return (
    <table className="w-full" data-testid="pushed">
      <tbody>
        <SumLine words={`pushed from the side, ${pushed.stands ? "across its layers" : "with its layers along it"}`}>
          reserve <b className={fails ? "text-crown" : ""}>{reserve(pushed.reserve)}</b>
        </SumLine>
        <SumLine words={`at its root, of ${figure(pushed.strength, 0)} MPa`}>
          {figure(pushed.stress, 1)} MPa × {figure(pushed.notch, 2)} for the notch
        </SumLine>
        {fails && <SumLine words={cure}>{pushed.stands ? "or print it lying" : ""}</SumLine>}
      </tbody>
    </table>
  );
}

function Opened({ touch, row, faces, others, told, onChange, onOut }: Props & { told: FitEstimate | null }) {
  const pick = (key: keyof Touch) => (value: string) => onChange?.({ [key]: value || null });
  return (
    <div className="space-y-2" data-testid="fit-fields">
      {told?.says.map((s) => (
        <p key={s} className={s.startsWith("As drawn they overlap") ? "text-crown" : "text-second"}>
          {s}
        </p>
      ))}
      {row?.lost && (
        <p className="text-crown">
          What it meets is not there any more, or its part has no direction yet: choose another face, or type a size.
        </p>
      )}
      {row?.meets && (
        <p className="text-second">
          {row.meets.name} comes out as <span className="figure text-ink">{figure(row.meets.mm, 2)}</span> ±
          <span className="figure text-ink">{figure(row.meets.doubt, 2)} mm</span>.
        </p>
      )}
      {touch.duty !== "inside_corner" && (
        <div className="grid grid-cols-4 gap-x-2 gap-y-1.5">
          <Select label="fit" value={touch.fit ?? ""} options={FITS} onPick={pick("fit")} disabled={!onChange} />
          <Select
            label="measured to"
            value={touch.across ?? ""}
            options={[["", "what lies across"], ...faces]}
            onPick={pick("across")}
            disabled={!onChange}
          />
          <Select
            label="meets"
            value={touch.meets ? `${touch.meets.part}/${touch.meets.touch}` : ""}
            options={[
              ["", "a typed size"],
              ...others.map((o) => [`${o.part}/${o.touch}`, o.name] as const),
              ...(row?.lost && touch.meets
                ? [[`${touch.meets.part}/${touch.meets.touch}`, "a face that is gone"] as const]
                : []),
            ]}
            onPick={(key) => {
              const [part, touched] = key.split("/");
              onChange?.({ meets: key ? { part, touch: touched } : null });
            }}
            disabled={!onChange}
          />
          <Text
            label="its size"
            hint={row?.meets ? `${figure(row.meets.mm, 2)} ±${figure(row.meets.doubt, 2)}` : "8 mm"}
            now={touch.meets ? "" : (touch.size?.typed ?? "")}
            onWrite={touch.meets ? null : onChange && pick("size")}
          />
          <Text label="larger by" hint="0 mm" now={touch.plus?.typed ?? ""} onWrite={onChange && pick("plus")} />
          <Text label="smaller by" hint="0 mm" now={touch.minus?.typed ?? ""} onWrite={onChange && pick("minus")} />
          <Text
            label="clearance"
            hint={told?.wanted_gap_mm === null || !told ? "per side" : `${figure(told.wanted_gap_mm, 2)} mm`}
            now={touch.gap?.typed ?? ""}
            onWrite={onChange && pick("gap")}
          />
          {told?.kind === "pin" && (
            <Text
              label="pushed from the side"
              hint="20 N, at its end"
              now={touch.push?.typed ?? ""}
              onWrite={onChange && pick("push")}
            />
          )}
        </div>
      )}
      {row?.pushed && <Pushed pushed={row.pushed} />}
      {told && told.corrections.length > 0 && (
        <table className="w-full" data-testid="corrections">
          <tbody>
            {told.corrections.map((c) => (
              <tr key={c.words} className="border-t border-rule">
                <td className="py-0.5">{c.words}</td>
                <td className="figure text-right">{c.compensated ? "–" : `${signed(c.mm)} mm`}</td>
                <td className="narrow w-[190px] pl-3 text-second">
                  {c.compensated ? (
                    "done to the file"
                  ) : c.origin ? (
                    <>
                      <OriginMark origin={c.origin} />, {c.record}
                    </>
                  ) : (
                    "△ geometry"
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {told?.least_gap_mm !== null && told?.most_gap_mm !== null && told && (
        <p className="text-second">
          Clearance per side as printed: <span className="figure text-ink">{signed(told.least_gap_mm)}</span> to{" "}
          <span className="figure text-ink">{signed(told.most_gap_mm)} mm</span>, wanted{" "}
          <span className="figure text-ink">{signed(told.wanted_gap_mm)} mm</span> round{" "}
          <span className="figure text-ink">{figure(told.mate_mm, 2)} mm</span>.
        </p>
      )}
      {onOut && (
        <p className="flex justify-end">
          <Button plain onClick={onOut}>
            Take out
          </Button>
        </p>
      )}
    </div>
  );
}
