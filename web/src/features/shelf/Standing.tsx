/** How far a part's stages are, and what of it waits for a person. */
import { Link } from "@tanstack/react-router";

import type { components } from "../../api/schema";
import { stageName } from "../../domain/stages";
import { StateMark } from "../../ui/controls";

type Stage = components["schemas"]["StageOut"];

/** The stages that wait for a person; what fails comes first. */
export const waiting = (stages: readonly Stage[] | undefined): Stage[] =>
  (stages ?? [])
    .filter((s) => !s.busy && ["open", "stale", "fails"].includes(s.state))
    .sort((a, b) => Number(b.state === "fails") - Number(a.state === "fails"));

export function Standing({ part, stages }: { part: string; stages: readonly Stage[] | undefined }) {
  if (stages === undefined) return <span className="text-second">…</span>;
  const [first, ...more] = waiting(stages);
  return (
    <>
      <ul className="flex gap-1">
        {stages.map((s) => (
          <li key={s.key} title={`${stageName(s.key)}: ${s.line}`} className={s.busy ? "opacity-40" : ""}>
            <StateMark state={s.state} />
          </li>
        ))}
      </ul>
      {first ? (
        <Link
          to={`/parts/$partId/${first.key}` as "/parts/$partId/direction"}
          params={{ partId: part }}
          className={`block max-w-[34ch] truncate hover:underline ${first.state === "fails" ? "text-crown" : "text-second"}`}
        >
          {stageName(first.key)}: {first.line}
          {more.length > 0 && ` · ${more.length} more`}
        </Link>
      ) : (
        <span className="text-second">{stages.some((s) => s.busy) ? "being calculated" : "nothing open"}</span>
      )}
    </>
  );
}
