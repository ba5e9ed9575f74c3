/** What the server answers to a write, taken as what is known of a thing. */
import type { QueryClient, QueryKey } from "@tanstack/react-query";

/** An answer to a read that was asked before the write must not come after it: it would be shown, and nobody looks again. */
export async function takeAnswer(client: QueryClient, queryKey: QueryKey, answer: unknown): Promise<void> {
  await client.cancelQueries({ queryKey });
  client.setQueriesData({ queryKey }, answer);
}
