/** Gauge cards: one sum at a time. */
import { useQuery } from "@tanstack/react-query";

import { NUMBER_KEYS, type Told } from "../domain/explained";
import { client, take } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Card = Schemas["CardOut"];
export type CardAnswer = Schemas["CardAnswer"];

export const useCards = () =>
  useQuery({
    queryKey: ["cards"],
    queryFn: () => take<Card[]>(client.GET("/api/cards")),
    staleTime: Infinity,
  });

export type Size = Schemas["HardwareSize"];

export const useSizes = () =>
  useQuery({
    queryKey: ["sizes"],
    queryFn: () => take<Size[]>(client.GET("/api/cards/sizes")),
    staleTime: Infinity,
  });

/** The server tells of all that pages have explained, and of nothing else. */
NUMBER_KEYS satisfies readonly Schemas["ExplainedOut"]["key"][];

export const useExplained = (wanted: boolean) =>
  useQuery({
    queryKey: ["explained"],
    queryFn: () => take<Schemas["ExplainedOut"][]>(client.GET("/api/cards/explained")),
    select: (rows): readonly Told[] => rows,
    enabled: wanted,
    staleTime: Infinity,
  });

export const useCardAnswer = (card: string, inputs: Record<string, string>, wanted: boolean) =>
  useQuery({
    queryKey: ["card", card, inputs],
    queryFn: () => take<CardAnswer>(client.POST("/api/cards", { body: { card, inputs } })),
    enabled: wanted,
    placeholderData: (before) => before,
    retry: false,
    staleTime: Infinity,
  });
