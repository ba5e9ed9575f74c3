/** A walk through a job: at every stage what it decides, and how it stands here; on and back without losing the way. */
import { Link, useLocation } from "@tanstack/react-router";

import { usePart, useStages } from "../api/queries";
import { STAGE_SAYS, WALKING } from "../domain/stages";
import { useInAddress } from "../ui/address";
import { STAGES } from "./stages";

/** Begins the walk where the part begins. */
export function BeginWalk({ id }: { id: string }) {
  const [walking] = useInAddress("walk");
  if (walking) return null;
  return (
    <Link
      to="/parts/$partId/facts"
      params={{ partId: id }}
      search={WALKING}
      className="mt-1 block px-4 text-second hover:text-ink hover:underline max-sm:mt-0 max-sm:shrink-0 max-sm:self-center"
    >
      walk through
    </Link>
  );
}

export function Walk({ id }: { id: string }) {
  const [walking, leave] = useInAddress("walk");
  const key = useLocation().pathname.split("/").at(-1);
  const { data: part } = usePart(id);
  const { data } = useStages(part);
  const at = STAGES.findIndex((s) => s.key === key);
  const here = STAGES[at];
  if (!walking || !here) return null;
  const now = data?.find((row) => row.key === here.key);
  const step = (by: number, words: (name: string) => string) => {
    const to = STAGES[at + by];
    return (
      to && (
        <Link
          to={`/parts/$partId/${to.key}`}
          params={{ partId: id }}
          search={WALKING}
          className="border border-bark bg-paper px-2 py-0.5 whitespace-nowrap hover:border-ink"
        >
          {words(to.name)}
        </Link>
      )
    );
  };
  return (
    <section
      className="flex items-center gap-4 border-t max-sm:flex-wrap max-sm:gap-2-[1.4px] border-ink bg-raised px-4 py-1.5"
      aria-label="Walk through the job"
      data-testid="walk"
    >
      <p className="min-w-0 flex-1 max-sm:basis-full" aria-live="polite">
        <span className="figure text-second">
          {at + 1}/{STAGES.length}
        </span>{" "}
        <b>{here.name}.</b> {STAGE_SAYS[here.key]}{" "}
        {now?.line.trim() && (
          <span className="text-second">
            Here: <span className={now.state === "fails" ? "text-crown" : "text-ink"}>{now.line}</span>.
          </span>
        )}
      </p>
      {step(-1, (name) => `← ${name}`)}
      {step(1, (name) => `${name} →`)}
      <button type="button" className="underline hover:text-moss" onClick={() => leave(null, true)}>
        leave
      </button>
    </section>
  );
}
