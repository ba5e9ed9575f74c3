/** What every stage's page needs: who may order, ordering, breaking off, and what went wrong. */
import { useQueryClient } from "@tanstack/react-query";

import { takeAnswer } from "./answers";
import { type Part, api } from "./client";
import { useMayWrite, useSend } from "./queries";

/** `key`: the stage's answers in the cache, kept by part, edition and study; `calculate` takes what the server answers as
 * theirs. */
export function useStage(part: Pick<Part, "id" | "version" | "study" | "frozen">, key: string) {
  const may = useMayWrite(part);
  const client = useQueryClient();
  const { send, busy, trouble, setTrouble } = useSend();
  const calculate = async (order: () => Promise<unknown>): Promise<boolean> => {
    const answer = await send(order);
    if (answer === undefined) return false;
    await takeAnswer(client, [key, part.id], answer); // of whichever edition the page has come to meanwhile
    return true;
  };
  const onStop = may ? (work: string) => api.cancel(work) : null;
  return { may, send, busy, trouble, setTrouble, calculate, onStop };
}
