/** One number of copies in figures: reserve, output, cost by its lines, the weakest weld, how it holds the plate. */
import type { Batch, BatchAnalysis, BatchPoint } from "../../api/client";
import { daysFor, longTime } from "../../domain/batch";
import type { NumberKey } from "../../domain/explained";
import { figure } from "../../domain/figures";
import { reserve } from "../../domain/strength";
import { Named } from "../../ui/Explained";

const LINES = [
  ["machine", "machine"],
  ["plastic", "plastic"],
  ["hands", "hands"],
  ["energy", "energy"],
  ["hardware", "hardware"],
  ["scrap", "scrap"],
] as const;

/** Reserve, output and cost, to be read in two seconds. */
export function BatchHeadline({
  point,
  grams,
  currency,
}: {
  point: BatchPoint | null;
  grams: number;
  currency: string;
}) {
  if (!point) return <p className="py-2 text-second">…</p>;
  return (
    <dl className="grid grid-cols-3 gap-x-3 py-2" data-testid="batch-figures">
      <Big name="reserve" of="batch_reserve" bad={point.low !== null && point.low < 1} testid="batch-reserve">
        {reserve(point.reserve)}
        <small className="block text-[12px] font-normal text-second">
          {point.low === null ? "not known" : `at worst ${reserve(point.low)}`}
        </small>
      </Big>
      <Big name="good parts a day" of="per_day" testid="batch-per-day">
        {figure(point.per_day, point.per_day < 10 ? 1 : 0)}
        <small className="block text-[12px] font-normal text-second">one machine</small>
      </Big>
      <Big name={`cost of a part, ${currency}`} of="cost" testid="batch-cost">
        {figure(point.cost, 2)}
        <small className="block text-[12px] font-normal text-second">{figure(grams, 0)} g each</small>
      </Big>
    </dl>
  );
}

interface Props {
  point: BatchPoint | null;
  plate: NonNullable<BatchAnalysis["plate"]>;
  strength: BatchAnalysis["strength"];
  pauses: Batch["pauses"];
  machine: string | null;
  currency: string;
  onCopies: (copies: number) => void;
}

export function Figures({ point, plate, strength, pauses, machine, currency, onCopies }: Props) {
  if (!point) return null;
  const soft = plate.melts !== null && point.layer_s < plate.melts.least_s ? plate.melts : null;
  return (
    <div>
      {strength.doubt && <p className="narrow border-b border-rule py-1 text-ochre">{strength.doubt}</p>}
      {!strength.known && <p className="border-b border-rule py-1.5 text-ochre">{strength.words}</p>}
      <table className="w-full border-b border-rule">
        <tbody>
          <Row name="plate takes" of="time">
            {longTime(point.print_s)}
            {!point.at_hand && <span className="text-ochre"> · ends when nobody is there</span>}
          </Row>
          <Row name="a layer waits" of="layer_time">
            {figure(point.layer_s, 0)} s, at most {figure(point.longest_s, 0)} s
          </Row>
          <Row name="weakest weld" of="weld">
            {figure(point.weld, 2)} of the coupon's at {figure(point.weakest_at_mm, 1)} mm, at worst{" "}
            {figure(point.weld_low, 2)}
          </Row>
          {point.case !== null && (
            <Row name="decided by">
              {point.case}
              {point.fails_at_mm === null
                ? ", not by a weld"
                : `, between layers at ${figure(point.fails_at_mm, 1)} mm`}
            </Row>
          )}
        </tbody>
      </table>
      <p className="narrow border-b border-rule py-1 text-second">{point.weld_words}</p>
      {soft && (
        <p className="border-b border-rule py-1.5 text-ochre" data-testid="melts">
          May melt: from {figure(soft.from_mm, 1)} to {figure(soft.to_mm, 1)} mm a copy by itself is laid after{" "}
          <span className="figure">{figure(soft.wait_s, 0)} s</span> on what is still soft; it wants{" "}
          <span className="figure">{figure(soft.least_s, 0)} s</span>: print several together, or slower.
        </p>
      )}
      <h3 className="narrow pt-2 text-second">
        cost of a good part{machine ? ` on ${machine}` : ""}, {currency}
      </h3>
      <table className="w-full border-t border-rule" data-testid="cost-lines">
        <tbody>
          {LINES.map(([key, name]) => (
            <Row key={key} name={name}>
              {point.lines[key] === null ? "not known" : figure(point.lines[key], 2)}
            </Row>
          ))}
          <Row name="total" strong>
            {figure(point.lines.total, 2)}
          </Row>
        </tbody>
      </table>
      {point.order && point.quantity !== null && (
        <p className="border-b border-rule py-1.5" data-testid="order">
          <b className="figure">{point.quantity}</b> good parts ask for{" "}
          <span className="figure">{point.order.made}</span> copies: <span className="figure">{point.order.full}</span>{" "}
          full {point.order.full === 1 ? "plate" : "plates"}
          {point.order.rest > 0 && (
            <>
              {" "}
              and{" "}
              <button
                type="button"
                className="underline hover:text-second"
                onClick={() => onCopies(point.order?.rest ?? 1)}
              >
                one of <span className="figure">{point.order.rest}</span>
              </button>
            </>
          )}
          , about <span className="figure">{figure(daysFor(point.quantity, point.per_day), 1)}</span> days on one
          machine.
        </p>
      )}
      <ul className="py-1" aria-label="How it holds the plate and leaves it" data-testid="holds-plate">
        {plate.lines.map((line) => (
          <li
            key={line.key}
            className={`py-0.5 ${line.state === "fails" ? "font-semibold text-crown" : line.state === "doubtful" ? "text-ochre" : ""}`}
          >
            {line.words}
          </li>
        ))}
      </ul>
      {pauses.length > 0 && (
        <ul className="border-t border-rule py-1" aria-label="Pauses">
          {pauses.map((p, i) => (
            <li key={i}>
              Pause at <span className="figure">{figure(p.height_mm, 1)} mm</span>, {figure(p.wait_s / 60, 0)} min
              {p.cold && ", onto something cold"} <span className="text-second">({p.words})</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function Big({
  name,
  of,
  bad,
  testid,
  children,
}: {
  name: string;
  of: NumberKey;
  bad?: boolean;
  testid: string;
  children: React.ReactNode;
}) {
  return (
    <div>
      <dt className="narrow text-second">
        <Named of={of}>{name}</Named>
      </dt>
      <dd className={`figure text-[22px] leading-tight font-semibold ${bad ? "text-crown" : ""}`} data-testid={testid}>
        {children}
      </dd>
    </div>
  );
}

interface RowProps {
  name: string;
  of?: NumberKey;
  strong?: boolean;
  children: React.ReactNode;
}

function Row({ name, of, strong, children }: RowProps) {
  return (
    <tr className={strong ? "border-t border-ink font-semibold" : ""}>
      <th scope="row" className="narrow py-px pr-3 text-left align-baseline font-normal whitespace-nowrap text-second">
        <Named of={of}>{name}</Named>
      </th>
      <td className="py-px text-right">{children}</td>
    </tr>
  );
}
