/** A filled card put into a part's job: what it comes to as a requirement on hardware, the card's link as its source. */
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import type { Card, CardAnswer } from "../../api/cards";
import { api } from "../../api/client";
import { useParts, useSend, useSession } from "../../api/queries";
import { said } from "../../domain/cards";
import { newId } from "../../domain/needs";
import { mayEdit } from "../../domain/roles";
import { Button, Select, Trouble } from "../../ui/controls";

export function IntoJob({ card, answer }: { card: Card; answer: CardAnswer }) {
  const parts = useParts().data ?? [];
  const may = mayEdit(useSession().data?.role);
  const { send, busy, trouble } = useSend();
  const [chosen, setChosen] = useState("");
  const [put, setPut] = useState<{ part: string; name: string } | null>(null);
  const part = parts.find((p) => p.id === chosen) ?? parts[0];
  if (!may || !part) return null;
  const first = card.outputs[0];
  const value = first && answer.outputs?.[first.key];
  const given = card.inputs.map((i) => `${i.words} ${said(answer.inputs[i.key])}${i.unit && ` ${i.unit}`}`).join(", ");
  const write = async () => {
    const words = `${card.words}: ${first?.words ?? ""} ${said(value)} ${first?.unit ?? ""}, with ${given}`;
    const row = {
      id: newId(),
      kind: "hardware" as const,
      statement: words.slice(0, 400),
      source: `${window.location.pathname}${window.location.search}`.slice(0, 400),
      verify: "",
      number: null,
      guess: null,
    };
    const done = await send(async () => {
      const now = await api.part(part.id); // as it is, so that nothing of it is written over
      return api.writeJob(part.id, now.version, {
        requirements: { rows: [...now.job.requirements.rows, row] },
      });
    });
    if (done) setPut({ part: part.id, name: part.name });
  };
  return (
    <div className="flex flex-wrap items-end gap-2 border-t border-rule pt-2" data-testid="into-job">
      <Select
        label="Part whose job it goes into"
        quiet
        value={part.id}
        options={parts.map((p) => [p.id, p.name] as const)}
        onPick={setChosen}
        className="w-[200px]"
      />
      <Button plain disabled={busy} onClick={() => void write()}>
        Put into its job
      </Button>
      {put && (
        <span role="status">
          It stands in the requirements of{" "}
          <Link to="/parts/$partId/requirements" params={{ partId: put.part }} className="underline">
            {put.name}
          </Link>
          .
        </span>
      )}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
    </div>
  );
}
