/** A small form that opens at what it changes: written by Save or Enter, left by Escape or a press beside it. */
import { Popover } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";

import { Button, Trouble, type TroubleWords } from "./controls";

interface Props {
  /** What the form is called by those who hear it. */
  label: string;
  open: boolean;
  /** Told of both; whoever owns the fields sets them anew. */
  onOpen: (open: boolean) => void;
  /** What is pressed to open it. */
  trigger: ComponentProps<typeof Popover.Trigger> & { "data-testid"?: string };
  onSave: () => Promise<unknown>;
  busy?: boolean;
  trouble: TroubleWords | null;
  align?: "start" | "end";
  /** Its width, as a class. */
  wide: string;
  children: ReactNode;
}

export function FormPopover({
  label,
  open,
  onOpen,
  trigger,
  onSave,
  busy,
  trouble,
  align = "start",
  wide,
  children,
}: Props) {
  return (
    <Popover.Root open={open} onOpenChange={onOpen}>
      <Popover.Trigger {...trigger} />
      <Popover.Portal>
        <Popover.Content
          align={align}
          sideOffset={6}
          aria-label={label}
          className={`z-10 border-[1.4px] border-ink bg-raised p-4 ${wide}`}
        >
          <form
            className="space-y-3"
            onSubmit={(e) => {
              e.preventDefault();
              void onSave();
            }}
          >
            {children}
            {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
            <Button type="submit" disabled={busy}>
              Save
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
