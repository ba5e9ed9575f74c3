/** A plate's page opens without a connection: what it was made of is kept by a service worker, what it says here. */
import type { QueryClient, QueryKey } from "@tanstack/react-query";

/** Answers that a plate's page cannot do without. */
const NEEDED: readonly unknown[] = ["session", "traveller", "seats"];
const PREFIX = "answer/";
/** Milliseconds after which an answer is no longer worth keeping: a plate is printed by then. */
const LONGEST = 14 * 86_400_000;

interface Answer {
  key: QueryKey;
  data: unknown;
  at: number;
}

const kept = (storage: Storage) => Object.keys(storage).filter((name) => name.startsWith(PREFIX));

/** Puts kept answers in place on a plate's page, as old as they are, and keeps those that come. Signed out, nothing stays. */
export function keepAnswers(client: QueryClient, storage: Storage, path: string, now = Date.now()): void {
  for (const name of path.startsWith("/plates/") ? kept(storage) : []) {
    const answer = readAnswer(storage.getItem(name));
    if (answer && now - answer.at < LONGEST) client.setQueryData(answer.key, answer.data, { updatedAt: answer.at });
    else storage.removeItem(name);
  }
  client.getQueryCache().subscribe(({ type, query }) => {
    const { data, dataUpdatedAt: at, status } = query.state;
    if (type !== "updated" || status !== "success" || !NEEDED.includes(query.queryKey[0])) return;
    if (query.queryKey[0] === "session" && !data) forgetAnswers(storage);
    else storage.setItem(PREFIX + JSON.stringify(query.queryKey), JSON.stringify({ key: query.queryKey, data, at }));
  });
}

/** What was seen is nobody's business once its reader has signed out. */
export function forgetAnswers(storage: Storage): void {
  for (const name of kept(storage)) storage.removeItem(name);
}

function readAnswer(text: string | null): Answer | null {
  try {
    const row = JSON.parse(text ?? "null") as Partial<Answer> | null;
    return Array.isArray(row?.key) && typeof row.at === "number" ? (row as Answer) : null;
  } catch {
    return null;
  }
}

/** Has the page that is open kept by the browser; where it cannot (no secure address), it opens with a connection only. */
export async function keepPage(): Promise<void> {
  if (!("serviceWorker" in navigator)) return;
  const script = document.querySelector<HTMLScriptElement>("script[type=module]")?.src ?? "";
  const build = encodeURIComponent(new URL(script).pathname);
  try {
    await navigator.serviceWorker.register(`/offline.js?build=${build}`);
    const { active } = await navigator.serviceWorker.ready;
    const loaded = performance.getEntriesByType("resource").map((entry) => new URL(entry.name).pathname);
    active?.postMessage([...new Set(loaded.filter((path) => path.startsWith("/assets/")))]);
  } catch (e) {
    // Without it the page works as before; ticks are kept all the same.
    console.info("This browser keeps no page:", e);
  }
}
