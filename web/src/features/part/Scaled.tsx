/** A variant of another size: a revision whose every check starts anew. */
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { type Part, api } from "../../api/client";
import { useSend, useWork } from "../../api/queries";
import { typedNumber } from "../../domain/figures";
import { isOpen } from "../../domain/work";
import { Button, Heading, Progress, Trouble } from "../../ui/controls";

export function Scaled({ part }: { part: Part }) {
  const navigate = useNavigate();
  const { send, trouble } = useSend();
  const [text, setText] = useState("");
  const [order, setOrder] = useState<string>();
  const { work } = useWork(order, (done) => {
    setOrder(undefined);
    if (done.result) void navigate({ to: "/parts/$partId/facts", params: { partId: String(done.result.part) } });
  });
  const make = async () => {
    const result = await send(() => api.scalePart(part.id, typedNumber(text)));
    setOrder(result?.id);
  };
  return (
    <div data-testid="scaled">
      <Heading>Another size</Heading>
      <p className="text-second">
        A scaled variant is a new part: walls, clearances and hardware do not scale with it, so every check starts anew.
      </p>
      <form
        className="mt-1 flex items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <label className="text-second">
          times{" "}
          <input
            inputMode="decimal"
            required
            value={text}
            onChange={(e) => setText(e.target.value)}
            className="figure w-20 border border-bark bg-raised px-1 text-right text-ink"
          />
        </label>
        <Button type="submit" plain disabled={order !== undefined}>
          Apply
        </Button>
      </form>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {work?.problem && <Trouble message={work.problem.message} hint={work.problem.hint} />}
      {work && isOpen(work) && <Progress doing={work.doing} done={work.done} total={work.total} />}
    </div>
  );
}
