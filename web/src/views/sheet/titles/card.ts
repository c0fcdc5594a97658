import type { ItemView, Operation } from "../../../api/client";
import { TITLES } from "../../../api/facts";
import type { Card } from "../../../player/cards";

/** A card with all of its fields, as answers have them. */
export type Full = { [K in keyof Card]-?: NonNullable<Card[K]> };
export type Line = Full["lines"][number];
export type LinePart = NonNullable<Line["parts"]>[number];

/** A card with what is left out as a plain one has it. */
export function full(card: Card): Full {
  return { ...TITLES.plain, ...card } as Full;
}

/** The name of a title in a list: its words in one line. */
export function nameOf(item: Pick<ItemView, "source">): string {
  return item.source.words.split(/\s+/).join(" ");
}

/** Lines of a card with another text: each keeps its style, further ones have that of the last; parts stay on their letters. */
export function typed(lines: readonly Line[], text: string): Line[] {
  const last = lines.at(-1) as Line;
  return text.split("\n").map((words, i) => {
    const line = lines[i] ?? { ...last, parts: [] };
    return { ...line, text: words, parts: onTheirLetters(line.parts ?? [], line.text, words) };
  });
}

/** Parts of a line after its text changed: what is typed inside one belongs to it. */
export function onTheirLetters(parts: readonly LinePart[], before: string, after: string): LinePart[] {
  if (!parts.length || before === after) return [...parts];
  let head = 0;
  while (head < Math.min(before.length, after.length) && before[head] === after[head]) head++;
  let tail = 0;
  while (
    tail < Math.min(before.length, after.length) - head &&
    before[before.length - 1 - tail] === after[after.length - 1 - tail]
  )
    tail++;
  const by = after.length - before.length;
  const to = (at: number) => (at <= head ? at : at >= before.length - tail ? at + by : Math.min(at, head));
  return parts.map((p) => ({ ...p, first: to(p.first), end: to(p.end) })).filter((p) => p.end > p.first);
}

/** Parts of a line with letters `first` to `end` looking otherwise; those that look like the line again are no parts. */
export function styledPart(
  parts: readonly LinePart[],
  first: number,
  end: number,
  more: Partial<Omit<LinePart, "first" | "end">>,
): LinePart[] {
  const edges = [...new Set([first, end, ...parts.flatMap((p) => [p.first, p.end])])].sort((a, b) => a - b);
  const out: LinePart[] = [];
  for (let n = 0; n + 1 < edges.length; n++) {
    const [a, b] = [edges[n] as number, edges[n + 1] as number];
    const old = parts.find((p) => p.first <= a && b <= p.end);
    const inside = first <= a && b <= end;
    if (!old && !inside) continue;
    const style = {
      size: old?.size ?? 1,
      bold: old?.bold ?? null,
      colour: old?.colour ?? null,
      ...(inside ? more : {}),
    };
    if (style.size === 1 && style.bold === null && style.colour === null) continue;
    const last = out.at(-1);
    if (last?.end === a && last.size === style.size && last.bold === style.bold && last.colour === style.colour)
      last.end = b;
    else out.push({ first: a, end: b, ...style });
  }
  return out;
}

/** The line and its letters that a selection in the words of a card means; null where it is nothing, or of several lines. */
export function chosenIn(text: string, from: number, to: number): { line: number; first: number; end: number } | null {
  if (to <= from || text.slice(from, to).includes("\n")) return null;
  const before = text.slice(0, from).split("\n");
  const first = (before.at(-1) as string).length;
  return { line: before.length - 1, first, end: first + to - from };
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
