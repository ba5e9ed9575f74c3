// @vitest-environment jsdom
/** Writes on a job: one after the other, each on the edition before it, and done only when the page has it. */
import { QueryClient, QueryClientProvider, notifyManager } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { ApiProblem, type Job, type Part, api } from "./client";
import { useJobWriter, usePart } from "./queries";

/** A job that holds one number: the height of its desk. */
const edition = (version: number, height: number) =>
  ({ id: "p", sheet: "s", version, job: { height }, facts: { bores: [] } }) as unknown as Part;
const heightOf = (job: Job) => (job as unknown as { height: number }).height;

interface Call {
  version: number;
  height: number;
  answer: (part: Part) => Promise<void>;
  refuse: (problem: Error) => Promise<void>;
}

let calls: Call[];
let drawn: number[];
let faults: unknown[];
let kept: Part;

beforeEach(() => {
  calls = [];
  drawn = [];
  faults = [];
  kept = edition(1, 0);
  vi.spyOn(api, "part").mockImplementation(() => Promise.resolve(kept));
  vi.spyOn(api, "writeJob").mockImplementation(
    (_, version, sections) =>
      new Promise<Part>((resolve, reject) => {
        // Not within `act`: that would put together into one what the page draws one after the other.
        const turn = (settle: () => void) => {
          settle();
          return new Promise<void>((r) => setTimeout(r, 80));
        };
        calls.push({
          version,
          height: sections.desk?.height as number,
          answer: (part) => turn(() => resolve((kept = part))),
          refuse: (problem) => turn(() => reject(problem)),
        });
      }),
  );
});

afterEach(() => {
  cleanup();
  notifyManager.setScheduler((tell) => setTimeout(tell, 0));
  vi.restoreAllMocks();
});

/** Shows a height, a draft of it while one is being written, and adds one or sets it to seven. */
function Height({ part }: { part: Part }) {
  const { write, trouble } = useJobWriter(part);
  const [draft, setDraft] = useState<number | null>(null);
  drawn.push(draft ?? heightOf(part.job));
  const set = (height: number) => {
    setDraft(height);
    void write(() => ({ desk: { height } })).then(() => setDraft((d) => (d === height ? null : d)));
  };
  const raise = () =>
    void write((job) => ({ desk: { height: heightOf(job) + 1 } })).catch((e: unknown) => faults.push(e));
  return (
    <>
      <button onClick={() => set(7)}>seven</button>
      <button onClick={raise}>one more</button>
      <output>{draft ?? heightOf(part.job)}</output>
      {trouble && <p role="alert">{trouble.message}</p>}
    </>
  );
}

function Page() {
  const part = usePart("p").data;
  return part ? <Height part={part} /> : null;
}

async function page() {
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false, staleTime: 0 } } })}>
      <Page />
    </QueryClientProvider>,
  );
  await screen.findByText("seven");
}

const press = (name: string) => act(async () => void fireEvent.click(screen.getByText(name)));
const leaving = () => {
  const event = new Event("beforeunload", { cancelable: true });
  window.dispatchEvent(event);
  return event.defaultPrevented;
};

describe("a write on the job", () => {
  it("never lets the page show what was there before it", async () => {
    await page();
    notifyManager.setScheduler((tell) => setTimeout(tell, 20)); // the page is told late, as when the machine is busy
    await press("seven");
    await calls[0]?.answer(edition(2, 7));
    expect(screen.getByRole("status").textContent).toBe("7");
    expect(drawn.slice(drawn.indexOf(7))).not.toContain(0);
  });

  it("waits for its turn and is made on the edition that the one before made", async () => {
    await page();
    await press("one more");
    await press("one more");
    expect(calls.map((c) => c.version)).toEqual([1]);
    await calls[0]?.answer(edition(2, 41));
    expect(calls.map((c) => [c.version, c.height])).toEqual([
      [1, 1],
      [2, 42],
    ]);
  });

  it("keeps the browser from leaving while it is not answered", async () => {
    await page();
    expect(leaving()).toBe(false);
    await press("seven");
    expect(leaving()).toBe(true);
    await calls[0]?.answer(edition(2, 7));
    expect(leaving()).toBe(false);
  });

  it("tells what was refused, and the next one goes on from the edition that stands", async () => {
    await page();
    await press("one more");
    await calls[0]?.refuse(new ApiProblem(409, "clash", "Somebody wrote there too.", "Look at both."));
    expect(screen.getByRole("alert").textContent).toBe("Somebody wrote there too.");
    await press("one more");
    expect(calls[1]?.version).toBe(1);
    await calls[1]?.answer(edition(2, 1));
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("that ends in a fault does not hold up the ones after it", async () => {
    await page();
    await press("one more");
    await calls[0]?.refuse(new TypeError("a fault of the page"));
    await press("one more");
    await calls[1]?.answer(edition(2, 1));
    expect(screen.getByRole("status").textContent).toBe("1");
    expect(leaving()).toBe(false);
    expect(faults.map(String)).toEqual(["TypeError: a fault of the page"]); // told where it was made, not swallowed
  });
});
