import { useState } from "react";
import type { ItemView } from "../../api/client";
import { useCommands } from "../../api/project";

/** Pixels after which a press on a shot is a drag. */
const DRAG = 8;

/** A shot that is carried to another: over which it is, and how far the pointer is from where it began. */
export interface Carrying {
  onto: number | null;
  words: string;
  x: number;
  y: number;
}

/**
 * A shot dragged onto another one: they change places; with Shift its picture goes there and the shot before it runs on.
 * Gives what begins it, and what is shown meanwhile.
 */
export function useCarry(shot: ItemView, name: string) {
  const { operate } = useCommands();
  const [carrying, setCarrying] = useState<Carrying | null>(null);
  const begin = (event: React.PointerEvent) => {
    const [x, y] = [event.clientX, event.clientY];
    let last: { onto: number | null; shift: boolean } | null = null;
    const move = (e: PointerEvent) => {
      if (!last && Math.hypot(e.clientX - x, e.clientY - y) < DRAG) return;
      const cell = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>("[data-testid=shot]");
      const under = cell ? Number(cell.dataset.id) : null;
      const onto = under === shot.id ? null : under;
      last = { onto, shift: e.shiftKey };
      const there = cell?.title ?? "";
      const words =
        onto === null
          ? `${name}: onto another shot`
          : e.shiftKey
            ? `${name} in place of ${there}; the one before it runs on`
            : `${name} and ${there} change places; Shift: in its place`;
      setCarrying({ onto, words, x: e.clientX, y: e.clientY });
    };
    const end = (e: Event) => {
      for (const [type, listener] of LISTENERS) window.removeEventListener(type, listener as EventListener);
      setCarrying(null);
      const item = shot.id;
      if (e.type === "pointerup" && last?.onto != null)
        void operate(last.shift ? { op: "bring", item, to: last.onto } : { op: "swap", item, other: last.onto });
    };
    const leave = (e: KeyboardEvent) => e.key === "Escape" && end(e);
    const LISTENERS = [
      ["pointermove", move],
      ["pointerup", end],
      ["pointercancel", end],
      ["keydown", leave],
    ] as const;
    for (const [type, listener] of LISTENERS) window.addEventListener(type, listener as EventListener);
  };
  return { carrying, begin };
}
