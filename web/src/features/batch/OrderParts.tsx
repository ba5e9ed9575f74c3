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

const hours = (text: string): number => Number(text.replace(",", ".")) || 0;

export function OrderParts({ part, fails }: Props) {
  const client = useQueryClient();
  const { send, busy, trouble } = useSend();
  const [quantity, setQuantity] = useState(String(part.job.need.quantity ?? ""));
  const [due, setDue] = useState(part.job.need.due ?? "");
  const [urgent, setUrgent] = useState(false);
  const [dry, setDry] = useState("0");
  const [kit, setKit] = useState("");
  const [rest, setRest] = useState("0");
  const [ordered, setOrdered] = useState(false);
  const order = async () => {
    const body = {
      part: part.id,
      quantity: Number(quantity),
      due: due ? `${due}T17:00:00` : null,
      urgent,
      dry_h: hours(dry),
      rest_h: hours(rest),
      kit,
    };
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
      <div className="flex items-end gap-2">
        <Input
          label="Dried before, h"
          inputMode="decimal"
          className="w-24"
          value={dry}
          onChange={(e) => setDry(e.target.value)}
        />
        <Input
          label="Rests after, h"
          inputMode="decimal"
          className="w-24"
          title="From a plate's being off until its parts can be used: conditioned, glued, inspected"
          value={rest}
          onChange={(e) => setRest(e.target.value)}
        />
        <Input
          label="Kit"
          maxLength={80}
          className="min-w-0 flex-1"
          title="Orders of one kit are wanted together"
          value={kit}
          onChange={(e) => setKit(e.target.value)}
        />
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
