/** The few controls of the product: square, ruled, quiet. */
import {
  type ButtonHTMLAttributes,
  type InputHTMLAttributes,
  type ReactNode,
  useEffect,
  useId,
  useRef,
  useState,
} from "react";

import { type Mark, leftWords, secondsLeft } from "../domain/work";

export function Button({
  plain,
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { plain?: boolean }) {
  const look = plain
    ? "border border-ink bg-transparent text-ink hover:bg-raised"
    : "border border-ink bg-ink text-raised hover:bg-second";
  return (
    <button
      type="button"
      className={`px-3 py-1 font-semibold disabled:cursor-not-allowed disabled:border-rule disabled:bg-rail disabled:text-second ${look} ${className}`}
      {...rest}
    />
  );
}

export function Input({
  label,
  className = "",
  id: given,
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { label: string }) {
  const own = useId();
  const id = given ?? own;
  return (
    <div className={className}>
      <label htmlFor={id} className="block text-second">
        {label}
      </label>
      <input id={id} className="w-full border border-bark bg-raised px-2 py-1" {...rest} />
    </div>
  );
}

interface PasswordProps extends Pick<InputHTMLAttributes<HTMLInputElement>, "autoFocus"> {
  label: string;
  /** Whether it is being made up, so that the browser offers to keep it. */
  fresh?: boolean;
  value: string;
  onValue: (value: string) => void;
}

export function PasswordInput({ fresh, onValue, ...rest }: PasswordProps) {
  const complete = fresh ? "new-password" : "current-password";
  return <Input type="password" autoComplete={complete} required onChange={(e) => onValue(e.target.value)} {...rest} />;
}

interface TickProps {
  ticked: boolean;
  onTick: (ticked: boolean) => void;
  className?: string;
  children: ReactNode;
}

/** Something that holds or does not, with its words beside it. */
export function Tick({ ticked, onTick, className = "gap-2", children }: TickProps) {
  return (
    <label className={`flex items-center ${className}`}>
      <input type="checkbox" className="accent-ink" checked={ticked} onChange={(e) => onTick(e.target.checked)} />
      {children}
    </label>
  );
}

interface SelectProps {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  onPick: (value: string) => void;
  /** The label is for those who hear the page; the place says it to those who see. */
  quiet?: boolean;
  disabled?: boolean;
  className?: string;
}

export function Select({ label, value, options, onPick, quiet, disabled, className = "" }: SelectProps) {
  const id = useId();
  return (
    <div className={className}>
      {!quiet && (
        <label htmlFor={id} className="block text-second">
          {label}
        </label>
      )}
      <select
        id={id}
        aria-label={quiet ? label : undefined}
        disabled={disabled}
        value={value}
        onChange={(e) => onPick(e.target.value)}
        className={`w-full border border-bark bg-raised px-1.5 disabled:text-second ${quiet ? "h-6" : "h-[29px]"}`}
      >
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    </div>
  );
}

export interface TroubleWords {
  message: string;
  hint?: string;
  clashes?: readonly { place: string; before?: unknown; theirs?: unknown; yours?: unknown }[];
}

/** What went wrong, what was kept, what to do; where two people wrote in one place, both. */
export function Trouble({ message, hint, clashes }: TroubleWords) {
  return (
    <div role="alert" className="border-l-4 border-crown bg-raised px-3 py-2">
      <p className="font-semibold text-crown">{message}</p>
      {hint && <p>{hint}</p>}
      {!!clashes?.length && (
        <table className="mt-1 w-full border-collapse text-left" data-testid="clashes">
          <thead>
            <tr className="narrow text-second">
              {["where", "before", "theirs, in force", "yours, not written"].map((h) => (
                <th key={h} className="pr-3 font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {clashes.map((c) => (
              <tr key={c.place} className="border-t border-rule align-top">
                <td className="pr-3 text-second">{c.place}</td>
                {[c.before, c.theirs, c.yours].map((v, i) => (
                  <td key={i} className="pr-3 break-words">
                    {plainly(v)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

const plainly = (v: unknown): string =>
  v === null || v === undefined || v === "" ? "–" : typeof v === "string" ? v : JSON.stringify(v);

/** Seconds that a calculation takes yet, by how it has gone since it was first seen; null while that says too little. */
function useLeft(share: number): number | null {
  const from = useRef<Mark | null>(null);
  const [left, setLeft] = useState<number | null>(null);
  useEffect(() => {
    const look = setTimeout(() => {
      const now = { share, ms: performance.now() };
      if (from.current === null || share < from.current.share) from.current = now;
      setLeft(share < 1 ? secondsLeft(from.current, now) : null);
    });
    return () => clearTimeout(look);
  }, [share]);
  return left;
}

export function Progress({
  doing,
  done,
  total,
  onCancel,
}: {
  doing: string;
  done: number;
  total: number;
  onCancel?: () => void;
}) {
  const share = total > 0 ? done / total : 0;
  const left = useLeft(share);
  return (
    <div className="flex items-center gap-3" role="status">
      <svg width="90" height="8" viewBox="0 0 90 8" aria-hidden="true" className="shrink-0">
        <rect width="90" height="8" fill="var(--color-rail)" stroke="var(--color-bark)" strokeWidth="0.8" />
        <rect width={90 * share} height="8" fill="var(--color-moss)" />
      </svg>
      <span className="narrow truncate text-second">
        {doing || "waiting for a worker"}
        {left !== null && `, ${leftWords(left)}`}
      </span>
      {onCancel && (
        <button type="button" className="shrink-0 text-second underline hover:text-ink" onClick={onCancel}>
          stop
        </button>
      )}
    </div>
  );
}

/** Tabs over what stands below them. */
export function Tabs<K extends string>({
  tabs,
  here,
  onPick,
  label,
  className = "",
}: {
  tabs: readonly (readonly [K, string])[];
  here: K;
  onPick: (key: K) => void;
  label: string;
  className?: string;
}) {
  return (
    <div className={`flex gap-3 ${className}`} role="tablist" aria-label={label}>
      {tabs.map(([key, words]) => (
        <button
          key={key}
          type="button"
          role="tab"
          aria-selected={here === key}
          onClick={() => onPick(key)}
          className={`narrow border-b-2 pb-0.5 ${here === key ? "border-ink font-bold" : "border-transparent text-second hover:text-ink"}`}
        >
          {words}
        </button>
      ))}
    </div>
  );
}

/** One of two or three, all in sight. */
export function Either<K extends string>({
  label,
  of,
  here,
  onPick,
  className = "",
}: {
  label: string;
  of: readonly K[];
  here: K;
  onPick: (key: K) => void;
  className?: string;
}) {
  return (
    <span className={`flex border border-bark bg-paper ${className}`} role="group" aria-label={label}>
      {of.map((key) => (
        <button
          key={key}
          type="button"
          aria-pressed={here === key}
          onClick={() => onPick(key)}
          className={`px-2 ${here === key ? "bg-ink text-raised" : "hover:bg-raised"}`}
        >
          {key}
        </button>
      ))}
    </span>
  );
}

/** What the colours on a picture stand for. */
export function Legend({ rows }: { rows: readonly (readonly [string, string])[] }) {
  return (
    <ul
      className="pointer-events-none absolute top-3 left-3 space-y-0.5 bg-paper/85 pr-1 text-[12px]"
      data-testid="legend"
    >
      {rows.map(([words, dye]) => (
        <li key={words} className="flex items-center gap-1.5">
          <span className="inline-block size-3 border border-ink" style={{ background: dye }} aria-hidden="true" />
          {words}
        </li>
      ))}
    </ul>
  );
}

export type State = "settled" | "open" | "stale" | "empty" | "fails";

/** State of a stage: filled settled, ringed open, hatched stale (something it rests on has changed), hollow not begun. */
export function StateMark({ state }: { state: State }) {
  const words = { settled: "settled", open: "open", stale: "stale", empty: "not begun", fails: "fails" }[state];
  const ink = state === "fails" ? "var(--color-crown)" : "var(--color-ink)";
  return (
    <svg width="13" height="13" viewBox="0 0 13 13" role="img" aria-label={words} className="shrink-0">
      <rect
        x="1"
        y="1"
        width="11"
        height="11"
        fill={state === "settled" ? "var(--color-ink)" : "none"}
        stroke={state === "empty" ? "var(--color-bark)" : ink}
        strokeWidth={state === "open" || state === "fails" ? 2.4 : 1.2}
      />
      {state === "stale" && <path d="M1 8 L8 1 M1 12 L12 1 M5 12 L12 5" stroke="var(--color-ink)" strokeWidth="1.3" />}
      {state === "fails" && <path d="M4 4 L9 9 M9 4 L4 9" stroke={ink} strokeWidth="1.6" />}
      {state === "open" && <rect x="5" y="5" width="3" height="3" fill="var(--color-ink)" />}
    </svg>
  );
}

export function Heading({ children, aside }: { children: ReactNode; aside?: ReactNode }) {
  return (
    <div className="flex items-baseline justify-between gap-4">
      <h2 className="text-[15px] font-bold">{children}</h2>
      {aside}
    </div>
  );
}
