// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useRef } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { useZooming } from "./pinch";

const [zoom, move] = [vi.fn(), vi.fn()];

function Place() {
  const place = useRef<HTMLDivElement>(null);
  useZooming(place, { zoom, move });
  return <div ref={place} data-testid="place" />;
}

/** A pointer event of a finger; jsdom has none of its own that carry all of this. */
function finger(kind: string, pointerId: number, clientX: number) {
  const event = new MouseEvent(kind, { bubbles: true, cancelable: true, clientX });
  Object.assign(event, { pointerId, pointerType: "touch" });
  fireEvent(kind === "pointerup" ? window : screen.getByTestId("place"), event);
}

afterEach(() => {
  cleanup();
  vi.clearAllMocks();
});

describe("zooming", () => {
  it("goes about the pointer, closer where the wheel goes up", () => {
    render(<Place />);
    fireEvent.wheel(screen.getByTestId("place"), { deltaY: -100, clientX: 40 });
    const [factor, x] = zoom.mock.calls[0] as [number, number];
    expect(factor).toBeCloseTo(Math.exp(-0.15));
    expect(x).toBe(40);
    expect(move).not.toHaveBeenCalled();
  });

  it("takes the small steps of a trackpad as what they are, and sideways as moving", () => {
    render(<Place />);
    fireEvent.wheel(screen.getByTestId("place"), { deltaY: -10, clientX: 5, ctrlKey: true });
    expect(zoom.mock.calls[0]?.[0]).toBeCloseTo(Math.exp(-0.1));
    fireEvent.wheel(screen.getByTestId("place"), { deltaX: 30, deltaY: 2 });
    fireEvent.wheel(screen.getByTestId("place"), { deltaY: 20, shiftKey: true });
    expect(move.mock.calls).toEqual([[30], [20]]);
  });

  it("follows two fingers, and neither one nor three", () => {
    render(<Place />);
    finger("pointerdown", 1, 100);
    finger("pointermove", 1, 110);
    expect(zoom).not.toHaveBeenCalled();
    finger("pointerdown", 2, 210);
    finger("pointermove", 2, 310);
    // From 100 to 200 pixels apart, about the middle of where they were; the middle itself went 50 to the right.
    expect(zoom).toHaveBeenLastCalledWith(0.5, 160);
    expect(move).toHaveBeenLastCalledWith(-50);
    finger("pointerdown", 3, 400);
    finger("pointermove", 3, 500);
    expect(zoom).toHaveBeenCalledTimes(1);
    finger("pointerup", 3, 500);
    finger("pointerup", 2, 310);
    finger("pointermove", 1, 0);
    expect(zoom).toHaveBeenCalledTimes(1);
  });
});
