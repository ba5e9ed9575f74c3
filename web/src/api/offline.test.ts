// @vitest-environment jsdom
import { QueryClient } from "@tanstack/react-query";
import { beforeEach, expect, test } from "vitest";

import { forgetAnswers, keepAnswers } from "./offline";

const DAY = 86_400_000;
const PLATE = ["traveller", "order", 1];

/** A page that is opened: what it holds before the server has said anything. */
function opened(path: string, now = Date.now()) {
  const client = new QueryClient();
  keepAnswers(client, localStorage, path, now);
  return client;
}

async function told(client: QueryClient, queryKey: unknown[], data: unknown) {
  await client.fetchQuery({ queryKey, queryFn: () => data });
}

beforeEach(() => localStorage.clear());

test("a plate's page holds what it last showed, as old as it is", async () => {
  await told(opened("/week"), PLATE, { copies: 6 });
  const again = opened("/plates/order/1");
  expect(again.getQueryData(PLATE)).toEqual({ copies: 6 });
  expect(again.getQueryState(PLATE)?.dataUpdatedAt).toBeLessThanOrEqual(Date.now());
  expect(opened("/week").getQueryData(PLATE)).toBeUndefined();
});

test("only what that page needs is kept, and no longer than a plate is of use", async () => {
  const page = opened("/plates/order/1");
  await told(page, ["parts"], [{ name: "a part" }]);
  await told(page, PLATE, { copies: 6 });
  expect(Object.keys(localStorage)).toHaveLength(1);
  expect(opened("/plates/order/1", Date.now() + 15 * DAY).getQueryData(PLATE)).toBeUndefined();
  expect(localStorage).toHaveLength(0);
});

test("signed out, by oneself or by the server, nothing stays", async () => {
  const page = opened("/plates/order/1");
  await told(page, PLATE, { copies: 6 });
  forgetAnswers(localStorage);
  expect(localStorage).toHaveLength(0);
  await told(page, ["session"], { name: "somebody" });
  await told(page, PLATE, { copies: 6 });
  expect(localStorage).toHaveLength(2);
  await page.invalidateQueries({ queryKey: ["session"] });
  await told(page, ["session"], null);
  expect(localStorage).toHaveLength(0);
});

test("ticks that wait are not touched, and a row that cannot be read is let go", () => {
  localStorage.setItem("ticks/order/1", "[]");
  localStorage.setItem("answer/broken", "{");
  opened("/plates/order/1");
  expect(Object.keys(localStorage)).toEqual(["ticks/order/1"]);
});
