/** What a number is, beside it: pressed, it says what it means, its formula, where that comes from and how far it holds. */
import { Popover } from "radix-ui";
import { type ReactNode, createContext, useContext, useState } from "react";

import type { NumberKey, Told } from "../domain/explained";

/** Asks for what is said of the numbers, once somebody wants it. */
export const Explanations = createContext<(wanted: boolean) => readonly Told[] | undefined>(() => undefined);

interface Props {
  of: NumberKey;
  /** What the number is called here. */
  children: ReactNode;
}

export function Explained({ of, children }: Props) {
  const [open, setOpen] = useState(false);
  const useTold = useContext(Explanations);
  const told = useTold(open)?.find((e) => e.key === of);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        type="button"
        data-explained={of}
        title="What this number is"
        onClick={(e) => e.stopPropagation()}
        className="cursor-help [text-align:inherit] underline decoration-dotted underline-offset-2 hover:text-ink hover:decoration-solid"
      >
        {children}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          collisionPadding={8}
          aria-label={told?.name ?? "What this number is"}
          data-testid="explained"
          className="z-20 w-[380px] max-w-[94vw] space-y-1.5 border-[1.4px] border-ink bg-raised p-3.5 text-left text-[13px] font-normal text-ink"
        >
          {told ? (
            <>
              <h2 className="font-bold first-letter:uppercase">{told.name}</h2>
              <p>{told.says}</p>
              <p className="figure border-y border-rule py-1 text-[12px] whitespace-normal">{told.formula}</p>
              <p className="narrow text-second">{told.source}</p>
              {told.holds && <p className="narrow">{told.holds}</p>}
              <p className="narrow text-second">Used in {told.used}.</p>
            </>
          ) : (
            <p className="text-second">Reading …</p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A name, with its explanation where there is one. */
export const Named = ({ of, children }: { of?: NumberKey | undefined; children: ReactNode }) =>
  of ? <Explained of={of}>{children}</Explained> : <>{children}</>;
