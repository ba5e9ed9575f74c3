/** The layer log beside the part: its time for so many copies, sections and layer times, what hangs where. */
import type { Finding, LayerLog as Log, OverhangAnalysis, Proposal } from "../../api/client";
import { figure, hours, measure } from "../../domain/figures";
import { KINDS } from "../../domain/layers";
import { SAND } from "../../domain/palette";
import { LayerLog } from "../../plots/LayerLog";
import { DYES, stretchOf } from "./looks";

interface Props {
  log: Log | undefined;
  truth: OverhangAnalysis["truth"];
  rows: readonly Finding[];
  picked: number | null;
  onFinding: (finding: Finding) => void;
  /** The layers of the part as the remedies leave it, where they are shown in place of its own. */
  after: Proposal["log"];
  copies: number;
  onCopies: (copies: number) => void;
  /** The layer looked at. */
  at: number | null;
  onAt: (at: number | null) => void;
}

export function LogPanel({ log, truth, rows, picked, onFinding, after, copies, onCopies, at, onAt }: Props) {
  const shownAt = at !== null && log ? Math.min(at, log.area_mm2.length - 1) : null;
  return (
    <section className="flex min-h-0 flex-col border-l border-ink pl-1">
      <div className="flex items-baseline gap-2 px-2 pt-3">
        <h2 className="text-[15px] font-bold">Layer log</h2>
        <label className="ml-auto text-second">
          copies{" "}
          <input
            type="number"
            min={1}
            max={1000}
            value={copies}
            onChange={(e) => onCopies(Math.max(1, Math.min(1000, Math.round(Number(e.target.value)) || 1)))}
            className="figure w-14 border border-bark bg-paper px-1 text-right text-ink"
          />
        </label>
      </div>
      <p className="px-2 text-second" data-testid="log-total">
        {log ? (
          <>
            <b className="figure text-ink">{hours(log.total_s)}</b> h:mm
            {log.copies > 1 && ` for ${log.copies} together; one alone ${hours(log.total_one_s)}`} ·{" "}
            {log.area_mm2.length} layers of {figure(log.layer_mm, 2)} mm
          </>
        ) : (
          "time and sections of every layer"
        )}
      </p>
      <div className="min-h-0 flex-1 pt-2 pb-2" onPointerLeave={() => onAt(null)}>
        {after && <LayersAfter log={after} before={log?.area_mm2} at={at} onAt={onAt} />}
        {!after && log && truth && (
          <LayerLog
            layer={log.layer_mm}
            first={log.first_mm}
            count={log.area_mm2.length}
            height={truth.height_mm}
            tracks={[
              { name: "section", unit: "mm²", values: log.area_mm2, colour: SAND },
              {
                name: "layer time",
                unit: "s",
                values: log.seconds_one,
                over: log.copies > 1 ? log.seconds : undefined,
                colour: "var(--color-lichen)",
              },
            ]}
            stretches={rows.filter((r) => r.unit === "mm").map((r) => stretchOf(r, picked))}
            events={log.events.map((e) => ({
              low: e.z_mm,
              high: e.kind === "cooling" ? e.to_mm : e.z_mm,
              words: e.words,
            }))}
            at={shownAt}
            onAt={onAt}
            onStretch={(key) => {
              const found = rows.find((r) => String(r.number_on_part) === key);
              if (found) onFinding(found);
            }}
            label="Layer log, from the plate upward"
            reading={
              shownAt === null
                ? "no layer"
                : `layer ${shownAt + 1}, ${figure(log.first_mm + shownAt * log.layer_mm, 1)} mm up, ${measure(log.area_mm2[shownAt])} mm², ${figure(log.seconds_one[shownAt], 1)} s`
            }
          />
        )}
      </div>
    </section>
  );
}

/** The layers of the part as the remedies leave it; dashed, the sections of before. */
function LayersAfter({
  log,
  before,
  at,
  onAt,
}: {
  log: NonNullable<Proposal["log"]>;
  before: readonly number[] | undefined;
  at: number | null;
  onAt: (at: number | null) => void;
}) {
  const count = log.area_mm2.length;
  const shown = at === null ? null : Math.min(at, count - 1);
  return (
    <LayerLog
      layer={log.layer_mm}
      first={log.first_mm}
      count={count}
      height={log.first_mm + (count - 0.5) * log.layer_mm}
      tracks={[
        { name: "section", unit: "mm²", values: log.area_mm2, over: before, colour: SAND },
        { name: "layer time", unit: "s", values: log.seconds, colour: "var(--color-lichen)" },
      ]}
      stretches={log.hangs.flatMap((r, i) =>
        r.mm === null
          ? []
          : [
              {
                key: String(i),
                low: r.z_mm,
                high: r.top_mm,
                mm: r.mm,
                colour: DYES[r.needs_support ? 0 : 2],
                words: `${KINDS[r.kind]}${r.needs_support ? ", needs support" : ", holds by itself"}`,
                lit: false,
              },
            ],
      )}
      events={[]}
      at={shown}
      onAt={onAt}
      label="Layer log after the remedies, from the plate upward"
      reading={
        shown === null
          ? "no layer"
          : `layer ${shown + 1}, ${figure(log.first_mm + shown * log.layer_mm, 1)} mm up, ${measure(log.area_mm2[shown])} mm², ${figure(log.seconds[shown], 1)} s`
      }
    />
  );
}
