/** The practice bench: guess on the workshop's own parts, then see what is calculated and the rule behind it. */
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { ApiProblem, api } from "../../api/client";
import { type Answer, type Exercise, type Kind, practice, useBench, useExercise } from "../../api/practice";
import { useParts, useSend } from "../../api/queries";
import { stageName } from "../../domain/stages";
import { useInAddress } from "../../ui/address";
import { Button, Heading, Trouble } from "../../ui/controls";

const KINDS: Readonly<Record<Kind, string>> = {
  direction: "best direction",
  hanging: "what does not print",
  layer: "where it fails",
  batch: "how many on a plate",
};

const keyOf = (e: Exercise) => `${e.part}-${e.kind}`;

export function Practice() {
  const bench = useBench();
  const [here, setHere] = useInAddress("exercise");
  if (bench.error)
    return (
      <div className="p-5">
        <Trouble message={bench.error.message} hint="Reload the page." />
      </div>
    );
  if (!bench.data) return <p className="p-5 text-second">Looking for what can be guessed …</p>;
  const { exercises, scores } = bench.data;
  const open = exercises.find((e) => keyOf(e) === here) ?? exercises.find((e) => e.right === null) ?? exercises[0];
  return (
    <div className="grid h-full min-h-0 grid-cols-[340px_minmax(0,1fr)] max-md:block max-md:overflow-y-auto">
      <section className="min-h-0 overflow-y-auto border-r border-ink p-4" tabIndex={0} aria-label="Exercises">
        <Heading>Practice bench</Heading>
        <p className="mt-1 text-second">
          Guess first, then see what is calculated. The questions are made of the workshop’s own parts; only the first
          guess of each counts.
        </p>
        {exercises.length === 0 && (
          <p className="mt-3">Nothing has been calculated yet that could be guessed: import a part first.</p>
        )}
        <ul className="mt-3" data-testid="exercises">
          {exercises.map((e) => (
            <li key={keyOf(e)} className="border-b border-rule">
              <button
                type="button"
                aria-current={e === open}
                className={`flex w-full items-baseline gap-2 px-1 py-1 text-left ${e === open ? "bg-lit" : "hover:bg-raised"}`}
                onClick={() => setHere(keyOf(e))}
              >
                <span className="flex-1">
                  <b>{e.name}</b>
                  <span className="block text-second">{KINDS[e.kind]}</span>
                </span>
                <span className={e.right === false ? "text-ochre" : e.right === null ? "text-second" : ""}>
                  {e.right === null ? "open" : e.right ? "right" : "not right"}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {scores.length > 0 && (
          <table className="mt-4 w-full border-collapse" data-testid="scores">
            <thead>
              <tr className="border-b-[1.4px] border-ink text-left text-second">
                <th className="font-normal">first guesses</th>
                <th className="text-right font-normal">right</th>
                <th className="text-right font-normal">of</th>
              </tr>
            </thead>
            <tbody>
              {scores.map((s, i) => (
                <tr key={i} className="border-b border-rule">
                  <td className={s.mine ? "font-semibold" : ""}>{s.name}</td>
                  <td className="figure text-right font-semibold">{s.right}</td>
                  <td className="figure text-right">{s.of}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </section>
      {open && <Guessing key={keyOf(open)} exercise={open} />}
    </div>
  );
}

function Guessing({ exercise }: { exercise: Exercise }) {
  const client = useQueryClient();
  const asked = useExercise(exercise);
  const card = useParts().data?.find((p) => p.id === exercise.part);
  const { send, busy, trouble } = useSend();
  const [picked, setPicked] = useState<string | null>(null);
  const [answer, setAnswer] = useState<Answer | null>(null);
  const guess = async () => {
    const told = picked && (await send(() => practice.guess(exercise.part, exercise.kind, picked)));
    if (!told) return;
    setAnswer(told);
    await client.invalidateQueries({ queryKey: ["bench"] });
  };
  const told = (words: string) => answer?.choices.find((c) => c.words === words)?.told;
  return (
    <section className="min-h-0 space-y-3 overflow-y-auto p-4" tabIndex={0} aria-label="Question">
      <Heading aside={<span className="text-second">{KINDS[exercise.kind]}</span>}>{exercise.name}</Heading>
      {card && (
        <img
          src={api.pictureAddress(card.id, card.picture)}
          alt={`${exercise.name}, drawn with its layers`}
          className="h-44 w-60 border border-rule bg-raised object-contain"
        />
      )}
      {asked.error && (
        <Trouble
          message={asked.error.message}
          hint={asked.error instanceof ApiProblem ? asked.error.hint : "Reload the page."}
        />
      )}
      {!asked.data && !asked.error && <p className="text-second">Reading what is calculated …</p>}
      {asked.data && (
        <form
          className="max-w-[72ch] space-y-2"
          data-testid="question"
          onSubmit={(e) => {
            e.preventDefault();
            void guess();
          }}
        >
          <fieldset className="space-y-1.5">
            <legend className="mb-1.5 font-semibold">{asked.data.ask}</legend>
            {asked.data.choices.map((words) => (
              <label
                key={words}
                className={`flex items-baseline gap-2 border-l-4 px-2 py-1 ${answer?.answer === words ? "border-lichen bg-raised" : "border-transparent"}`}
                data-choice={answer ? (answer.answer === words ? "right" : "other") : undefined}
              >
                <input
                  type="radio"
                  name="guess"
                  className="accent-ink"
                  checked={picked === words}
                  disabled={answer !== null}
                  onChange={() => setPicked(words)}
                />
                <span>
                  {words}
                  {answer && <span className="block text-second">{told(words)}</span>}
                </span>
              </label>
            ))}
          </fieldset>
          {!answer && (
            <Button type="submit" disabled={busy || picked === null}>
              That is my guess
            </Button>
          )}
        </form>
      )}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {answer && (
        <div
          className="max-w-[72ch] space-y-1 border-l-4 border-ink bg-raised px-3 py-2"
          role="status"
          data-testid="answer"
        >
          <p className="font-semibold">{answer.right ? "Right." : `Not right: ${answer.answer}.`}</p>
          <p>{answer.rule}</p>
          <Link
            to={`/parts/$partId/${answer.stage}` as "/parts/$partId/facts"}
            params={{ partId: exercise.part }}
            className="underline"
          >
            See it under {stageName(answer.stage)}
          </Link>
        </div>
      )}
    </section>
  );
}
