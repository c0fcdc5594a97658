// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useRef } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { type Box, nextIn, useRoving } from "./roving";

const box = (left: number, top: number): Box => ({ left, right: left + 10, top, bottom: top + 10 });

/** Two rows of three, and one that lies alone below. */
const GRID = [box(0, 0), box(20, 0), box(40, 0), box(0, 20), box(20, 20), box(40, 20), box(20, 60)];

describe("the next one in a direction", () => {
  it("lies straight ahead before aside", () => {
    expect(nextIn(GRID, 0, [1, 0])).toBe(1);
    expect(nextIn(GRID, 0, [0, 1])).toBe(3);
    expect(nextIn(GRID, 5, [-1, 0])).toBe(4);
    expect(nextIn(GRID, 4, [0, 1])).toBe(6);
    expect(nextIn(GRID, 3, [0, 1]), "nothing straight below").toBe(6);
  });

  it("is nothing at the edge", () => {
    expect(nextIn(GRID, 2, [1, 0])).toBe(-1);
    expect(nextIn(GRID, 1, [0, -1])).toBe(-1);
    expect(nextIn([], 0, [1, 0])).toBe(-1);
  });
});

function List({ names }: { names: readonly string[] }) {
  const place = useRef<HTMLDivElement>(null);
  const keys = useRoving(place, "button");
  return (
    <div ref={place} role="toolbar" {...keys}>
      {names.map((name) => (
        <button key={name} type="button">
          {name}
        </button>
      ))}
    </div>
  );
}

const lie = () => {
  screen.getAllByRole("button").forEach((one, i) => {
    one.getBoundingClientRect = () => box(0, 20 * i) as DOMRect;
    one.scrollIntoView = vi.fn();
  });
};
const stops = () => screen.getAllByRole("button").map((one) => one.tabIndex);
const reach = (name: string) => {
  fireEvent.keyDown(document.body, { key: "Tab" });
  screen.getByText(name).focus();
};

describe("a place with one stop of Tab", () => {
  afterEach(cleanup);

  it("is walked by the arrows, and keeps where one was", () => {
    render(<List names={["a", "b", "c"]} />);
    lie();
    expect(stops()).toEqual([0, -1, -1]);
    reach("a");
    fireEvent.keyDown(screen.getByText("a"), { key: "ArrowDown" });
    expect(document.activeElement?.textContent).toBe("b");
    expect(stops()).toEqual([-1, 0, -1]);
    fireEvent.keyDown(screen.getByText("b"), { key: "End" });
    expect(document.activeElement?.textContent).toBe("c");
    fireEvent.keyDown(screen.getByText("c"), { key: "ArrowDown" });
    expect(document.activeElement?.textContent, "at the end it stays").toBe("c");
    fireEvent.keyDown(screen.getByText("c"), { key: "Home" });
    expect(stops()).toEqual([0, -1, -1]);
  });

  it("has a stop again where the one that had it is gone", () => {
    const { rerender } = render(<List names={["a", "b", "c"]} />);
    lie();
    reach("b");
    rerender(<List names={["a", "c"]} />);
    expect(stops()).toEqual([0, -1]);
  });

  it("leaves the arrows alone where one clicked", () => {
    render(<List names={["a", "b"]} />);
    lie();
    fireEvent.pointerDown(screen.getByText("a"));
    screen.getByText("a").focus();
    fireEvent.keyDown(screen.getByText("a"), { key: "ArrowDown" });
    expect(document.activeElement?.textContent).toBe("a");
  });
});
