import { type KeyboardEvent, type RefObject, useLayoutEffect } from "react";
import { reachedByKey } from "./keys";

export type Box = Pick<DOMRect, "left" | "right" | "top" | "bottom">;

const WAYS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** Index of the box nearest in a direction, those straight ahead before those aside; -1 where none lies there. */
export function nextIn(boxes: readonly Box[], from: number, [dx, dy]: readonly [number, number]): number {
  const here = boxes[from];
  if (!here) return -1;
  let [best, least] = [-1, Number.POSITIVE_INFINITY];
  boxes.forEach((box, i) => {
    const ahead = dx
      ? dx * ((box.left + box.right) / 2 - (here.left + here.right) / 2)
      : dy * ((box.top + box.bottom) / 2 - (here.top + here.bottom) / 2);
    if (i === from || ahead <= 1) return;
    const aside = dx
      ? Math.max(0, box.top - here.bottom, here.top - box.bottom)
      : Math.max(0, box.left - here.right, here.left - box.right);
    const cost = ahead + 4 * aside;
    if (cost < least) [best, least] = [i, cost];
  });
  return best;
}

/**
 * One stop of Tab for all that a selector finds in a place; arrows, Home and End go from one to the next as they lie.
 * Whoever clicked there has the arrows for what is around it, as everywhere.
 */
export function useRoving(place: RefObject<HTMLElement | null>, selector: string) {
  const all = () => [...(place.current?.querySelectorAll<HTMLElement>(selector) ?? [])];
  const stop = (at: HTMLElement | undefined) => {
    for (const one of all()) one.tabIndex = one === at ? 0 : -1;
  };
  // What was drawn anew has no stop yet.
  useLayoutEffect(() => {
    const items = all();
    stop(items.find((one) => one === document.activeElement) ?? items.find((one) => one.tabIndex === 0) ?? items[0]);
  });
  return {
    onFocus: (event: React.FocusEvent) => {
      const at = (event.target as Element).closest<HTMLElement>(selector);
      if (at) stop(at);
    },
    onKeyDown: (event: KeyboardEvent) => {
      const at = (event.target as Element).closest<HTMLElement>(selector);
      if (!at || at !== event.target || !reachedByKey() || event.ctrlKey || event.altKey || event.metaKey) return;
      const items = all();
      const way = WAYS[event.key];
      const to = way
        ? nextIn(
            items.map((one) => one.getBoundingClientRect()),
            items.indexOf(at),
            way,
          )
        : event.key === "Home"
          ? 0
          : event.key === "End"
            ? items.length - 1
            : -1;
      if (!way && to < 0) return;
      event.preventDefault();
      event.stopPropagation();
      items[to]?.focus();
      items[to]?.scrollIntoView({ block: "nearest", inline: "nearest" });
    },
  };
}
