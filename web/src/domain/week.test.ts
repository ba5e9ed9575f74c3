import { describe, expect, it } from "vitest";

import { dayAndTime, lateWords, momentOf, wallClock } from "./week";

const ZERO = "2026-11-30T00:00:00+02:00";

describe("times of the week", () => {
  it("are the farm's own, wherever the page is looked at", () => {
    expect(wallClock(ZERO, 9 * 3600 + 300)).toEqual({ day: "Mon 30 Nov", time: "09:05" });
    expect(dayAndTime(ZERO, 86_400 + 60)).toBe("Tue 1 Dec, 00:01");
  });

  it("go back to the server as moments", () => {
    expect(momentOf(ZERO, 3600)).toBe("2026-11-29T23:00:00.000Z");
  });

  it("tell lateness coarsely", () => {
    expect([20, 1800, 7200, 100 * 3600].map(lateWords)).toEqual(["1 min", "30 min", "2 h", "4.2 days"]);
  });
});
