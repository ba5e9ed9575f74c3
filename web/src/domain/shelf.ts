/** Which parts a list shows, and in which order. */
export interface Listed {
  id: string;
  name: string;
  note: string;
  labels: readonly string[];
  material: string;
  by: string;
  created: string;
  settled: boolean;
  revises: string | null;
  revision: number;
  /** State of every stage when something of the part last changed. */
  standing: Readonly<Record<string, string>>;
}

export type Order = "newest" | "name" | "open first";
export const ORDERS: readonly Order[] = ["newest", "name", "open first"];

export interface Sought {
  search: string;
  order: Order;
  label: string;
  material: string;
  by: string;
  /** A stage and the state that it is in: “strength fails”; a stage alone is one that is not settled. */
  stage: string;
  /** Days since they came in; none asks for all. */
  days: number | null;
  /** Only what waits for a person. */
  waiting: boolean;
}

export const EVERYTHING: Sought = {
  search: "",
  order: "newest",
  label: "",
  material: "",
  by: "",
  stage: "",
  days: null,
  waiting: false,
};

const WAITS = ["open", "stale", "fails"];
const DAY_MS = 86_400_000;

export const waits = (p: Listed): boolean => Object.values(p.standing).some((state) => WAITS.includes(state));

function fits(p: Listed, s: Sought, now: number): boolean {
  const [stage = "", state] = s.stage.split(" ");
  const stands = p.standing[stage];
  return (
    `${p.name} ${p.note} ${p.labels.join(" ")}`.toLowerCase().includes(s.search.trim().toLowerCase()) &&
    (!s.label || p.labels.includes(s.label)) &&
    (!s.material || p.material === s.material) &&
    (!s.by || p.by === s.by) &&
    (!s.stage || (state ? stands === state : stands !== undefined && stands !== "settled")) &&
    (s.days === null || now - Date.parse(p.created) <= s.days * DAY_MS) &&
    (!s.waiting || waits(p))
  );
}

/** Parts that fit, with every revision of each below it; `now` is the time that days are counted from. */
export function shelved<P extends Listed>(parts: readonly P[], sought: Sought, now: number): P[] {
  const byId = new Map(parts.map((p) => [p.id, p]));
  const first = (p: P): P => {
    let here = p;
    for (let before = here.revises && byId.get(here.revises); before; before = here.revises && byId.get(here.revises))
      here = before;
    return here;
  };
  const families = new Map<P, P[]>();
  for (const p of parts) {
    const root = first(p);
    const rows = families.get(root);
    if (rows) rows.push(p);
    else families.set(root, [p]);
  }
  const found = [...families].filter(([, rows]) => rows.some((p) => fits(p, sought, now)));
  const newest = (rows: P[]) => rows.reduce((last, p) => (p.created > last ? p.created : last), "");
  const open = (rows: P[]) => (rows.some(waits) ? 0 : 1);
  found.sort(([a, ours], [b, theirs]) =>
    sought.order === "name"
      ? a.name.localeCompare(b.name)
      : (sought.order === "open first" ? open(ours) - open(theirs) : 0) || newest(theirs).localeCompare(newest(ours)),
  );
  return found.flatMap(([root, rows]) => [
    root,
    ...rows.filter((p) => p !== root).sort((a, b) => a.revision - b.revision),
  ]);
}

/** The words that occur among the parts, sorted, each once. */
export const words = (parts: readonly Listed[], of: (p: Listed) => readonly string[]): string[] =>
  [...new Set(parts.flatMap(of))].filter(Boolean).sort((a, b) => a.localeCompare(b));

/** The part whose job has come furthest, by the stages that say something: the one to show somebody who is new. */
export function furthest(stages: ReadonlyMap<string, readonly { state: string }[]> | undefined): string | null {
  const said = (rows: readonly { state: string }[]) => rows.filter((s) => s.state !== "empty").length;
  const order = [...(stages ?? [])].sort(([, a], [, b]) => said(b) - said(a));
  return order[0]?.[0] ?? null;
}
