/** All trials of the workshop: measured over predicted, what that says of the predictions, lessons by their words. */
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { useSession } from "../../api/queries";
import { type Trial, useSought, useTrials } from "../../api/trials";
import { figure } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { Diagonal } from "../../plots/Diagonal";
import { Heading, Input, Trouble } from "../../ui/controls";
import { Corrections } from "./Corrections";
import { LongTerm } from "./LongTerm";
import { amount } from "./words";

export function Trials() {
  const state = useTrials();
  const session = useSession();
  const [text, setText] = useState("");
  const [at, look] = useState<string | null>(null);
  const sought = useSought(text);
  if (state.error) return <Trouble message={state.error.message} hint="Reload the page." />;
  if (!state.data) return <p className="p-5 text-second">Reading the trials …</p>;
  const { trials, corrections } = state.data;
  const groupOf = (id: string) => corrections.find((c) => c.trials.includes(id))?.group ?? "along";
  const dots = trials.flatMap((t) =>
    t.predicted && t.times
      ? [
          {
            id: t.id,
            predicted: t.predicted.times,
            measured: t.times,
            group: groupOf(t.id),
            held: t.how === "not broken",
            counts: t.how !== "not broken" && t.as_predicted === true,
            name: `${t.part_name}, ${t.how}`,
          },
        ]
      : [],
  );
  const rows = text.trim().length > 1 ? (sought.data ?? []) : [...trials].reverse();
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(480px,1fr)_440px] max-lg:block max-lg:overflow-y-auto">
      <section className="min-h-0 overflow-y-auto border-r border-ink p-5" aria-label="Predicted and measured">
        <Heading>Predicted and measured</Heading>
        {dots.length === 0 ? (
          <p className="max-w-[64ch] text-second">
            No trial stands beside a prediction yet. In a job&apos;s <b>Trials</b> a broken part is written down with
            the load case it stands for; here all of them show how far the sums may be trusted.
          </p>
        ) : (
          <>
            <div className="h-[340px] max-w-[620px]">
              <Diagonal dots={dots} at={at} onDot={look} />
            </div>
            <p className="narrow text-second">
              ● between layers ■ in the layers ▲ held: at least that. Hollow ones broke otherwise than predicted, or not
              at all, and are not averaged.
            </p>
          </>
        )}
        <Corrections rows={corrections} may={mayEdit(session.data?.role)} />
        <LongTerm may={mayEdit(session.data?.role)} />
      </section>
      <section className="flex min-h-0 flex-col" aria-label="Lessons">
        <div className="border-b border-ink px-4 py-3">
          <Heading>What was learned</Heading>
          <Input
            label="Find by words: a feature, a way of breaking, a material, a machine"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </div>
        <ul className="min-h-0 flex-1 overflow-y-auto" data-testid="lessons">
          {rows.map((t) => (
            <Lesson key={t.id} trial={t} here={t.id === at} onLook={() => look(t.id)} />
          ))}
          {rows.length === 0 && (
            <li className="px-4 py-2 text-second">
              {text.trim().length > 1 ? "No trial says that." : "No trial has been written down yet."}
            </li>
          )}
        </ul>
      </section>
    </div>
  );
}

function Lesson({ trial: t, here, onLook }: { trial: Trial; here: boolean; onLook: () => void }) {
  const quiet = here ? "" : "text-second"; // on what is lit the second ink is too pale
  return (
    <li className={`border-b border-rule px-4 py-1.5 ${here ? "bg-lit" : ""}`} onClick={onLook} data-lesson={t.id}>
      <span className="flex items-baseline gap-2">
        <Link
          to="/parts/$partId/trials"
          params={{ partId: t.part }}
          className="font-semibold underline hover:text-moss"
        >
          {t.part_name}
        </Link>
        <span className={t.verdict === "failed" ? "text-crown" : ""}>{t.how}</span>
        <span className={`narrow ml-auto ${quiet}`}>{t.tested}</span>
      </span>
      <span className={`narrow block ${quiet}`}>
        {t.load && `${amount(t.load.n, t.load.unit)}, `}
        {t.machine ?? "any machine"}, {t.material}
        {t.ratio !== null && t.how !== "not broken" && (
          <>
            , measured over predicted <span className="figure text-ink">{figure(t.ratio, 2)}</span>
          </>
        )}
      </span>
      {t.lesson && <span className="block">{t.lesson}</span>}
    </li>
  );
}
