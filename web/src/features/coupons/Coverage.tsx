/** Of each machine, material and process: the numbers that coupons give, which are missing, old or thin. */
import { Link } from "@tanstack/react-router";

import type { CouponIn, Coverage as Row, Coupons } from "../../api/coupons";
import { measure } from "../../domain/figures";
import { Heading } from "../../ui/controls";

type Number_ = Row["numbers"][number];

export const named = (names: Row["names"]) =>
  [names.machine ?? "any machine", names.material, names.profile].filter(Boolean).join(" · ");

const STATES: Record<Number_["state"], { sign: string; word: string; ink: string }> = {
  known: { sign: "■", word: "coupon", ink: "" },
  thin: { sign: "◪", word: "few plates", ink: "text-ochre" },
  old: { sign: "▨", word: "old", ink: "text-ochre" },
  missing: { sign: "○", word: "assumed", ink: "text-second" },
};

interface Props {
  state: Coupons;
  /** Null for those who may not. */
  onBegin: ((given: CouponIn) => void) | null;
}

export function Coverage({ state, onBegin }: Props) {
  const titleOf = (key: string) => state.kinds.find((k) => k.key === key)?.title ?? key;
  return (
    <div className="p-5">
      <Heading>What the farm knows of itself</Heading>
      <p className="max-w-[78ch] text-second">
        Each machine with its material and process has numbers of its own. What no coupon says is a starting value of
        the handbook, and marked as assumed wherever it is used.
      </p>
      {state.without_machine > 0 && (
        <p className="mt-2 max-w-[78ch]" data-testid="without-machine">
          <span className="figure">{state.without_machine}</span>{" "}
          {state.without_machine === 1 ? "job names" : "jobs name"} no machine: only starting values count there. Choose
          its machine in Direction, with the process.
        </p>
      )}
      {state.coverage.map((row) => {
        const missing = row.numbers.filter((n) => n.state === "missing").length;
        return (
          <section key={named(row.names)} className="mt-4 border-t border-ink" data-testid="coverage">
            <h3 className="flex items-baseline gap-3 py-1.5 font-semibold">
              {named(row.names)}
              <span className="narrow font-normal text-second">
                <span className="figure">{row.jobs}</span> {row.jobs === 1 ? "job stands" : "jobs stand"} on it,{" "}
                <span className="figure">{missing}</span> of <span className="figure">{row.numbers.length}</span>{" "}
                numbers assumed
              </span>
            </h3>
            <ul className="grid grid-cols-2 gap-x-6 max-lg:grid-cols-1">
              {row.numbers.map((n) => (
                <li key={n.name} className="flex items-baseline gap-2 border-t border-rule py-0.5" data-number={n.name}>
                  <span className={`w-4 ${STATES[n.state].ink}`} aria-hidden="true">
                    {STATES[n.state].sign}
                  </span>
                  <span className="min-w-0 flex-1 truncate" title={n.words}>
                    {n.words}
                  </span>
                  <span className="figure">
                    {typeof n.value === "number" && n.state !== "missing" ? `${measure(n.value)} ${n.unit}` : ""}
                  </span>
                  <span className={`narrow w-[76px] ${STATES[n.state].ink}`}>
                    {STATES[n.state].word}
                    {n.age_days !== null && n.state !== "missing" && (
                      <span className="figure">
                        {" "}
                        {n.age_days < 45 ? `${n.age_days} d` : `${Math.round(n.age_days / 30.4)} mo`}
                      </span>
                    )}
                  </span>
                  <span className="narrow w-[150px] text-right whitespace-nowrap">
                    {n.sheet ? (
                      <Link to="/coupons/$sheet" params={{ sheet: n.sheet }} className="underline hover:text-moss">
                        its sheet
                      </Link>
                    ) : (
                      onBegin && (
                        <button
                          type="button"
                          className="underline hover:text-moss"
                          onClick={() =>
                            onBegin({ ...row.where, key: n.coupons[0] ?? "", rows: [] } as unknown as CouponIn)
                          }
                        >
                          {titleOf(n.coupons[0] ?? "")}
                        </button>
                      )
                    )}
                  </span>
                </li>
              ))}
            </ul>
          </section>
        );
      })}
    </div>
  );
}
