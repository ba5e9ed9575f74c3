/** Good parts ordered in the batch that was chosen: how many, by when. */
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import type { Part } from "../../api/client";
import { useSend } from "../../api/queries";
import { weekApi } from "../../api/week";
import { Button, Input, Tick, Trouble } from "../../ui/controls";

interface Props {
  part: Part;
  /** Whether the batch that was chosen may fail. */
  fails: boolean;
}

export function OrderParts({ part, fails }: Props) {
  const client = useQueryClient();
  const { send, busy, trouble } = useSend();
  const [quantity, setQuantity] = useState(String(part.job.need.quantity ?? ""));
  const [due, setDue] = useState(part.job.need.due ?? "");
  const [urgent, setUrgent] = useState(false);
  const [ordered, setOrdered] = useState(false);
  const order = async () => {
    const body = { part: part.id, quantity: Number(quantity), due: due ? `${due}T17:00:00` : null, urgent };
    const week = await send(() => weekApi.orderParts(body));
    if (!week) return;
    await client.invalidateQueries({ queryKey: ["week"] });
    setOrdered(true);
  };
  return (
    <form
      className="space-y-2 border-b border-rule py-2"
      data-testid="order-parts"
      onSubmit={(e) => {
        e.preventDefault();
        void order();
      }}
    >
      <div className="flex items-end gap-2">
        <Input
          label="Good parts"
          inputMode="numeric"
          required
          pattern="[1-9]\d*"
          className="w-24"
          value={quantity}
          onChange={(e) => setQuantity(e.target.value)}
        />
        <Input label="By the evening of" type="date" value={due} onChange={(e) => setDue(e.target.value)} />
        <Tick className="gap-1 pb-1" ticked={urgent} onTick={setUrgent}>
          urgent
        </Tick>
        <Button type="submit" disabled={busy}>
          Order
        </Button>
      </div>
      {fails && <p className="text-crown">The batch that was chosen may fail: what is ordered is printed as it is.</p>}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {ordered && (
        <p>
          Ordered; its plates are in the{" "}
          <Link to="/week" className="underline">
            week
          </Link>
          .
        </p>
      )}
    </form>
  );
}
