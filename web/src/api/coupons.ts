/** Coupons: sheets of readings, what they give, and runs of the test stand. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";

import { client, drawing, formOf, take } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Coupons = Schemas["CouponsOut"];
export type CouponKind = Schemas["CouponKind"];
export type CouponSheet = Schemas["CouponOut"];
export type CouponIn = Schemas["CouponIn"];
export type ReadingRow = Schemas["ReadingRow"];
export type Found = Schemas["FoundNumber"];
export type Coverage = Schemas["FarmCoverage"];
export type Curve = Schemas["BarCurve"];
export type Pull = Schemas["PullIn"];

const of = (coupon: string) => ({ params: { path: { coupon_id: coupon } } });

/** What of a sheet is written back. */
export function written(sheet: CouponSheet): CouponIn {
  const { key, machine, material, profile, printed, operator, room_c, layer, lot, dried, compensated } = sheet;
  const { note, give, give_off, rows } = sheet;
  return {
    ...{ key, machine, material, profile, printed, operator, room_c, layer, lot, dried, compensated },
    ...{ note, give, give_off, rows },
  };
}

export const couponsApi = {
  all: () => take<Coupons>(client.GET("/api/coupons")),
  one: (coupon: string) => take<CouponSheet>(client.GET("/api/coupons/{coupon_id}", of(coupon))),
  begin: (body: CouponIn) => take<CouponSheet>(client.POST("/api/coupons", { body })),
  amend: (coupon: string, base: number, body: CouponIn) =>
    take<CouponSheet>(client.PUT("/api/coupons/{coupon_id}", { ...of(coupon), body: { base, coupon: body } })),
  takeNumbers: (coupon: string, names: string[]) =>
    take<Schemas["TakenNumbers"]>(client.POST("/api/coupons/{coupon_id}/take", { ...of(coupon), body: { names } })),
  pull: (coupon: string, body: Pull) =>
    take<Schemas["PullOut"]>(client.POST("/api/coupons/{coupon_id}/pull", { ...of(coupon), body })),
  rows: (coupon: string, run: string, begin: number) =>
    take<Schemas["PullRows"]>(
      client.GET("/api/coupons/{coupon_id}/pull/{run}/rows", {
        params: { path: { coupon_id: coupon, run }, query: { begin } },
      }),
    ),
  stop: (coupon: string, run: string) =>
    take<Schemas["PullOut"]>(
      client.POST("/api/coupons/{coupon_id}/pull/{run}/stop", { params: { path: { coupon_id: coupon, run } } }),
    ),
  readPull: (coupon: string, run: string, query: { steel: boolean; width?: number; thickness?: number }) =>
    take<Curve>(
      client.GET("/api/coupons/{coupon_id}/pull/{run}", { params: { path: { coupon_id: coupon, run }, query } }),
    ),
  readFile: (coupon: string, file: File, more: Record<string, string | number | boolean>) =>
    take<Curve>(
      client.POST("/api/coupons/{coupon_id}/curve", {
        ...of(coupon),
        body: more as never,
        bodySerializer: () => formOf({ file, ...more }),
      }),
    ),
  fileAddress: (
    sheet: Pick<CouponIn, "key" | "machine" | "material" | "profile">,
    kind: "stl" | "3mf",
    mark: string,
  ) => {
    const query = new URLSearchParams({ material: sheet.material, kind, mark });
    if (sheet.machine) query.set("machine", sheet.machine);
    if (sheet.profile) query.set("profile", sheet.profile);
    return `/api/coupons/file/${sheet.key}?${query.toString()}`;
  },
};

export const useCoupons = () => useQuery({ queryKey: ["coupons"], queryFn: couponsApi.all });

export const useCoupon = (id: string | null) =>
  useQuery({ queryKey: ["coupon", id], queryFn: () => couponsApi.one(id ?? ""), enabled: id !== null, retry: 1 });

export const useCouponView = (key: string | undefined) =>
  useQuery({
    queryKey: ["coupon-view", key],
    queryFn: () => drawing(`/api/coupons/view/${key ?? ""}`),
    enabled: key !== undefined,
    staleTime: Infinity,
  });

/** What shows coupons and the farm's records, read anew. */
export function useCouponsRefresh() {
  const queries = useQueryClient();
  return useCallback(
    () => Promise.all([["coupons"], ["coupon"], ["farm"]].map((queryKey) => queries.invalidateQueries({ queryKey }))),
    [queries],
  );
}
