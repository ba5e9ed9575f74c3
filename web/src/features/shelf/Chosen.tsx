/** Several parts chosen for one action; the line stands there before any is, so that nothing moves when one is. */
import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { ApiProblem, type PartRow, api } from "../../api/client";
import { useSend } from "../../api/queries";
import { weekApi } from "../../api/week";
import { words } from "../../domain/shelf";
import { Button, Input, Trouble } from "../../ui/controls";

interface Props {
  parts: readonly PartRow[];
  inSight: number;
  onAll: () => void;
  onNone: () => void;
}

export function Chosen({ parts, inSight, onAll, onNone }: Props) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { send, busy, trouble } = useSend();
  const [label, setLabel] = useState("");
  const [ordering, setOrdering] = useState(false);
  const [told, setTold] = useState<readonly string[]>([]);
  const act = async (action: "bin" | "label" | "unlabel" | "check", word = "") => {
    const ids = parts.map((p) => p.id);
    const done = await send(() => api.together(ids, action, word));
    if (!done) return;
    const name = (id: string) => parts.find((p) => p.id === id)?.name ?? "a part";
    setTold(done.flatMap((row) => (row.problem ? [`${name(row.part)}: ${row.problem}`] : [])));
    setLabel("");
    await Promise.all(["parts", "stages", "bin", "queue"].map((key) => client.invalidateQueries({ queryKey: [key] })));
    if (action === "bin") onNone();
  };
  /** Each in the batch that its job has chosen; what cannot be ordered holds up no other. */
  const order = async (quantity: number, due: string) => {
    const lines: string[] = [];
    for (const p of parts) {
      const body = {
        part: p.id,
        quantity,
        due: due ? `${due}T17:00:00` : null,
        urgent: false,
        dry_h: 0,
        rest_h: 0,
        kit: "",
      };
      try {
        await weekApi.orderParts(body);
      } catch (e) {
        if (!(e instanceof ApiProblem)) throw e;
        lines.push(`${p.name}: ${e.message} ${e.hint}`);
      }
    }
    const done = parts.length - lines.length;
    setTold([...(done ? [`${done} ordered, ${quantity} of each.`] : []), ...lines]);
    setOrdering(false);
    await Promise.all(["week", "stages"].map((key) => client.invalidateQueries({ queryKey: [key] })));
  };
  const [one, other] = parts;
  return (
    <div className="mt-1.5 min-h-[34px] border-y border-rule py-1 max-md:hidden" data-testid="chosen">
      <div className="flex flex-wrap items-center gap-2">
        <span className="text-second">
          {parts.length === 0 ? "none chosen" : <b className="text-ink">{parts.length} chosen</b>}{" "}
          <button type="button" className="underline hover:text-ink" onClick={parts.length ? onNone : onAll}>
            {parts.length ? "none" : `all ${inSight} in sight`}
          </button>
        </span>
        {one && (
          <>
            <form
              className="flex items-center gap-1"
              onSubmit={(e) => {
                e.preventDefault();
                if (label.trim()) void act("label", label);
              }}
            >
              <input
                aria-label="Label for the chosen parts"
                placeholder="label"
                value={label}
                maxLength={30}
                onChange={(e) => setLabel(e.target.value)}
                className="w-28 border border-bark bg-raised px-2 py-0.5"
              />
              <Button plain type="submit" className="!px-2 !py-0" disabled={busy || !label.trim()}>
                Label
              </Button>
            </form>
            {words(parts, (p) => p.labels).map((word) => (
              <button
                key={word}
                type="button"
                className="narrow text-second underline hover:text-ink"
                disabled={busy}
                onClick={() => void act("unlabel", word)}
              >
                without {word}
              </button>
            ))}
            <Button plain className="!px-2 !py-0" disabled={busy} onClick={() => void act("check")}>
              Check strength
            </Button>
            {other && parts.length === 2 && (
              <Button
                plain
                className="!px-2 !py-0"
                onClick={() =>
                  void navigate({
                    to: "/parts/$partId/facts",
                    params: { partId: one.id },
                    search: { beside: other.id },
                  })
                }
              >
                Compare
              </Button>
            )}
            <Button plain className="!px-2 !py-0" aria-expanded={ordering} onClick={() => setOrdering(!ordering)}>
              Order
            </Button>
            <Button plain className="!px-2 !py-0" disabled={busy} onClick={() => void act("bin")}>
              Put in the bin
            </Button>
          </>
        )}
      </div>
      {one && ordering && <OrderEach onOrder={(quantity, due) => void order(quantity, due)} />}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {told.map((line) => (
        <p key={line} className="text-ochre">
          {line}
        </p>
      ))}
    </div>
  );
}

/** How many of each, by when; dried, rested and kitted as the batch's own page says. */
function OrderEach({ onOrder }: { onOrder: (quantity: number, due: string) => void }) {
  const [quantity, setQuantity] = useState("");
  const [due, setDue] = useState("");
  return (
    <form
      className="flex items-end gap-2 py-1"
      data-testid="order-each"
      onSubmit={(e) => {
        e.preventDefault();
        onOrder(Number(quantity), due);
      }}
    >
      <Input
        autoFocus
        label="Good parts of each"
        inputMode="numeric"
        required
        pattern="[1-9]\d*"
        className="w-28"
        value={quantity}
        onChange={(e) => setQuantity(e.target.value)}
      />
      <Input label="By the evening of" type="date" value={due} onChange={(e) => setDue(e.target.value)} />
      <Button type="submit">Order these</Button>
    </form>
  );
}
