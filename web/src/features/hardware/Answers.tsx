/** What the hardware comes to: the reserve with it, every bolt, what else would do, what is to be bought. */
import { Link, useNavigate } from "@tanstack/react-router";
import type { ReactNode } from "react";

import { type Part, api } from "../../api/client";
import { type BoltFits, type BoltsThatHold, type HardwareAnalysis, useFits, useWays } from "../../api/hardware";
import { useCurrency, useSend, useSession } from "../../api/queries";
import type { NumberKey } from "../../domain/explained";
import { figure, hours } from "../../domain/figures";
import { torqueWords } from "../../domain/hardware";
import { mayEdit } from "../../domain/roles";
import { MODES, reserve } from "../../domain/strength";
import { Named } from "../../ui/Explained";
import { useView } from "../../ui/address";
import { Button, Tabs, Trouble } from "../../ui/controls";

type View = "reserve" | "bolts" | "sizes" | "ways" | "list";
const VIEWS: readonly (readonly [View, string])[] = [
  ["reserve", "reserve"],
  ["bolts", "each bolt"],
  ["sizes", "other sizes"],
  ["ways", "other ways"],
  ["list", "from the shelf"],
];

const VIEW_KEYS = VIEWS.map(([key]) => key);

const red = (value: number | null | undefined, limit = 1) =>
  value !== null && value !== undefined && value < limit ? "font-bold text-crown" : "";

interface Props {
  part: Part;
  analysis: HardwareAnalysis;
  /** Puts bolts into the job as they are said to hold; null for whoever may not. */
  onFit: ((found: BoltsThatHold) => void) | null;
}

export function Answers({ part, analysis, onFit }: Props) {
  const [view, setView] = useView("tab", VIEW_KEYS);
  return (
    <div className="flex min-h-0 flex-col">
      <Tabs
        label="What the hardware comes to"
        tabs={VIEWS}
        here={view}
        onPick={setView}
        className="border-b border-rule px-3 pt-1.5"
      />
      <div className="min-h-0 flex-1 overflow-auto px-3 pb-2" role="tabpanel" tabIndex={0} aria-label={view}>
        {view === "reserve" && <Reserve analysis={analysis} />}
        {view === "bolts" && <Bolts analysis={analysis} />}
        {view === "sizes" && <Sizes part={part} analysis={analysis} onFit={onFit} />}
        {view === "ways" && <Ways part={part} />}
        {view === "list" && <Shelf part={part} analysis={analysis} />}
      </div>
    </div>
  );
}

/** What of the heads is explained. */
const HEADS: Readonly<Record<string, NumberKey>> = {
  reserve: "reserve",
  "without steel": "reserve",
  "with bolts": "reserve",
  "opens at": "opens_at",
  preload: "preload",
  "left to close": "preload",
  head: "seat_pressure",
  nut: "seat_pressure",
  "may press": "seat_pressure",
  plastic: "mass",
  time: "time",
};

