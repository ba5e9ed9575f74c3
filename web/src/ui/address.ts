/** What a page shows, kept in its address: back, reload and a link to a colleague show the same. */
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useCallback, useEffect, useState } from "react";

type Search = Readonly<Record<string, string | undefined>>;

/** Words in the address under a name, null where there are none; each change is a step that *back* takes back. */
export function useInAddress(name: string): [string | null, (to: string | null, replace?: boolean) => void] {
  const search: Search = useSearch({ strict: false });
  const navigate = useNavigate();
  const put = useCallback(
    (to: string | null, replace = false) =>
      void navigate({
        to: ".",
        search: ((before: Search) => ({ ...before, [name]: to ?? undefined })) as never,
        replace,
      }),
    [name, navigate],
  );
  return [search[name] ?? null, put];
}

/** One of several views; the first is what an address without a word shows. */
export function useView<K extends string>(name: string, of: readonly K[]): [K, (to: K) => void] {
  const [given, put] = useInAddress(name);
  const first = of[0] as K;
  const pick = useCallback((to: K) => put(to === first ? null : to), [put, first]);
  return [of.find((key) => key === given) ?? first, pick];
}

/** A row of a list by its number. */
export function useNumber(name: string): [number | null, (to: number | null) => void] {
  const [given, put] = useInAddress(name);
  const pick = useCallback((to: number | null) => put(to === null ? null : String(to)), [put]);
  return [numberIn(given), pick];
}

const REST_MS = 400;

/** A number that follows the pointer: it is in the address once it rests. */
export function useRestingNumber(
  name: string,
): [number | null, (to: number | null | ((now: number | null) => number | null)) => void] {
  const [given, put] = useInAddress(name);
  const [now, set] = useState(() => numberIn(given));
  const words = now === null ? null : String(now);
  useEffect(() => {
    if (words === given) return;
    const timer = setTimeout(() => put(words, true), REST_MS);
    return () => clearTimeout(timer);
  }, [words, given, put]);
  return [now, set];
}

const numberIn = (given: string | null): number | null => {
  const value = given === null || given.trim() === "" ? NaN : Number(given);
  return Number.isFinite(value) ? value : null;
};
