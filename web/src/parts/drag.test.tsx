// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeAll, expect, it, vi } from "vitest";
import { follow } from "./drag";

beforeAll(() => {
  HTMLElement.prototype.setPointerCapture = () => undefined;
});
afterEach(cleanup);

function press() {
  const [move, end] = [vi.fn(), vi.fn()];
  render(<div data-testid="it" onPointerDown={(e) => follow(e, move, end)} />);
  const it = screen.getByTestId("it");
  const at = (type: "pointerDown" | "pointerMove" | "pointerUp", clientX: number, clientY: number) =>
    fireEvent(it, new MouseEvent(type.toLowerCase(), { bubbles: true, clientX, clientY }));
  at("pointerDown", 10, 10);
  return { it, at, move, end };
}

it("tells how far the pointer went, and where it was let go", () => {
  const { at, move, end } = press();
  at("pointerMove", 25, 4);
  expect(move).toHaveBeenLastCalledWith(expect.objectContaining({ dx: 15, dy: -6 }));
  at("pointerUp", 30, 4);
  expect(end).toHaveBeenCalledWith(expect.objectContaining({ dx: 20, dy: -6 }));
  at("pointerMove", 90, 90);
  expect(move).toHaveBeenCalledOnce();
});

it("takes a press that hardly moves for none", () => {
  const { at, move, end } = press();
  at("pointerMove", 11, 11);
  at("pointerUp", 11, 11);
  expect(move).not.toHaveBeenCalled();
  expect(end).toHaveBeenCalledWith(null);
});

it("is ended by Escape and by the system, and nothing is kept", () => {
  const outer = vi.fn();
  window.addEventListener("keydown", outer);
  const first = press();
  first.at("pointerMove", 60, 10);
  fireEvent.keyDown(document.body, { key: "Escape" });
  expect(first.end).toHaveBeenCalledWith(null);
  expect(outer).not.toHaveBeenCalled();
  fireEvent.keyDown(document.body, { key: "Escape" });
  expect(outer).toHaveBeenCalledOnce();
  window.removeEventListener("keydown", outer);
  cleanup();
  const second = press();
  second.at("pointerMove", 60, 10);
  fireEvent(second.it, new Event("pointercancel"));
  expect(second.end).toHaveBeenCalledWith(null);
});
