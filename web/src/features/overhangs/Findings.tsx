/** Every region that hangs, as a sentence with its number; each ends settled. */
import { type ReactNode, useState } from "react";

import type { Finding, Gone } from "../../api/client";
import { useRemedyNames } from "../../api/queries";
import type { NumberKey } from "../../domain/explained";
import { figure, measure, moment } from "../../domain/figures";
import { KINDS, REMEDY_NUMBERS } from "../../domain/layers";
import { Named } from "../../ui/Explained";
import { Button, Input } from "../../ui/controls";

export const VERDICTS = {
  fails: { words: "fails", className: "text-crown" },
  doubtful: { words: "doubtful", className: "text-ochre" },
  holds: { words: "holds", className: "text-second" },
} as const;

const STATES: Readonly<Record<string, string>> = {
  accepted: "accepted",
  not_applicable: "not applicable",
  remedied: "remedied",
};

/** What fails before what is doubtful. */
export const byVerdict = (rows: readonly Finding[]): Finding[] =>
  [...rows].sort((a, b) => Object.keys(VERDICTS).indexOf(a.verdict) - Object.keys(VERDICTS).indexOf(b.verdict));

export interface FindingsProps {
  rows: readonly Finding[];
  gone: readonly Gone[];
  here: number | null;
  onHere: (finding: Finding) => void;
  onSettle:
    ((finding: Finding, state: "accepted" | "not_applicable" | "open", reason: string) => Promise<boolean>) | null;
  /** Does a remedy of a finding on the solid; null for those who may not. */
  onApply: ((finding: Finding, remedy: string) => void) | null;
  /** What came of it. */
  outcome: (finding: Finding) => ReactNode;
}

type Told = Pick<FindingsProps, "onSettle" | "onApply" | "outcome">;

export function Findings({ rows, gone, here, onHere, ...told }: FindingsProps) {
  const open = byVerdict(rows).filter((r) => r.state === "open");
  const settled = rows.filter((r) => r.state !== "open" && r.state !== "none");
  const hold = rows.filter((r) => r.state === "none");
  const list = (found: readonly Finding[]) =>
    found.map((r) => (
      <Row key={r.number_on_part} finding={r} here={r.number_on_part === here} onHere={onHere} {...told} />
    ));
  return (
    <div data-testid="findings">
      {rows.length === 0 && gone.length === 0 && (
        <p className="py-2 text-second">Nothing hangs beyond the limit in this direction.</p>
      )}
      {list(open)}
      {settled.length > 0 && <Group words={`${settled.length} settled`}>{list(settled)}</Group>}
      {gone.length > 0 && (
        <Group words={`${gone.length} found no more`}>
          {gone.map((g, i) => (
            <div key={`${g.sentence}-${i}`} className="border-b border-rule py-1.5 pl-[27px]" data-testid="gone">
              <p className="text-second line-through decoration-1">{g.sentence}</p>
              <p>
                <b>{STATES[g.state]}</b>
                {g.reason && `: ${g.reason}`} <span className="text-second">· changed: {g.because.join(", ")}</span>
              </p>
            </div>
          ))}
        </Group>
      )}
      {hold.length > 0 && (
        <Group
          words={hold.length === 1 ? "1 holds by itself" : `${hold.length} hold by themselves`}
          closed={open.length > 0}
        >
          {list(hold)}
        </Group>
      )}
    </div>
  );
}

function Group({ words, closed, children }: { words: string; closed?: boolean; children: ReactNode }) {
  return (
    <details open={!closed} className="mt-3">
      <summary className="cursor-pointer border-b-[1.4px] border-ink pb-0.5 font-semibold">{words}</summary>
      {children}
    </details>
  );
}

function Row({
  finding,
  here,
  onHere,
  ...told
}: { finding: Finding; here: boolean; onHere: (f: Finding) => void } & Told) {
  const verdict = VERDICTS[finding.verdict];
  const settled = finding.state !== "open" && finding.state !== "none";
  return (
    <div
      className={`border-b border-rule ${here ? "bg-lit/60" : ""}`}
      data-finding={finding.number_on_part}
      data-verdict={finding.verdict}
      data-state={finding.state}
    >
      <button
        type="button"
        aria-expanded={here}
        onClick={() => onHere(finding)}
        className="grid w-full grid-cols-[24px_1fr_auto] items-baseline gap-x-1 py-1.5 pr-1.5 text-left hover:bg-raised"
      >
        <span className="figure text-second">{finding.number_on_part}</span>
        <span>
          <span className="font-semibold">{KINDS[finding.kind]}</span>{" "}
          <span className={`font-semibold ${settled ? "text-second" : verdict.className}`}>
            {settled ? STATES[finding.state] : verdict.words}
          </span>
          <span className="figure pl-2 text-[11px] text-second">{figure(finding.z_mm, 1)} mm up</span>
        </span>
        <span className="figure text-right">
          <b className={finding.verdict === "fails" && !settled ? "text-crown" : ""}>{number(finding)}</b>
          <span className="text-second">{limit(finding)}</span>
        </span>
      </button>
      {here && <Result finding={finding} {...told} />}
    </div>
  );
}

