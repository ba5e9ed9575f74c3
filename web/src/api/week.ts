/** The farm's week and what is done at its machines. */
import { useQuery } from "@tanstack/react-query";

import { client, formOf, take } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Week = Schemas["WeekOut"];
export type Hands = Schemas["HandsIn"];
export type Traveller = Schemas["TravellerOut"];
export type Command = Schemas["CommandIn"]["what"];
export type TickIn = Schemas["TickIn"];

export interface WhatIf {
  without: string[];
  people: number | null;
  hours: number;
  /** Orders with half as many copies on a plate, and orders printed one after another. */
  half: string[];
  in_turn: string[];
  /** As the solver found it. */
  better: boolean;
}

const plate = (order: string, number: number) => ({ params: { path: { order_id: order, number } } });
const print = (id: string) => ({ params: { path: { print_id: id } } });

export const weekApi = {
  week: (query: WhatIf) => take<Week>(client.GET("/api/week", { params: { query } })),
  orderParts: (body: Schemas["PartsOrderIn"]) => take<Week>(client.POST("/api/week/orders", { body })),
  withdrawOrder: (order: string) =>
    take<Week>(client.DELETE("/api/week/orders/{order_id}", { params: { path: { order_id: order } } })),
  pinPlate: (order: string, body: Schemas["PinIn"]) =>
    take<Week>(client.PUT("/api/week/orders/{order_id}/pin", { params: { path: { order_id: order } }, body })),
  takePlan: (better: boolean) => take<Week>(client.PUT("/api/week/plan", { body: { better } })),
  takeWhatIf: ({ without, people, hours }: WhatIf) =>
    take<Week>(client.PUT("/api/week/what-if", { body: { without, people, hours } })),
  search: () => take<Schemas["WorkOut"]>(client.POST("/api/week/search")),
  hands: () => take<Hands>(client.GET("/api/week/hands")),
  setHands: (body: Hands) => take<Hands>(client.PUT("/api/week/hands", { body })),

  traveller: (order: string, number: number) =>
    take<Traveller>(client.GET("/api/floor/plates/{order_id}/{number}", plate(order, number))),
  seats: (order: string, number: number) =>
    take<Schemas["PausePictureOut"][]>(client.GET("/api/floor/plates/{order_id}/{number}/seats", plate(order, number))),
  start: (order: string, number: number, machine: string) =>
    take<Traveller>(
      client.POST("/api/floor/plates/{order_id}/{number}/prints", { ...plate(order, number), body: { machine } }),
    ),
  tick: (order: string, number: number, ticks: TickIn[]) =>
    take<Traveller>(
      client.POST("/api/floor/plates/{order_id}/{number}/ticks", { ...plate(order, number), body: { ticks } }),
    ),
  command: (id: string, what: Command) =>
    take<Traveller>(client.POST("/api/floor/prints/{print_id}/command", { ...print(id), body: { what } })),
  count: (id: string, good: number, bad: number) =>
    take<Traveller>(client.POST("/api/floor/prints/{print_id}/count", { ...print(id), body: { good, bad } })),
  fault: (id: string, words: string, photo: File | null) =>
    take<Traveller>(
      client.POST("/api/floor/prints/{print_id}/fault", {
        ...print(id),
        body: { words, photo: null },
        bodySerializer: () => formOf({ words, photo }),
      }),
    ),
};

/** Seconds between two looks while something prints, and while nothing does. */
const LIVE = 2_000;
const CALM = 30_000;

export const useWeek = (asked: WhatIf, wanted = true) =>
  useQuery({
    queryKey: ["week", asked],
    queryFn: () => weekApi.week(asked),
    enabled: wanted,
    placeholderData: (before) => before,
    refetchInterval: (query) => (query.state.data?.runs.some((r) => r.print) ? LIVE : CALM),
  });

export const useHands = () => useQuery({ queryKey: ["week", "hands"], queryFn: weekApi.hands });

/** What somebody looks down on at every pause of a plate; it does not change. */
export const useSeats = (order: string, number: number) =>
  useQuery({
    queryKey: ["seats", order, number],
    queryFn: () => weekApi.seats(order, number),
    staleTime: Infinity,
  });

export const useTraveller = (order: string, number: number) =>
  useQuery({
    queryKey: ["traveller", order, number],
    queryFn: () => weekApi.traveller(order, number),
    refetchInterval: LIVE,
    networkMode: "always",
  });
