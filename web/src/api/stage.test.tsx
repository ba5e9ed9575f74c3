// @vitest-environment jsdom
/** What a stage's page shows once something was ordered, however late an answer from before comes in. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Part } from "./client";
import { type HardwareState, hardwareApi, useHardware } from "./hardware";
import { useStage } from "./stage";

const edition = (version: number) => ({ id: "p", sheet: "s", version, study: "t", frozen: false }) as unknown as Part;
const state = (stale_because: string[], work: string) =>
  ({ analysis: { id: "a", stale_because, work: { state: work } } }) as unknown as HardwareState;

interface Read {
  answer: (state: HardwareState) => Promise<void>;
}
let reads: Read[];
let ordered: Read | undefined;

/** A promise that is answered by hand, and what answers it. */
function byHand(): [Promise<HardwareState>, Read] {
  let settle: (state: HardwareState) => void = () => undefined;
  const promise = new Promise<HardwareState>((resolve) => (settle = resolve));
  const told = () => vi.advanceTimersByTimeAsync(100); // the page is told in turns of its own
  return [promise, { answer: (given) => act(async () => (settle(given), void (await told()))) }];
}

beforeEach(() => {
  vi.useFakeTimers();
  reads = [];
  vi.spyOn(hardwareApi, "read").mockImplementation(() => {
    const [promise, read] = byHand();
    reads.push(read);
    return promise;
  });
  vi.spyOn(hardwareApi, "calculate").mockImplementation(() => {
    const [promise, read] = byHand();
    ordered = read;
    return promise;
  });
});

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.restoreAllMocks();
});

function Page() {
  const [part, setPart] = useState(edition(1));
  const analysis = useHardware(part, false).data?.analysis;
  const { calculate } = useStage(part, "hardware");
  return (
    <>
      <button onClick={() => void calculate(() => hardwareApi.calculate(part.id))}>order</button>
      <button onClick={() => setPart(edition(2))}>written</button>
      <output>{analysis ? `${analysis.stale_because.join()}/${analysis.work?.state ?? ""}` : "nothing"}</output>
    </>
  );
}

const page = () =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Page />
    </QueryClientProvider>,
  );
const press = (name: string) => act(async () => void fireEvent.click(screen.getByText(name)));
const shown = () => screen.getByRole("status").textContent;

describe("what was ordered", () => {
  it("is not hidden by an answer to a question asked before it", async () => {
    page();
    await reads[0]?.answer(state(["hardware"], "done"));
    await press("written"); // the next edition is being read
    await press("order");
    await ordered?.answer(state([], "doing"));
    expect(shown()).toBe("/doing");
    await reads[1]?.answer(state(["hardware"], "done"));
    expect(shown()).toBe("/doing");
  });

  it("is told to the edition that the page came to while the order was under way", async () => {
    page();
    await reads[0]?.answer(state(["hardware"], "done"));
    await press("order");
    await press("written");
    await ordered?.answer(state([], "doing"));
    await reads[1]?.answer(state(["hardware"], "done"));
    expect(shown()).toBe("/doing");
  });
});
