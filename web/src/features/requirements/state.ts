/** What the requirements page is busy with: the face on the desk, and what the next press on the part is for. */
import { createContext, useContext } from "react";

import type { Job, Needs, Part, Pointed as Meant, Sections } from "../../api/client";
import type { Vec3 } from "../../domain/vectors";

/** What a press on the part gives: a face for the desk, or an answer to the form that asked. */
export type Asking =
  | { kind: "direction"; words: string; take: (direction: Vec3, words: string) => void }
  | { kind: "spot"; words: string; take: (point: Vec3) => void };

export interface OnDesk extends Meant {
  facet: number;
  wide: boolean;
  /** The region that this face already is. */
  region: string | null;
}

export type Tab = "must" | "loads" | "faces" | "coverage";

export interface Desk {
  tab: Tab;
  part: Part;
  job: Job;
  needs: Needs | undefined;
  may: boolean;
  write: (change: (job: Job) => Sections) => Promise<boolean>;
  asking: Asking | null;
  ask: (asking: Asking | null) => void;
  onDesk: OnDesk | null;
  /** The case whose arrows and answers are drawn. */
  caseId: string | null;
  showCase: (id: string | null) => void;
  /** An arrow being turned, before it is written. */
  turning: { id: string; direction: Vec3 } | null;
  /** The face that a load which is being written acts on. */
  loadOn: string | null;
  setLoadOn: (region: string | null) => void;
  go: (tab: Tab) => void;
}

export const DeskContext = createContext<Desk | null>(null);

export function useDesk(): Desk {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error("outside the requirements page");
  return desk;
}
