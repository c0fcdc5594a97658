/** B-roll as it is looked through: selects, and clips without any. Pure, so that it can be tested. */

import { itemsOn, type Lanes, shotsOf } from "../../api/lanes";
import type { MediaView, SaidView, SelectView } from "../../api/client";

/** Something that can be laid: a select, or a clip from its in to its out. */
export interface Item {
  key: string;
  clip: MediaView;
  select: SelectView | null;
  name: string;
  in_s: number;
  out_s: number;
  said: SaidView;
  /** Where it is laid, in the order of the film. */
  uses: readonly Use[];
}

/** A place in the film where something is laid, in frames, and from which second of its file at which speed. */
export interface Use {
  start: number;
  end: number;
  in_s: number;
  speed: number;
}

const itemOf = (clip: MediaView, select: SelectView | null, uses: readonly Use[]): Item => ({
  key: select ? `s${select.id}` : `m${clip.id}`,
  clip,
  select,
  name: select?.name ?? clip.name,
  in_s: select?.in_s ?? clip.select_in_s,
  out_s: select?.out_s ?? clip.select_out_s,
  said: select?.said ?? clip.said,
  uses,
});

/** Selects in the order of their clips, and the clips that have none; with ``whole`` every clip too. */
export function itemsOf(
  media: readonly MediaView[],
  selects: readonly SelectView[],
  edit: Lanes | undefined,
  whole = false,
): Item[] {
  const laid = new Map<string, Use[]>();
  for (const { start, end, source } of [...shotsOf(edit), ...itemsOn(edit, "over")])
    if (source.media) {
      const use = { start, end, in_s: source.in_s, speed: source.speed };
      laid.set(source.media, [...(laid.get(source.media) ?? []), use]);
    }
  const used = (clip: string, from: number, to: number) =>
    (laid.get(clip) ?? []).filter((u) => u.in_s >= from - 1e-3 && u.in_s < to).sort((a, b) => a.start - b.start);
  return media
    .filter((m) => m.kind === "broll")
    .flatMap((clip) => {
      const own = selects.filter((s) => s.media === clip.id).sort((a, b) => a.in_s - b.in_s);
      const items = own.map((s) => itemOf(clip, s, used(clip.id, s.in_s, s.out_s)));
      if (own.length && !whole) return items;
      return [itemOf(clip, null, used(clip.id, 0, Number.POSITIVE_INFINITY)), ...items];
    });
}

export interface Sift {
  words: string;
  only: "all" | "unused";
  rating: number;
  /** Least length in seconds. */
  least: number;
  light: "" | "dark" | "light";
  motion: "" | "still" | "moving";
  /** Id of the section that it has to be tagged for; null for any. */
  section: number | null;
  sort: "name" | "shot" | "longest" | "rating" | "uses" | "colour";
  /** Colour distance of each clip to the one that it is compared with. */
  near: ReadonlyMap<string, number> | null;
}

export const NO_SIFT: Sift = {
  words: "",
  only: "all",
  rating: 0,
  least: 0,
  light: "",
  motion: "",
  section: null,
  sort: "name",
  near: null,
};

/** Mean light below and above which a picture is dark and light; mean change above which it moves. */
const [DARK, LIGHT, MOVES] = [0.25, 0.5, 0.006];

/** Items that pass the filter, in the order asked for. */
export function sifted(items: readonly Item[], sift: Sift): Item[] {
  const words = sift.words.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (item: Item) => {
    const { said } = item;
    const text = [item.name, item.clip.name, said.note, ...said.tags].join(" ").toLowerCase();
    return (
      words.every((w) => text.includes(w)) &&
      (sift.only === "all" || !item.uses.length) &&
      said.rating >= sift.rating &&
      item.out_s - item.in_s >= sift.least - 1e-3 &&
      (sift.section === null ||
        said.sections.includes(sift.section) ||
        item.clip.said.sections.includes(sift.section)) &&
      (sift.light === "" ||
        (said.light !== null && (sift.light === "dark" ? said.light < DARK : said.light > LIGHT))) &&
      (sift.motion === "" ||
        (said.motion !== null && (sift.motion === "moving" ? said.motion >= MOVES : said.motion < MOVES))) &&
      (sift.sort !== "colour" || !sift.near || sift.near.has(item.clip.id))
    );
  };
  const by: Record<Sift["sort"], (a: Item, b: Item) => number> = {
    name: (a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }),
    shot: (a, b) =>
      a.clip.created.localeCompare(b.clip.created) || a.clip.name.localeCompare(b.clip.name) || a.in_s - b.in_s,
    longest: (a, b) => b.out_s - b.in_s - (a.out_s - a.in_s),
    rating: (a, b) => b.said.rating - a.said.rating,
    uses: (a, b) => a.uses.length - b.uses.length,
    colour: (a, b) => (sift.near?.get(a.clip.id) ?? 1) - (sift.near?.get(b.clip.id) ?? 1),
  };
  return items.filter(fits).sort(by[sift.sort]);
}

/** Every tag that is used, most used first. */
export function tagsOf(items: readonly Item[]): string[] {
  const counts = new Map<string, number>();
  for (const tag of items.flatMap((i) => i.said.tags)) counts.set(tag, (counts.get(tag) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0])).map(([tag]) => tag);
}

/** The length of an item in words; a still lasts as long as is asked. */
export function lengthOf(item: Item): string {
  return item.clip.still ? "still" : `${(item.out_s - item.in_s).toFixed(1)} s`;
}
