import { type RefObject, useEffect, useEffectEvent } from "react";

/** How much a step of the wheel zooms; with Ctrl, which is how browsers tell of two fingers on a trackpad, steps are small. */
const WHEEL = 0.0015;
const TRACKPAD = 0.01;

interface Zooming {
  /** Zoom by a factor (below 1 looks closer) about a place, in pixels from the left of the element. */
  zoom: (factor: number, x: number) => void;
  /** Move what is shown by so many pixels. */
  move: (dx: number) => void;
}

/** Zoom about the pointer and move along: by wheel, on a trackpad, and by two fingers. */
export function useZooming(place: RefObject<HTMLElement | null>, { zoom, move }: Zooming): void {
  const wheeled = useEffectEvent((event: WheelEvent, box: DOMRect) => {
    event.preventDefault();
    const sideways = Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey;
    if (sideways && !event.ctrlKey) return move(event.deltaX || event.deltaY);
    zoom(Math.exp(event.deltaY * (event.ctrlKey ? TRACKPAD : WHEEL)), event.clientX - box.left);
  });
  const spread = useEffectEvent((before: readonly number[], now: readonly number[], box: DOMRect) => {
    const [[a, b], [c, d]] = [before, now] as unknown as [[number, number], [number, number]];
    const apart = Math.abs(d - c);
    if (apart > 1) zoom(Math.abs(b - a) / apart, (a + b) / 2 - box.left);
    move((a + b - c - d) / 2);
  });
  useEffect(() => {
    const target = place.current;
    if (!target) return;
    const fingers = new Map<number, number>();
    const wheel = (event: WheelEvent) => wheeled(event, target.getBoundingClientRect());
    const down = (event: PointerEvent) => {
      if (event.pointerType === "touch") fingers.set(event.pointerId, event.clientX);
    };
    const moved = (event: PointerEvent) => {
      if (!fingers.has(event.pointerId)) return;
      const before = [...fingers.values()];
      fingers.set(event.pointerId, event.clientX);
      if (fingers.size !== 2) return;
      // What else would follow the first finger does not: two fingers are a zoom.
      event.stopPropagation();
      spread(before, [...fingers.values()], target.getBoundingClientRect());
    };
    const up = (event: PointerEvent) => fingers.delete(event.pointerId);
    target.addEventListener("wheel", wheel, { passive: false });
    target.addEventListener("pointerdown", down, true);
    target.addEventListener("pointermove", moved, true);
    window.addEventListener("pointerup", up, true);
    window.addEventListener("pointercancel", up, true);
    return () => {
      target.removeEventListener("wheel", wheel);
      target.removeEventListener("pointerdown", down, true);
      target.removeEventListener("pointermove", moved, true);
      window.removeEventListener("pointerup", up, true);
      window.removeEventListener("pointercancel", up, true);
    };
  }, [place]);
}
