/** The farm's records of a kind, as they are chosen among: id and name. */
interface Named {
  id: string;
  kind: string;
  record: { name: string };
}

export const choicesOf = (records: readonly Named[] | undefined, kind: string): (readonly [string, string])[] =>
  (records ?? []).filter((r) => r.kind === kind).map((r) => [r.id, r.record.name] as const);

/** An item of the table of sizes as people call it. */
export const itemWords = (item: string): string => item.replaceAll("_", " ");
