/**
 * The stages of a part in the order of the work: what the rail lists, what a key leads to, and the view, which is loaded
 * when somebody comes to it. Each has its route in App.
 */
import { type ComponentType, lazy } from "react";

import type { Part } from "../api/client";

export type View = ComponentType<{ part: Part }>;

/** A view by its name in the module that holds it. */
const view = <Name extends string>(load: () => Promise<Record<Name, View>>, name: Name) =>
  lazy(() => load().then((module) => ({ default: module[name] })));

export const STAGES = [
  { key: "facts", name: "Part", keys: "p", view: view(() => import("../features/part/PartFacts"), "PartFacts") },
  {
    key: "requirements",
    name: "Requirements",
    keys: "r",
    view: view(() => import("../features/requirements/Requirements"), "Requirements"),
  },
  {
    key: "direction",
    name: "Direction",
    keys: "d",
    view: view(() => import("../features/direction/Direction"), "Direction"),
  },
  {
    key: "overhangs",
    name: "Overhangs",
    keys: "v",
    view: view(() => import("../features/overhangs/Overhangs"), "Overhangs"),
  },
  { key: "pieces", name: "Pieces", keys: "k", view: view(() => import("../features/pieces/Pieces"), "Pieces") },
  { key: "walls", name: "Walls", keys: "g", view: view(() => import("../features/walls/Walls"), "Walls") },
  {
    key: "strength",
    name: "Strength",
    keys: "s",
    view: view(() => import("../features/strength/Strength"), "Strength"),
  },
] as const;

export type StageKey = (typeof STAGES)[number]["key"];

export const viewOf = (key: StageKey): View => (STAGES.find((s) => s.key === key) ?? STAGES[0]).view;
