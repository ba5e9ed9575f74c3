/** A field that is written once it is left; what is measured stands in it as a hint. */
import { Input } from "./controls";
import { useDraft } from "./draft";

interface Props {
  label: string;
  hint?: string;
  type?: string;
  now: string;
  /** Null for those who may not. */
  onWrite: ((value: string) => void) | null;
}

export function Text({ label, hint, type, now, onWrite }: Props) {
  const [text, setText] = useDraft(now);
  return (
    <Input
      label={label}
      type={type}
      value={text}
      placeholder={hint}
      disabled={!onWrite}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== now && onWrite?.(text.trim())}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}
