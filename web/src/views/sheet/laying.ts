/** Ways of laying the chosen clip: their words, their keys, and what the server is asked. Where it comes, the core says. */

import type { Operation, ProjectState, Unit } from "../../api/client";
import type { Carried } from "../../parts/broll/carrying";
import { laidNow } from "./falls";
import { UNITS } from "./pulls";

export type LayAt = Extract<Operation, { op: "lay at" }>;
export type Way = LayAt["way"];
export type By = NonNullable<LayAt["by"]>;

/** The ways, each with its key; "one" stands for one place of what cuts fall on. */
export const WAYS: readonly { way: Way; words: string; key: string; shown: string; title: string }[] = [
  { way: "into", words: "into this shot", key: "Shift+b", shown: "⇧B", title: "The slot or shot under the playhead" },
  {
    way: "next",
    words: "until the next one",
    key: "u",
    shown: "U",
    title: "From its place to the next; a bar on beats",
  },
  { way: "over", words: "over it, on a lane", key: "b", shown: "B", title: "What lies beneath stays" },
  { way: "own", words: "in its own length", key: "Shift+u", shown: "⇧U", title: "From its in to its out" },
  { way: "end", words: "after what is cut", key: "Alt+b", shown: "⌥B", title: "At the end of what is cut so far" },
  {
    way: "front",
    words: "in front, the rest moves",
    key: "Alt+u",
    shown: "⌥U",
    title: "What comes after moves on by its length",
  },
];

export const BY: readonly { value: By; label: string; title: string }[] = [
  { value: "head", label: "head", title: "Seen from its in" },
  { value: "tail", label: "tail", title: "Seen up to its out" },
  { value: "middle", label: "middle", title: "Its middle is seen" },
  { value: "moment", label: "moment", title: "Its marked moment lies on the place; M marks it" },
  { value: "fitted", label: "slowed to fit", title: "Slowed as far as it has to be" },
];

/** The words of a way where cuts fall on a unit, and the picture there is an empty slot or not. */
export function wordsOf(way: Way, unit: Unit, slot: boolean): string {
  const words = WAYS.find((w) => w.way === way)?.words ?? way;
  const one = UNITS.find((u) => u.value === unit)?.one ?? unit;
  const lasts = ["free", "half", "beat"].includes(unit) ? "for a bar" : `until the next ${one}`;
  return way === "next" ? lasts : way === "into" && slot ? "into this slot" : words;
}

interface Chosen extends Carried {
  way: Way;
  by: By;
  lane: number | null;
}

/** The operation that lays a clip at a working time. */
export function layAt(
  { media, select, way, by, lane }: Chosen,
  state: Pick<ProjectState, "unit">,
  playing: boolean,
  at: number,
): LayAt {
  return { op: "lay at", media, select, way, by, lane: way === "over" ? lane : null, ...laidNow(state, playing, at) };
}
