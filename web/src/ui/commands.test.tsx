// @vitest-environment jsdom
/** Keys and the finder: each command by its key, by its name, and never while somebody types. */
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useMemo } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { Commands, useCommands } from "./commands";

Element.prototype.scrollIntoView = () => undefined; // the test's page has no layout
afterEach(cleanup);

function Stage({ onWalls, onPrint }: { onWalls: () => void; onPrint: () => void }) {
  useCommands(
    useMemo(
      () => [
        { name: "Stage: walls", keys: "g", run: onWalls },
        { name: "Print the comparison", run: onPrint },
      ],
      [onWalls, onPrint],
    ),
  );
  return <input aria-label="note" />;
}

function page(shown = true) {
  const [onWalls, onPrint] = [vi.fn(), vi.fn()];
  const draw = (there: boolean) => (
    <Commands>
      {there && <Stage onWalls={onWalls} onPrint={onPrint} />}
      <input aria-label="of the page" />
      <input type="range" aria-label="slider" />
    </Commands>
  );
  const { rerender } = render(draw(shown));
  return { onWalls, onPrint, show: (there: boolean) => rerender(draw(there)), user: userEvent.setup() };
}

describe("a command's key", () => {
  it("does what it says, on the page and on a slider, but not in a field", async () => {
    const { onWalls, user } = page();
    await user.keyboard("g");
    expect(onWalls).toHaveBeenCalledTimes(1);
    screen.getByLabelText("slider").focus();
    await user.keyboard("g");
    expect(onWalls).toHaveBeenCalledTimes(2);
    await user.type(screen.getByLabelText("note"), "gauge");
    expect(onWalls).toHaveBeenCalledTimes(2);
    expect(screen.getByLabelText("note")).toHaveProperty("value", "gauge");
  });

  it("leaves the browser's own keys alone", () => {
    const { onWalls } = page();
    for (const held of ["ctrlKey", "metaKey", "altKey"]) fireEvent.keyDown(document.body, { key: "g", [held]: true });
    expect(onWalls).not.toHaveBeenCalled();
  });

  it("is gone with the piece of the page that offered it", async () => {
    const { onWalls, show, user } = page();
    show(false);
    await user.keyboard("g");
    expect(onWalls).not.toHaveBeenCalled();
  });
});

describe("the finder", () => {
  it("finds by any words of the name, goes by arrows, and closes when it is done", async () => {
    const { onWalls, onPrint, user } = page();
    await user.keyboard(".");
    const field = screen.getByRole("combobox");
    await user.type(field, "comparison pri");
    expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual(["Print the comparison"]);
    await user.clear(field);
    await user.keyboard("{ArrowDown}{ArrowDown}{ArrowUp}{Enter}");
    expect(onWalls).toHaveBeenCalledTimes(1);
    expect(onPrint).not.toHaveBeenCalled();
    expect(screen.queryByRole("dialog")).toBeNull();
  });

  it("says when nothing is called that, and does nothing then", async () => {
    const { onWalls, onPrint, user } = page();
    await user.keyboard(".");
    await user.type(screen.getByRole("combobox"), "teapot{Enter}");
    expect(screen.getByText("Nothing here is called that.")).toBeTruthy();
    expect(onWalls.mock.calls.length + onPrint.mock.calls.length).toBe(0);
  });

  it("keeps the page's keys to itself while it is open", async () => {
    const { onWalls, user } = page();
    await user.keyboard("?");
    const card = within(screen.getByTestId("keys"));
    expect(card.getByText("Stage: walls")).toBeTruthy();
    expect(card.queryByText("Print the comparison")).toBeNull();
    await user.keyboard("g");
    expect(onWalls).not.toHaveBeenCalled();
    await user.keyboard("{Escape}");
    await user.keyboard("g");
    expect(onWalls).toHaveBeenCalledTimes(1);
  });
});
