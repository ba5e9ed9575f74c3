/** What can be done from here: each command has a name, perhaps a key, and is found by typing. */
import { Dialog } from "radix-ui";
import { type ReactNode, createContext, useContext, useEffect, useEffectEvent, useMemo, useRef, useState } from "react";

export interface Command {
  name: string;
  /** A single key, as `KeyboardEvent.key` gives it. */
  keys?: string;
  /** The same with Ctrl held (⌘ on a Mac), as other programs have it. */
  ctrl?: string;
  run: () => void;
}

type Register = (id: object, commands: readonly Command[] | null) => void;
const Registry = createContext<Register>(() => undefined);

/** Offers commands while the calling piece of the page is shown. Give a stable list (useMemo). */
export function useCommands(commands: readonly Command[]): void {
  const register = useContext(Registry);
  const [id] = useState(() => ({}));
  useEffect(() => {
    register(id, commands);
    return () => register(id, null);
  }, [register, id, commands]);
}

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    ["TEXTAREA", "SELECT"].includes(target.tagName) ||
    (target instanceof HTMLInputElement && !["range", "radio", "checkbox"].includes(target.type)));

const ctrlWords = (e: KeyboardEvent): string => `Ctrl+${e.shiftKey ? "Shift+" : ""}${e.key.toUpperCase()}`;

export function Commands({ children }: { children: ReactNode }) {
  const [offered, setOffered] = useState<ReadonlyMap<object, readonly Command[]>>(new Map());
  const [open, setOpen] = useState<"find" | "card" | null>(null);
  const register = useMemo<Register>(
    () => (id, commands) =>
      setOffered((before) => {
        const after = new Map(before);
        if (commands) after.set(id, commands);
        else after.delete(id);
        return after;
      }),
    [],
  );
  const all = useMemo(() => [...offered.values()].flat(), [offered]);
  const press = useEffectEvent((e: KeyboardEvent) => {
    if (e.altKey || e.defaultPrevented || typing(e.target)) return;
    if (document.querySelector("[role=dialog]")) return;
    if (e.key === "Enter" && e.target instanceof HTMLElement && e.target.closest("a[href]")) return; // it is followed
    if (!e.ctrlKey && !e.metaKey && (e.key === "." || e.key === "?")) {
      e.preventDefault();
      setOpen(e.key === "." ? "find" : "card");
      return;
    }
    const held = e.ctrlKey || e.metaKey;
    const command = all.find((c) => (held ? c.ctrl === ctrlWords(e) : c.keys === e.key));
    if (command) {
      e.preventDefault();
      command.run();
    }
  });
  useEffect(() => {
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
  return (
    <Registry.Provider value={register}>
      {children}
      <Dialog.Root open={open !== null} onOpenChange={(now) => setOpen(now ? "find" : null)}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-20 bg-[rgb(0_0_0/0.35)]" />
          <Dialog.Content
            aria-describedby={undefined}
            className="fixed top-24 left-1/2 z-30 w-[480px] -translate-x-1/2 border-[1.4px] border-ink bg-raised p-4"
          >
            <Dialog.Title className="font-bold">{open === "card" ? "Keys" : "What shall be done?"}</Dialog.Title>
            {open === "card" ? <Card commands={all} /> : <Finder commands={all} onDone={() => setOpen(null)} />}
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </Registry.Provider>
  );
}

/** Rows that the finder shows; whoever looks for one of more types another letter. */
const MOST_FOUND = 80;

function Finder({ commands, onDone }: { commands: readonly Command[]; onDone: () => void }) {
  const [draft, setDraft] = useState("");
  const [at, setAt] = useState(0);
  const words = draft.toLowerCase().split(/\s+/).filter(Boolean);
  const found = commands.filter((c) => words.every((w) => c.name.toLowerCase().includes(w))).slice(0, MOST_FOUND);
  const here = Math.min(at, found.length - 1);
  const list = useRef<HTMLUListElement>(null);
  useEffect(() => {
    list.current?.children[here]?.scrollIntoView({ block: "nearest" });
  }, [here]);
  const run = (c: Command | undefined) => {
    if (!c) return;
    onDone();
    c.run();
  };
  return (
    <>
      <input
        autoFocus
        role="combobox"
        aria-label="What shall be done"
        aria-expanded
        aria-controls="found-commands"
        aria-activedescendant={found[here] ? `command-${here}` : undefined}
        value={draft}
        onChange={(e) => {
          setDraft(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown" || e.key === "ArrowUp") {
            e.preventDefault();
            setAt(Math.max(0, Math.min(found.length - 1, here + (e.key === "ArrowDown" ? 1 : -1))));
          } else if (e.key === "Enter") run(found[here]);
        }}
        className="mt-2 w-full border border-bark bg-paper px-2 py-1"
      />
      <ul ref={list} id="found-commands" role="listbox" aria-label="Commands" className="mt-2 max-h-80 overflow-y-auto">
        {found.map((c, i) => (
          <li
            key={c.name}
            id={`command-${i}`}
            role="option"
            aria-selected={i === here}
            onPointerMove={() => setAt(i)}
            onClick={() => run(c)}
            className={`flex cursor-pointer justify-between px-2 py-1 ${i === here ? "bg-ink text-raised" : ""}`}
          >
            {c.name}
            {c.keys && <kbd className="figure">{c.keys}</kbd>}
          </li>
        ))}
      </ul>
      {found.length === 0 && <p className="mt-2 text-second">Nothing here is called that.</p>}
    </>
  );
}

function Card({ commands }: { commands: readonly Command[] }) {
  const rows: [string, string][] = [
    [".", "find anything that can be done here"],
    ["?", "this card"],
  ];
  for (const c of commands) if (c.keys) rows.push([c.keys, c.ctrl ? `${c.name} (also ${c.ctrl})` : c.name]);
  return (
    <dl className="mt-2 grid grid-cols-[3rem_1fr] gap-y-1" data-testid="keys">
      {rows.map(([key, name]) => (
        <div key={key} className="contents">
          <dt>
            <kbd className="figure border border-bark px-1.5">{key}</kbd>
          </dt>
          <dd>{name}</dd>
        </div>
      ))}
    </dl>
  );
}
