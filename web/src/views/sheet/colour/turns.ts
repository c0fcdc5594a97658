/** What is seen in turn: base shots, and what is laid over them while it is. Pure. */

import type { ItemView } from "../../../api/client";

/** A stretch of the film in which one item is seen. */
export interface InTurn {
  item: ItemView;
  start: number;
  end: number;
}

/** Items as they are seen one after the other; of those over others, the last of a list is on top. */
export function seenInTurn(base: readonly ItemView[], over: readonly ItemView[]): InTurn[] {
  const edges = new Set([...base, ...over].flatMap((i) => [i.start, i.end]));
  const sorted = [...edges].sort((a, b) => a - b);
  const out: InTurn[] = [];
  sorted.forEach((start, n) => {
    const end = sorted[n + 1];
    if (end === undefined) return;
    const covers = (i: ItemView) => i.start <= start && i.end > start;
    const item = over.findLast(covers) ?? base.find(covers);
    const last = out.at(-1);
    if (item && last?.item.id === item.id && last.end === start) last.end = end;
    else if (item) out.push({ item, start, end });
  });
  return out;
}
