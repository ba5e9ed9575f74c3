/** The few controls of the product: square, ruled, quiet. */
import { type ButtonHTMLAttributes, type InputHTMLAttributes, type ReactNode, useId } from "react";

export function Button({ plain, className = "", ...rest }: ButtonHTMLAttributes<HTMLButtonElement> & { plain?: boolean }) {
  const look = plain
    ? "border border-ink bg-transparent text-ink hover:bg-raised"
    : "border border-ink bg-ink text-raised hover:bg-[#3a3f34]";
  return (
    <button
      type="button"
      className={`px-3 py-1 font-semibold disabled:cursor-not-allowed disabled:border-rule disabled:bg-rail disabled:text-second ${look} ${className}`}
      {...rest}
    />
  );
}

export function Input({ label, className = "", ...rest }: InputHTMLAttributes<HTMLInputElement> & { label: string }) {
  const id = useId();
  return (
    <div className={className}>
      <label htmlFor={id} className="block text-second">
        {label}
      </label>
      <input id={id} className="w-full border border-bark bg-raised px-2 py-1" {...rest} />
    </div>
  );
}

/** What went wrong, what was kept, what to do. */
export function Trouble({ message, hint, children }: { message: string; hint?: string; children?: ReactNode }) {
  return (
    <div role="alert" className="border-l-4 border-crown bg-raised px-3 py-2">
      <p className="font-semibold text-crown">{message}</p>
      {hint && <p>{hint}</p>}
      {children}
    </div>
  );
}

export function Progress({ doing, done, total, onCancel }: { doing: string; done: number; total: number; onCancel?: () => void }) {
  const share = total > 0 ? done / total : 0;
  return (
    <div className="flex items-center gap-3" role="status">
      <svg width="90" height="8" viewBox="0 0 90 8" aria-hidden="true" className="shrink-0">
        <rect width="90" height="8" fill="#ece8d6" stroke="#6b5844" strokeWidth="0.8" />
        <rect width={90 * share} height="8" fill="#3f7478" />
      </svg>
      <span className="narrow truncate text-second">{doing || "waiting for a worker"}</span>
      {onCancel && (
        <button type="button" className="shrink-0 text-second underline hover:text-ink" onClick={onCancel}>
          stop
        </button>
      )}
    </div>
  );
}

/** State of a stage: filled settled, ringed open, hollow not begun. */
export function StateMark({ state }: { state: "settled" | "open" | "empty" }) {
  const words = { settled: "settled", open: "open", empty: "not begun" }[state];
  return (
    <svg width="13" height="13" viewBox="0 0 13 13" role="img" aria-label={words} className="shrink-0">
      <rect x="1" y="1" width="11" height="11" fill={state === "settled" ? "#22261f" : "none"} stroke={state === "empty" ? "#6b5844" : "#22261f"} strokeWidth={state === "open" ? 2.4 : 1.2} />
      {state === "open" && <rect x="5" y="5" width="3" height="3" fill="#22261f" />}
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
