/** The rows of a job that this stage reads and writes. */
import type { Part } from "../../api/client";
import type { Features, Flexes, Mate, Touch } from "../../api/fit";
import type { useJobWriter } from "../../api/queries";

/** What of a face has a size: a fit, a clearance of its own, or a function that asks for one. */
const SIZED = ["mating", "inside_corner", "sealing"];
export const counts = (t: Touch) => t.fit !== null || t.gap !== null || SIZED.includes(t.duty);

/** What only mates, without a fit, is drawn when somebody asks for it. */
export const wanted = (t: Touch) => t.fit !== null || t.gap !== null || t.duty === "inside_corner";

export type Write = ReturnType<typeof useJobWriter>["write"];

/** Changes of each list; what is written is read as people type it, so a row may say less than one that comes back. */
export const listsOf = (write: Write) => ({
  touching: (next: (now: Touch[]) => unknown[]) =>
    write((job) => ({ touching: { ...job.touching, rows: next(job.touching.rows) as Touch[] } })),
  flexing: (next: (now: Flexes) => unknown[]) =>
    write((job) => ({ flexing: { rows: next(job.flexing.rows) as Flexes } })),
  features: (next: (now: Features) => unknown[]) =>
    write((job) => ({ features: { rows: next(job.features.rows) as Features } })),
  mates: (next: (now: Mate[]) => unknown[]) =>
    write((job) => ({ mates: { ...job.mates, rows: next(job.mates.rows) as Mate[] } })),
});

/** The same with one row changed, or without it. */
export const changed = <R extends { id: string }>(rows: R[], id: string, change: Partial<Record<keyof R, unknown>>) =>
  rows.map((r) => (r.id === id ? { ...r, ...change } : r));
export const without = <R extends { id: string }>(rows: R[], id: string) => rows.filter((r) => r.id !== id);

export type Job = Part["job"];
export type Stacked = Job["mates"]["stack"][number];