function Table({ heads, children, testid }: { heads: readonly string[]; children: ReactNode; testid: string }) {
  return (
    <table className="w-full border-collapse" data-testid={testid}>
      <thead>
        <tr className="narrow border-b border-ink text-left text-second">
          {heads.map((h, i) => (
            <th key={h} className={`py-0.5 pr-3 font-normal ${i ? "text-right" : ""}`}>
              <Named of={HEADS[h]}>{h}</Named>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}

const Cell = ({ children, className = "" }: { children: ReactNode; className?: string }) => (
  <td className={`figure py-0.5 pr-3 text-right align-top ${className}`}>{children}</td>
);

function Reserve({ analysis }: { analysis: HardwareAnalysis }) {
  const { told, with_rods: rods } = analysis;
  if (analysis.unsolved) return <p className="py-2 text-crown">{analysis.unsolved}</p>;
  if (!told && !rods) {
    const cards = Object.keys(analysis.cards).length;
    return (
      <p className="py-2 text-second">
        {cards
          ? "These pieces are reckoned by their cards, in the list. Bolts and rods are counted in the reserve once loads are written."
          : "No loads are written, so there is no reserve. Write them in the requirements."}
      </p>
    );
  }
  return (
    <>
      {told && (
        <Table
          heads={["load", "without steel", "with bolts", "opens at", "bolts alone", "it fails then"]}
          testid="clamped"
        >
          {told.cases.map((c) => (
            <tr key={c.name} className="border-b border-rule">
              <td className="py-0.5 pr-3 font-semibold">{c.name}</td>
              <Cell className={red(c.plain)}>{reserve(c.plain)}</Cell>
              <Cell className={red(c.clamped)}>
                {reserve(c.clamped)}
                {c.low !== null && c.high !== null && (
                  <span className="font-normal text-second">
                    {" "}
                    ({reserve(c.low)}…{reserve(c.high)})
                  </span>
                )}
              </Cell>
              <Cell>{c.opens_at === null ? "–" : `${figure(c.opens_at, 2)} ×`}</Cell>
              <Cell className={red(c.alone.reserve)}>
                <span title={c.alone.words}>{c.alone.count ? reserve(c.alone.reserve) : "none crosses"}</span>
              </Cell>
              <td className="py-0.5 text-right text-second">
                {MODES[c.mode]}, <span className="figure">{figure(c.z_mm, 1)} mm</span> up
              </td>
            </tr>
          ))}
          <tr>
            <td className="py-0.5 pr-3 font-semibold">the preload alone</td>
            <Cell>–</Cell>
            <Cell className={red(told.preload.reserve)}>{reserve(told.preload.reserve)}</Cell>
            <Cell>–</Cell>
            <Cell>–</Cell>
            <td className="py-0.5 text-right text-second">
              {MODES[told.preload.mode]}, <span className="figure">{figure(told.preload.z_mm, 1)} mm</span> up
            </td>
          </tr>
        </Table>
      )}
      {rods && (
        <Table
          heads={[
            "load",
            "without rods",
            "by section",
            "as steel cubes",
            "steel",
            "pressed at its end",
            "weakest then",
          ]}
          testid="rods"
        >
          {rods.map((c) => (
            <tr key={c.name} className="border-b border-rule">
              <td className="py-0.5 pr-3 font-semibold">{c.name}</td>
              <Cell className={red(c.plain)}>{reserve(c.plain)}</Cell>
              <Cell className={red(c.reserve)}>{reserve(c.reserve)}</Cell>
              <Cell className={red(c.elements)}>{reserve(c.elements)}</Cell>
              <Cell>{figure(c.steel_mpa, 0)} MPa</Cell>
              <Cell className={red(c.bearing_reserve)}>{reserve(c.bearing_reserve)}</Cell>
              <td className="py-0.5 text-right text-second">
                <span className="figure">{figure(c.z_mm, 1)} mm</span> up{c.beyond ? ", beyond the rod" : ""}
              </td>
            </tr>
          ))}
        </Table>
      )}
      <p className="narrow pt-1 text-second">
        Without steel: the part with its places cut. Opens at: the load, times so much, at which the layers part where
        it would fail without bolts. A screening estimate: prove it by a trial.
      </p>
    </>
  );
}

function Bolts({ analysis }: { analysis: HardwareAnalysis }) {
  const rows = analysis.told?.bolts ?? [];
  if (rows.length === 0) return <p className="py-2 text-second">No bolt is in the solution.</p>;
  return (
    <>
      <Table
        heads={[
          "bolt",
          "torque",
          "seats bear",
          "preload",
          "left to close",
          "of the load",
          "head",
          "nut",
          "may press",
          "bolt's reserve",
        ]}
        testid="bolts"
      >
        {rows.map((b) => (
          <tr key={b.id} className="border-b border-rule">
            <td className="py-0.5 pr-3 font-semibold">{b.name}</td>
            <Cell className={b.torque_nmm > b.most_torque_nmm ? "font-bold text-crown" : ""}>
              {torqueWords(b.torque_nmm)}
            </Cell>
            <Cell>{torqueWords(b.most_torque_nmm)}</Cell>
            <Cell>
              {figure(b.low_n, 0)}…{figure(b.high_n, 0)} N
            </Cell>
            <Cell className={b.loose ? "font-bold text-crown" : ""}>
              {b.loose ? "loose" : `${figure(b.left_n, 0)} N`}
            </Cell>
            <Cell>{figure(b.carries_n, 0)} N</Cell>
            <Cell className={b.head_mpa > b.limit_mpa ? "font-bold text-crown" : ""}>{figure(b.head_mpa, 1)} MPa</Cell>
            <Cell className={b.nut_mpa > b.limit_mpa ? "font-bold text-crown" : ""}>{figure(b.nut_mpa, 1)} MPa</Cell>
            <Cell>{figure(b.limit_mpa, 1)} MPa</Cell>
            <Cell className={red(b.bolt_reserve)}>{b.bolt_reserve > 99 ? "> 99" : figure(b.bolt_reserve, 1)}</Cell>
          </tr>
        ))}
      </Table>
      <p className="narrow pt-1 text-second">
        Closing counts with what is left: the low preload, relaxed, settled, at its coldest. Crushing counts with the
        high one, warm, and what the bolt takes of the load.
      </p>
    </>
  );
}

function Sizes({ part, analysis, onFit }: Props) {
  const rods = analysis.other_rods;
  return (
    <>
      {rods.length > 0 && (
        <Table heads={["rods of", "reserve"]} testid="rod-sizes">
          {rods.map((s) => (
            <tr key={s.size} className="border-b border-rule">
              <td className="py-0.5 pr-3 font-semibold">{s.size}</td>
              <Cell className={red(s.reserve)}>{reserve(s.reserve)}</Cell>
            </tr>
          ))}
        </Table>
      )}
      {(analysis.told !== null || rods.length === 0) && (
        <BoltSizes part={part} result={analysis.id} wanted={analysis.told !== null} onFit={onFit} />
      )}
    </>
  );
}

function BoltSizes({ part, result, wanted, onFit }: Omit<Props, "analysis"> & { result: string; wanted: boolean }) {
  const fits = useFits(part, result, wanted);
  if (!wanted) return <p className="py-2 text-second">There is no bolt under load to try sizes with.</p>;
  if (fits.error) return <p className="py-2 text-crown">{fits.error.message}</p>;
  if (!fits.data) return <p className="py-2 text-second">Trying every size …</p>;
  const least = fits.data.least_torque_nmm;
  return (
    <>
      <Holds part={part} fits={fits.data} onFit={onFit} />
      <p className="pb-1" data-testid="least-torque" hidden={fits.data.without_steel !== null}>
        {least === null ? (
          <>As they are drawn, what their seats bear does not make it hold.</>
        ) : (
          <>
            As they are drawn they hold from <b className="figure">{torqueWords(Math.max(...least))}</b> on each.
          </>
        )}
      </p>
      <Table heads={["size", "seats bear", "left to close", "reserve"]} testid="sizes">
        {fits.data.sizes.map((s) => (
          <tr key={s.size} className="border-b border-rule">
            <td className="py-0.5 pr-3 font-semibold">{s.size}</td>
            <Cell>{torqueWords(s.torque_nmm)}</Cell>
            <Cell>{figure(s.left_n, 0)} N</Cell>
            <Cell className={red(s.reserve)}>{reserve(s.reserve)}</Cell>
          </tr>
        ))}
      </Table>
      {fits.data.counts.length > 0 && (
        <Table heads={["fewer of them", "which", "reserve"]} testid="counts">
          {fits.data.counts.map((c) => (
            <tr key={c.count} className="border-b border-rule">
              <td className="py-0.5 pr-3 font-semibold">
                {c.count} {c.count === 1 ? "bolt" : "bolts"}
              </td>
              <td className="py-0.5 pr-3 text-right text-second">{c.names.join(", ")}</td>
              <Cell className={red(c.reserve)}>{reserve(c.reserve)}</Cell>
            </tr>
          ))}
        </Table>
      )}
      <p className="narrow pt-1 text-second">
        Each in place of what is drawn, by this solution: change the size and work it out again before it is trusted.
      </p>
    </>
  );
}

/** The fewest of the bolts that are drawn, the smallest, the least torque; or how many more it would take. */
function Holds({ part, fits, onFit }: { part: Part; fits: BoltFits; onFit: Props["onFit"] }) {
  const { holds, wanted, without_steel } = fits;
  const drawn = part.job.hardware.rows.filter((r) => r.kind === "bolt");
  if (holds) {
    const out = drawn.filter((r) => !holds.ids.includes(r.id)).map((r) => r.name);
    const many = `${holds.ids.length} ${holds.ids.length === 1 ? "bolt" : "bolts"} ${holds.size}`;
    return (
      <p className="flex items-baseline gap-3 pt-1" data-testid="holds">
        <span>
          <b>
            {many} at <span className="figure">{torqueWords(holds.torque_nmm)}</span>
          </b>{" "}
          hold it: reserve <b className="figure">{reserve(holds.reserve)}</b>
          {out.length > 0 && (
            <span className="text-second">
              , without {out.join(", ")}; worked out again it may be less, as the walls of their holes carry too
            </span>
          )}
        </span>
        {onFit && (
          <Button plain onClick={() => onFit(holds)}>
            Make it so
          </Button>
        )}
      </p>
    );
  }
  if (without_steel !== null)
    return (
      <p className="pt-1" data-testid="holds">
        With these holes, and the walls laid round them, it holds without steel: reserve{" "}
        <b className="figure">{reserve(without_steel)}</b>. The bolts add to that.
      </p>
    );
  return (
    <p className="pt-1" data-testid="holds">
      {wanted ? (
        <>
          Too few: about{" "}
          <b>
            <span className="figure">{wanted.count}</span> bolts {wanted.size}
          </b>{" "}
          standing where these do would hold it. Place them and work it out again.
        </>
      ) : (
        <>
          No number of bolts standing here makes it hold: it fails where they do not close, or by what they press. See
          other ways.
        </>
      )}
    </p>
  );
}

function Ways({ part }: { part: Part }) {
  const ways = useWays(part, true).data;
  const currency = useCurrency();
  const navigate = useNavigate();
  const { send, busy, trouble } = useSend();
  const role = useSession().data?.role;
  const tryBeside = async (stage: string) => {
    const made = await send(() => api.beginBeside(part.id));
    if (made) void navigate({ to: `/parts/$partId/${stage}` as "/parts/$partId/facts", params: { partId: made.id } });
  };
  if (!ways) return <p className="py-2 text-second">Reading …</p>;
  if (ways.length === 0)
    return <p className="py-2 text-second">Check the strength first: other ways are read from its answer.</p>;
  return (
    <>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Table
        heads={["way", "reserve", "plastic", "time", "by hand", `cost, ${currency}`, "from the shelf", ""]}
        testid="ways"
      >
        {ways.map((w, i) => (
          <tr key={`${w.key}-${i}`} className="border-b border-rule">
            <td className="py-0.5 pr-3">
              {w.stage ? (
                <Link to={`/parts/$partId/${w.stage}`} params={{ partId: part.id }} className="underline">
                  {w.words}
                </Link>
              ) : (
                <b>{w.words}</b>
              )}
            </td>
            <Cell className={red(w.reserve)}>{reserve(w.reserve)}</Cell>
            <Cell>{w.mass_g === null ? "–" : `${w.mass_g > 0 ? "+" : ""}${figure(w.mass_g, 1)} g`}</Cell>
            <Cell>
              {w.seconds === null
                ? "–"
                : `${w.seconds > 0 ? "+" : w.seconds < 0 ? "−" : ""}${hours(Math.abs(w.seconds))} h`}
            </Cell>
            <Cell>{w.minutes ? `${figure(w.minutes, 1)} min` : "–"}</Cell>
            <Cell>{w.cost === 0 ? "–" : `${w.cost > 0 ? "+" : ""}${figure(w.cost, 2)}`}</Cell>
            <td className="max-w-[260px] py-0.5 text-right text-second">{w.shelf || "nothing"}</td>
            <td className="py-0.5 pl-3 text-right whitespace-nowrap">
              {w.stage && mayEdit(role) && (
                <button
                  type="button"
                  className="underline disabled:text-second"
                  disabled={busy}
                  title="On a revision beside this one, which stays as it is"
                  onClick={() => void tryBeside(w.stage ?? "")}
                >
                  try beside
                </button>
              )}
            </td>
          </tr>
        ))}
      </Table>
    </>
  );
}

function Shelf({ part, analysis }: { part: Part; analysis: HardwareAnalysis }) {
  if (analysis.shopping.length === 0)
    return <p className="py-2 text-second">Nothing fits yet, so there is nothing to fetch.</p>;
  return (
    <>
      <Table heads={["item", "size", "count", "length", "torque", "note"]} testid="shelf">
        {analysis.shopping.map((line, i) => (
          <tr key={i} className="border-b border-rule">
            <td className="py-0.5 pr-3">{line.item}</td>
            <Cell>{line.size}</Cell>
            <Cell>{line.count}</Cell>
            <Cell>{line.length_mm === null ? "–" : `${figure(line.length_mm, 0)} mm`}</Cell>
            <Cell>{torqueWords(line.torque_nmm)}</Cell>
            <td className="py-0.5 text-right text-second">{line.note}</td>
          </tr>
        ))}
      </Table>
      <p className="pt-1">
        <a className="underline" href={`/api/hardware/of/${part.id}/list`}>
          as CSV
        </a>
      </p>
    </>
  );
}
