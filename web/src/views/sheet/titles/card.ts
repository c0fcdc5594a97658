import type { ItemView, Operation } from "../../../api/client";
import { TITLES } from "../../../api/facts";
import type { Card } from "../../../player/cards";

/** A card with all of its fields, as answers have them. */
export type Full = { [K in keyof Card]-?: NonNullable<Card[K]> };
export type Line = Full["lines"][number];

/** A card with what is left out as a plain one has it. */
export function full(card: Card): Full {
  return { ...TITLES.plain, ...card } as Full;
}

/** The name of a title in a list: its words in one line. */
export function nameOf(item: Pick<ItemView, "source">): string {
  return item.source.words.split(/\s+/).join(" ");
}

/** Lines of a card with another text: each keeps its style, further ones have that of the last. */
export function typed(lines: readonly Line[], text: string): Line[] {
  const last = lines.at(-1) as Line;
  return text.split("\n").map((words, i) => ({ ...(lines[i] ?? last), text: words }));
}

/** Shares of the frame to which a card that is dragged is drawn, across or down: edges of the safe area, thirds, the middle. */
export const GUIDES: readonly number[] = [TITLES.safe, 1 / 3, 0.5, 2 / 3, 1 - TITLES.safe];
/** How near, in shares of the frame. */
const NEAR = 0.012;

/** An extent moved by so much, drawn to a guide where its low end, middle or high end lies near one; and that guide. */
export function drawnTo(low: number, high: number, by: number): { by: number; guide: number | null } {
  let best: { by: number; guide: number | null } = { by, guide: null };
  let least = NEAR;
  for (const guide of GUIDES)
    for (const place of [low, (low + high) / 2, high]) {
      const off = guide - (place + by);
      if (Math.abs(off) < least) {
        least = Math.abs(off);
        best = { by: by + off, guide };
      }
    }
  return best;
}

/** The operation that gives a title another card. */
export function setCard(item: number, card: Full): Operation {
  return { op: "set card", items: [item], card };
}

/** A change of a card in numbers that can be typed: to a tenth of a percent. */
export const share = (value: number): number => Math.round(value * 1000) / 1000;

/** Cards' places within a grid of three by three, row by row. */
export const ANCHORS: readonly Full["anchor"][] = TITLES.anchors;
