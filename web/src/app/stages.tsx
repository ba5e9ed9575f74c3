/**
 * The stages of a part in the order of the work: what the rail lists, what a key leads to, and the view, which is loaded
 * when somebody comes to it. Each has its route in App.
 */
import { type ComponentType, lazy } from "react";

import type { Part } from "../api/client";
import { STAGE_NAMES } from "../domain/stages";

export type View = ComponentType<{ part: Part }>;

/** A view by its name in the module that holds it. */
const view = <Name extends string>(load: () => Promise<Record<Name, View>>, name: Name) =>
  lazy(() => load().then((module) => ({ default: module[name] })));

export const STAGES = [
  {
    key: "facts",
    name: STAGE_NAMES.facts,
    keys: "p",
    view: view(() => import("../features/part/PartFacts"), "PartFacts"),
  },
  {
    key: "requirements",
    name: STAGE_NAMES.requirements,
    keys: "r",
    view: view(() => import("../features/requirements/Requirements"), "Requirements"),
  },
  {
    key: "direction",
    name: STAGE_NAMES.direction,
    keys: "d",
    view: view(() => import("../features/direction/Direction"), "Direction"),
  },
  {
    key: "overhangs",
    name: STAGE_NAMES.overhangs,
    keys: "v",
    view: view(() => import("../features/overhangs/Overhangs"), "Overhangs"),
  },
  {
    key: "pieces",
    name: STAGE_NAMES.pieces,
    keys: "k",
    view: view(() => import("../features/pieces/Pieces"), "Pieces"),
  },
  { key: "walls", name: STAGE_NAMES.walls, keys: "g", view: view(() => import("../features/walls/Walls"), "Walls") },
  {
    key: "strength",
    name: STAGE_NAMES.strength,
    keys: "s",
    view: view(() => import("../features/strength/Strength"), "Strength"),
  },
  {
    key: "hardware",
    name: STAGE_NAMES.hardware,
    keys: "j",
    view: view(() => import("../features/hardware/Hardware"), "Hardware"),
  },
  { key: "fit", name: STAGE_NAMES.fit, keys: "m", view: view(() => import("../features/fit/Fit"), "Fit") },
  { key: "batch", name: STAGE_NAMES.batch, keys: "b", view: view(() => import("../features/batch/Batch"), "Batch") },
  {
    key: "trials",
    name: STAGE_NAMES.trials,
    keys: "c",
    view: view(() => import("../features/trials/PartTrials"), "PartTrials"),
  },
  {
    key: "release",
    name: STAGE_NAMES.release,
    keys: "z",
    view: view(() => import("../features/release/Release"), "Release"),
  },
] as const;

export type StageKey = (typeof STAGES)[number]["key"];

export const viewOf = (key: StageKey): View => (STAGES.find((s) => s.key === key) ?? STAGES[0]).view;
