/** The traveller's ticks: shown at once, sent as soon as the server can be reached, kept by the browser till then. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";

import { takeAnswer } from "../../api/answers";
import { ApiProblem } from "../../api/client";
import { weekApi } from "../../api/week";
import { readTicks, withTick, withoutSent } from "../../domain/ticks";

/** Milliseconds between two attempts while some are kept. */
const AGAIN = 3_000;

export function useTicks(order: string, number: number) {
  const place = `ticks/${order}/${number}`;
  const client = useQueryClient();
  const [kept, setKept] = useState(() => readTicks(localStorage.getItem(place)));
  const [trouble, setTrouble] = useState<ApiProblem | null>(null);
  const sending = useRef(false);
  const keep = useCallback(
    (change: (rows: typeof kept) => typeof kept) => {
      const rows = change(readTicks(localStorage.getItem(place)));
      localStorage.setItem(place, JSON.stringify(rows));
      setKept(rows);
    },
    [place],
  );
  const send = useCallback(async () => {
    const rows = readTicks(localStorage.getItem(place));
    if (sending.current || rows.length === 0) return;
    sending.current = true;
    try {
      const told = await weekApi.tick(order, number, rows);
      await takeAnswer(client, ["traveller", order, number], told);
      keep((now) => withoutSent(now, rows));
      setTrouble(null);
    } catch (e) {
      if (!(e instanceof ApiProblem)) throw e;
      // Without an answer they are kept and sent later; what the server refuses would be refused again.
      if (e.status !== 0 && e.status < 500 && e.status !== 401) {
        keep((now) => withoutSent(now, rows));
        setTrouble(e);
      }
    } finally {
      sending.current = false;
    }
  }, [client, keep, number, order, place]);
  useEffect(() => {
    const now = () => void send();
    const again = kept.length > 0 ? window.setInterval(now, AGAIN) : 0;
    window.addEventListener("online", now);
    return () => {
      window.clearInterval(again);
      window.removeEventListener("online", now);
    };
  }, [kept.length, send]);
  const tick = (step: string, done: boolean) => {
    keep((rows) => withTick(rows, { step, at: new Date().toISOString(), done }));
    void send();
  };
  return { kept, tick, trouble };
}
