/** Gauge cards: one sum on one card, its values beside it, the result large, formula, source and limits below. What is
 * typed stands in the address, so that a filled card can be sent.
 */
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { type Card, useCardAnswer, useCards } from "../../api/cards";
import { ApiProblem } from "../../api/client";
import { said, wanting } from "../../domain/cards";
import { Heading, Input, Trouble } from "../../ui/controls";
import { IntoJob } from "./IntoJob";
import { Sizes } from "./Sizes";
import { SketchOf } from "./SketchOf";

/** Stands in the address in place of a card. */
const SIZES = "sizes";

interface Props {
  /** Key of the card that is looked at. */
  here: string | null;
  given: Record<string, string>;
  onGiven: (given: Record<string, string>) => void;
}

export function Cards({ here, given, onGiven }: Props) {
  const cards = useCards();
  const [sought, setSought] = useState("");
  if (cards.error) return <Trouble message={cards.error.message} hint="Reload the page." />;
  if (!cards.data) return <p className="p-5 text-second">Reading the cards …</p>;
  const card = cards.data.find((c) => c.key === here);
  const text = (c: Card) => `${c.words} ${c.formula} ${c.inputs.map((i) => i.words).join(" ")}`.toLowerCase();
  const found = cards.data.filter((c) => text(c).includes(sought.trim().toLowerCase()));
  return (
    <div className="grid h-full grid-cols-[240px_1fr] max-sm:block max-sm:overflow-y-auto">
      <nav
        aria-label="Cards"
        className={`min-h-0 overflow-y-auto border-r-[1.4px] border-ink p-3.5 ${(card ?? here === SIZES) ? "max-sm:hidden" : ""}`}
      >
        <Heading>Gauge cards</Heading>
        <Input label="Find" value={sought} onChange={(e) => setSought(e.target.value)} className="w-full" />
        <Link
          to="/cards/$card"
          params={{ card: SIZES }}
          search={{}}
          className={`mt-2 block border-b border-ink py-1 max-sm:py-2.5 ${here === SIZES ? "bg-lit font-semibold" : "hover:bg-raised"}`}
        >
          Sizes of standard hardware
        </Link>
        <ul>
          {found.map((c) => (
            <li key={c.key}>
              <Link
                to="/cards/$card"
                params={{ card: c.key }}
                search={{}}
                className={`block border-b border-rule py-1 max-sm:py-2.5 ${c.key === here ? "bg-lit font-semibold" : "hover:bg-raised"}`}
              >
                {c.words}
              </Link>
            </li>
          ))}
          {found.length === 0 && <li className="py-2 text-second">No card is called or takes anything like that.</li>}
        </ul>
      </nav>
      <section className="min-h-0 overflow-y-auto p-5 max-sm:p-4" aria-label="Card">
        {here === SIZES ? (
          <Sizes item={given.item ?? ""} onItem={(item) => onGiven({ item })} />
        ) : card ? (
          <Filled card={card} given={given} onGiven={onGiven} key={card.key} />
        ) : here ? (
          <Trouble message={`There is no card “${here}”.`} hint="Take one from the list." />
        ) : (
          <p className="max-w-[60ch] text-second max-sm:hidden">
            Bolts, fits, keys, snaps, springs, pins, readings: one sum each, with the formula, its source and where it
            stops being valid. A filled card is a link that can be sent.
          </p>
        )}
      </section>
    </div>
  );
}

interface FilledProps {
  card: Card;
  given: Record<string, string>;
  onGiven: (given: Record<string, string>) => void;
}

function Filled({ card, given, onGiven }: FilledProps) {
  const missing = wanting(card.inputs, given);
  const answer = useCardAnswer(card.key, given, missing.length === 0);
  const problem = answer.data?.problem ?? (answer.error instanceof ApiProblem ? answer.error : null);
  const outputs = missing.length === 0 && !problem ? answer.data?.outputs : undefined;
  return (
    <article className="max-w-[720px] border border-ink bg-raised p-4" data-testid="card">
      <header className="flex items-baseline justify-between border-b border-ink pb-1">
        <h2 className="text-[19px] font-bold">{card.words}</h2>
        <Link to="/cards" className="underline sm:hidden">
          all cards
        </Link>
      </header>
      <div className="grid grid-cols-[1fr_1fr] gap-6 pt-3 max-sm:grid-cols-1">
        <form className="space-y-2" onSubmit={(e) => e.preventDefault()}>
          {card.inputs.map((i) => (
            <Input
              key={i.key}
              label={i.unit ? `${i.words}, ${i.unit}` : i.words}
              name={i.key}
              value={given[i.key] ?? ""}
              placeholder={i.default === null ? "" : said(i.default)}
              title={i.kind === "list" ? "Readings, separated by commas" : "With its unit, or in the one named"}
              onChange={(e) => onGiven({ ...given, [i.key]: e.target.value })}
              className="w-full"
            />
          ))}
        </form>
        <div aria-busy={answer.isPlaceholderData} className={answer.isPlaceholderData ? "opacity-60" : ""}>
          <SketchOf card={card.key} />
          {missing.length > 0 && <p className="text-second">Still wanted: {missing.map((i) => i.words).join(", ")}.</p>}
          {problem && missing.length === 0 && <Trouble message={problem.message} hint={problem.hint} />}
          <table className="w-full border-collapse" data-testid="card-outputs">
            <tbody>
              {card.outputs.map((o, i) => (
                <tr key={o.key} className="border-b border-rule align-baseline">
                  <th className="py-1 text-left font-normal text-second">{o.words}</th>
                  <td
                    data-output={o.key}
                    className={`figure text-right ${i === 0 ? "text-[22px] font-semibold" : "text-[15px]"}`}
                  >
                    {said(outputs?.[o.key])} <span className="text-[12px] text-second">{o.unit}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {outputs &&
            answer.data?.warnings.map((words) => (
              <p key={words} className="mt-2 border-l-4 border-ochre-mark px-2">
                {words}
              </p>
            ))}
        </div>
      </div>
      <footer className="space-y-1 pt-4">
        <p className="figure !whitespace-normal">{card.formula}</p>
        {outputs && (
          <p className="narrow text-second" data-testid="put-in">
            with{" "}
            {card.inputs
              .map((i) => `${i.words} ${said(answer.data?.inputs[i.key])}${i.unit && ` ${i.unit}`}`)
              .join(", ")}
          </p>
        )}
        <p className="text-second">
          {card.source}
          {card.limits.length > 0 && `; holds for: ${card.limits.join("; ")}`}
        </p>
        {outputs && answer.data && <IntoJob card={card} answer={answer.data} />}
      </footer>
    </article>
  );
}
