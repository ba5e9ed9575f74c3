/** The head of a stage's page: its name, what it came to, and in one wording for all how far its calculation is. */
import type { ReactNode } from "react";

import { isOpen } from "../domain/work";
import { Button, Heading, Progress, Trouble, type TroubleWords } from "./controls";

interface Work {
  id: string;
  state: string;
  doing: string;
  done: number;
  total: number;
  problem: { message: string; hint: string } | null;
}

interface StateProps {
  /** The latest result with its work; null where nobody has ordered one, undefined until that has been read: nothing is
   * claimed and nothing can be ordered before. */
  result: { work: Work | null; stale_because: readonly string[] } | null | undefined;
  /** Whether it holds an answer, so that nothing need be ordered. */
  complete: boolean;
  /** What the button says: “Check layers”, and “Check layers again” once something has changed. */
  verb: string;
  /** Orders the calculation; null for those who may not, or while there is nothing to calculate with. */
  onCalculate: (() => unknown) | null;
  /** Breaks the work off; null for those who may not. */
  onStop: ((work: string) => unknown) | null;
  trouble: TroubleWords | null;
  /** Why an open surface has no answer; undefined where the surface is closed. */
  open?: string | undefined;
  /** What the calculation does, said beside the button that orders it. */
  about?: ReactNode;
}

/** How far a calculation is, what it rests on that has changed, and the button that orders it. */
export function StageState({ result, complete, verb, onCalculate, onStop, trouble, open, about }: StateProps) {
  if (result === undefined)
    return (
      <p className="text-second" role="status">
        Reading …
      </p>
    );
  const work = result?.work;
  const busy = isOpen(work);
  const since = result?.stale_because ?? [];
  return (
    <>
      {work && busy && (
        <Progress
          doing={work.doing}
          done={work.done}
          total={work.total}
          onCancel={onStop ? () => void onStop(work.id) : undefined}
        />
      )}
      {work?.problem && <Trouble message={work.problem.message} hint={work.problem.hint} />}
      {open && <Trouble message={open} hint="Close it in the program that made it, and import it again." />}
      {since.length > 0 && !busy && (
        <div className="mt-1 flex items-center gap-3 border-l-4 border-ochre-mark bg-raised px-3 py-1" role="status">
          <span className="flex-1">Changed since: {since.join(", ")}.</span>
          {onCalculate && <Button onClick={() => void onCalculate()}>{`${verb} again`}</Button>}
        </div>
      )}
      {!complete && since.length === 0 && !busy && !open && onCalculate && (
        <div className="space-y-1">
          {about && <p className="text-second">{about}</p>}
          <Button onClick={() => void onCalculate()}>{verb}</Button>
        </div>
      )}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
    </>
  );
}

/** The same under the stage's name; ``children``: the few figures that the stage comes to. */
export function StageHeader({
  title,
  aside,
  children,
  ...state
}: StateProps & { title: string; aside?: ReactNode; children?: ReactNode }) {
  return (
    <div className="space-y-1 border-b border-rule px-3.5 pt-3 pb-2">
      <Heading aside={aside}>{title}</Heading>
      {state.result !== undefined && children}
      <StageState {...state} />
    </div>
  );
}