const number = (f: Finding) => (f.unit === "mm" ? figure(f.number, 1) : measure(f.number));
const limit = (f: Finding) => (f.limit === null ? ` ${f.unit}` : ` / ${figure(f.limit, 1)} mm`);

/** What the number of a kind is called, and what explains it. */
const NUMBERS: Readonly<Record<string, readonly [string, NumberKey]>> = {
  island: ["begins in mid-air", "needs_support"],
  bridge: ["free span", "bridge"],
  bore_roof: ["free span", "bridge"],
  ledge: ["reach", "reach"],
  bed_round: ["reach", "reach"],
  slope: ["leans out on", "overhang"],
};

function Result({ finding, onSettle, onApply, outcome }: { finding: Finding } & Told) {
  const named = useRemedyNames();
  const [reason, setReason] = useState("");
  const { settled } = finding;
  const say = (state: "accepted" | "not_applicable" | "open") =>
    void onSettle?.(finding, state, reason).then((done) => done && setReason(""));
  const called = NUMBERS[finding.kind];
  const cost: [string, string, NumberKey?][] = [
    ...(called ? [[called[0], number(finding) + limit(finding), called[1]] as [string, string, NumberKey]] : []),
    ["support under it", `${measure(finding.support_volume_mm3)} mm³`],
    ["surface to clean", `${measure(finding.scar_mm2)} mm²`, "scar"],
    [finding.over_part ? "gap to the part below" : "height over the plate", `${figure(finding.drop_mm, 2)} mm`],
  ];
  if (finding.clearance_mm !== null) cost.push(["clearance to leave below", `${figure(finding.clearance_mm, 2)} mm`]);
  return (
    <div className="space-y-2 pb-3 pl-[27px] pr-2" data-testid="finding-told">
      <p>{finding.sentence}</p>
      {finding.because.map((b) => (
        <p key={b} className={VERDICTS[finding.verdict].className}>
          {b}
        </p>
      ))}
      <dl className="narrow grid grid-cols-[1fr_auto] gap-x-3 border-y border-rule py-1">
        {cost.map(([name, value, of]) => (
          <div key={name} className="contents">
            <dt className="text-second">
              <Named of={of}>{name}</Named>
            </dt>
            <dd className="figure text-right">{value}</dd>
          </div>
        ))}
      </dl>
      {finding.verdict !== "holds" &&
        finding.remedies.map((r) => {
          const key = String(r.key);
          return (
            <div key={key} className="flex items-baseline gap-2" data-remedy={key}>
              <p className="flex-1">
                <b>{named(key).title}</b> <span className="text-second">{REMEDY_NUMBERS[key]?.(r)}</span>
              </p>
              {onApply && (
                <Button
                  plain
                  className="!px-1.5 !py-0"
                  aria-label={`Apply ${named(key).title}`}
                  onClick={() => onApply(finding, key)}
                >
                  Apply
                </Button>
              )}
            </div>
          );
        })}
      {outcome(finding)}
      {settled && (
        <p>
          {finding.grown ? "Was " : ""}
          {STATES[settled.state]} by {settled.by}
          {settled.at && `, ${moment(settled.at)}`}: {settled.reason}
          {finding.grown && (
            <span className="text-crown">
              {" "}
              It was {figure(settled.number, 1)} {settled.unit} then, and has grown.
            </span>
          )}
        </p>
      )}
      {onSettle && finding.state === "open" && (
        <form
          className="space-y-2"
          onSubmit={(e) => {
            e.preventDefault();
            say("accepted");
          }}
        >
          <Input
            id="settle-reason"
            label="Why it can stay"
            value={reason}
            maxLength={2000}
            onChange={(e) => setReason(e.target.value)}
          />
          <div className="flex gap-2">
            <Button type="submit" disabled={reason.trim().length < 3}>
              Accept
            </Button>
            <Button plain disabled={reason.trim().length < 3} onClick={() => say("not_applicable")}>
              Not applicable
            </Button>
          </div>
        </form>
      )}
      {onSettle && settled && finding.state !== "open" && (
        <Button plain onClick={() => say("open")}>
          Reopen it
        </Button>
      )}
    </div>
  );
}
