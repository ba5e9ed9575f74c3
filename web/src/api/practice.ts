/** The practice bench: exercises, guesses, and what is told after one. */
import { useQuery } from "@tanstack/react-query";

import { client, take } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Bench = Schemas["Bench"];
export type Exercise = Schemas["Exercise"];
export type Kind = Exercise["kind"];
export type Answer = Schemas["GuessedOut"];

const at = (part: string, kind: string) => ({ params: { path: { part_id: part, kind } } });

export const practice = {
  guess: (part: string, kind: string, picked: string) =>
    take<Answer>(client.POST("/api/practice/{part_id}/{kind}", { ...at(part, kind), body: { picked } })),
};

export const useBench = () =>
  useQuery({ queryKey: ["bench"], queryFn: () => take<Bench>(client.GET("/api/practice")) });

export const useExercise = (exercise: Exercise | null) =>
  useQuery({
    queryKey: ["exercise", exercise?.part, exercise?.kind],
    queryFn: () =>
      take<Schemas["PosedOut"]>(
        client.GET("/api/practice/{part_id}/{kind}", at(exercise?.part ?? "", exercise?.kind ?? "")),
      ),
    enabled: exercise !== null,
    retry: false,
    staleTime: Infinity,
  });
