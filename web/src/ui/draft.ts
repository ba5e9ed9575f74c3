import { useState } from "react";

/** Text that is being typed over a written value; when the written value changes (an undo, somebody else), it follows. */
export function useDraft(written: string): [string, (text: string) => void] {
  const [text, setText] = useState(written);
  const [from, setFrom] = useState(written);
  if (from !== written) {
    setFrom(written);
    setText(written);
  }
  return [text, setText];
}
