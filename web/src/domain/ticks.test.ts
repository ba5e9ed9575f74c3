import { expect, test } from "vitest";

import { type KeptTick, readTicks, withTick, withoutSent } from "./ticks";

const tick = (step: string, at = "2031-01-01T10:00:00Z", done = true): KeptTick => ({ step, at, done });

test("the last tick of a step is the one that counts", () => {
  const kept = withTick(
    withTick(withTick([], tick("load")), tick("clean")),
    tick("load", "2031-01-01T11:00:00Z", false),
  );
  expect(kept.map((t) => [t.step, t.done])).toEqual([
    ["clean", true],
    ["load", false],
  ]);
});

test("what was ticked anew while it was being sent is sent again", () => {
  const sent = [tick("load"), tick("clean")];
  const kept = withTick(sent, tick("load", "2031-01-01T11:00:00Z", false));
  expect(withoutSent(kept, sent)).toEqual([tick("load", "2031-01-01T11:00:00Z", false)]);
  expect(withoutSent(sent, sent)).toEqual([]);
});

test("a browser that holds something else has kept nothing", () => {
  for (const text of [null, "", "{", "7", '{"a":1}', '[{"step":1}]']) expect(readTicks(text)).toEqual([]);
  expect(readTicks(JSON.stringify([tick("load"), 3]))).toEqual([tick("load")]);
});
