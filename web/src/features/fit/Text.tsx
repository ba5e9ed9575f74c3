/** A field that is written once it is left; what is measured stands in it as a hint. */
import { Input } from "../../ui/controls";
import { useDraft } from "../../ui/draft";

interface Props {
  label: string;
  hint: string;
  now: string;
  /** Null for those who may not. */
  onWrite: ((value: string) => void) | null;
}

export function Text({ label, hint, now, onWrite }: Props) {
  const [text, setText] = useDraft(now);
  return (
    <Input
      label={label}
      value={text}
      placeholder={hint}
      disabled={!onWrite}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== now && onWrite?.(text.trim())}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}
