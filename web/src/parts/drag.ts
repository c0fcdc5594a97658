/** How far a pointer is from where it was pressed, in pixels, and the event that says so. */
export interface Drag {
  dx: number;
  dy: number;
  event: PointerEvent;
}

/** Pixels after which a press is a drag. */
const LEAST = 2;

/**
 * Follow a pointer that was pressed on something: mouse, pen or finger.
 *
 * `move` is told of each step. `end` is told where it was let go; null where it hardly moved, or where Escape or the system
 * ended it: then nothing is to be kept of it.
 */
export function follow(
  event: React.PointerEvent<Element>,
  move: (drag: Drag) => void,
  end: (drag: Drag | null) => void,
): void {
  const target = event.currentTarget as HTMLElement;
  target.setPointerCapture(event.pointerId);
  const [x, y] = [event.clientX, event.clientY];
  let moved = false;
  const dragOf = (e: PointerEvent): Drag => ({ dx: e.clientX - x, dy: e.clientY - y, event: e });
  const onMove = (e: PointerEvent) => {
    moved = moved || Math.hypot(e.clientX - x, e.clientY - y) > LEAST;
    if (moved) move(dragOf(e));
  };
  const stop = (last: Drag | null) => {
    target.removeEventListener("pointermove", onMove);
    target.removeEventListener("pointerup", onUp);
    target.removeEventListener("pointercancel", onCancel);
    window.removeEventListener("keydown", onKey, true);
    end(last);
  };
  const onUp = (e: PointerEvent) => stop(moved ? dragOf(e) : null);
  const onCancel = () => stop(null);
  const onKey = (e: KeyboardEvent) => {
    if (e.key !== "Escape") return;
    // It ends the drag, and nothing else that Escape would end.
    e.stopImmediatePropagation();
    stop(null);
  };
  target.addEventListener("pointermove", onMove);
  target.addEventListener("pointerup", onUp);
  target.addEventListener("pointercancel", onCancel);
  window.addEventListener("keydown", onKey, true);
}
