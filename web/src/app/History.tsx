/** Undo of the last edit, and the whole history of a job with a way back from each edit. */
import { Popover } from "radix-ui";
import { useEffect, useMemo, useRef, useState } from "react";

import { type Part, api } from "../api/client";
import { useHistory, useMayWrite, useRefresh, useSend } from "../api/queries";
import { type Command, useCommands } from "../ui/commands";
import { Trouble } from "../ui/controls";
import { Editions } from "../ui/editions";

/** A sheet that closes gives the focus back to its button, but not from somebody who has gone on to something else. */
const keepFocus = (e: Event) => {
  const now = document.activeElement;
  if (now && now !== document.body && !(now instanceof HTMLElement && now.closest("[role=dialog]"))) e.preventDefault();
};

/** Undo and its contrary for one job; the last of either is told at the foot of the page. */
export function JobHistory({ part }: { part: Part }) {
  const may = useMayWrite(part);
  const refresh = useRefresh();
  const { send, trouble, setTrouble } = useSend();
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState("");
  const history = useHistory(part.sheet, open);
  useEffect(() => {
    if (!draft) return;
    const timer = setTimeout(() => setDraft(""), 6000);
    return () => clearTimeout(timer);
  }, [draft]);

  const back = async (number: number) => {
    const after = await send(() => api.takeBack(part.sheet, number));
    if (after) setDraft(after.editions[0]?.words ?? "");
    await refresh(part);
  };
  const last = async (undo: boolean) => {
    const now = await send(() => api.history(part.sheet));
    const edit = now?.editions.find((e) => e.in_force && e.number > 1 && (e.takes_back === null) === undo);
    // What was done anew after an undo cannot be brought again by key; the history still offers it.
    if (edit && (undo || edit.number === now?.version)) await back(edit.number);
    else setDraft(undo ? "There is nothing to undo." : "There is nothing to redo.");
  };
  const latest = useRef(last);
  useEffect(() => {
    latest.current = last;
  });
  // Keys pressed in a row are answered in turn: each takes back what the one before it left.
  const turn = useRef(Promise.resolve());
  const next = (undo: boolean) => {
    turn.current = turn.current.catch(() => undefined).then(() => latest.current(undo));
  };
  const commands = useMemo<Command[]>(
    () =>
      may
        ? [
            { name: "Undo the last edit", keys: "u", ctrl: "Ctrl+Z", run: () => next(true) },
            { name: "Redo what was undone", keys: "U", ctrl: "Ctrl+Shift+Z", run: () => next(false) },
            { name: "History of this job", keys: "h", run: () => setOpen(true) },
          ]
        : [],
    [may],
  );
  useCommands(commands);
  return (
    <>
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger className="text-second underline hover:text-ink">history</Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            onCloseAutoFocus={keepFocus}
            align="end"
            sideOffset={8}
            aria-label="History of this job"
            className="z-10 w-[420px] border-[1.4px] border-ink bg-raised p-4"
          >
            <p className="font-semibold">Every edit of this job</p>
            {history.isPending && <p className="text-second">Reading …</p>}
            <ol className="mt-2 max-h-80 overflow-y-auto" tabIndex={0} aria-label="Edits, newest first">
              <Editions editions={history.data?.editions} onBack={may ? (number) => void back(number) : null} />
            </ol>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      {(draft || trouble) && (
        <div
          className="fixed bottom-4 left-[162px] z-20 max-w-[560px] border-[1.4px] border-ink bg-raised px-4 py-2"
          role="status"
          data-testid="told"
        >
          {trouble ? (
            <>
              <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />
              <button type="button" className="mt-1 underline" onClick={() => setTrouble(null)}>
                close
              </button>
            </>
          ) : (
            <p>
              {draft.slice(0, 1).toUpperCase() + draft.slice(1)}{" "}
              {draft.startsWith("undid") && <span className="text-second">· U redoes it</span>}
            </p>
          )}
        </div>
      )}
    </>
  );
}
