import { create } from "zustand";
import type { Layers } from "../../player/layers";
import type { Carried } from "../../parts/broll/carrying";
import { endsWithProject } from "../../parts/ending";
import { kept } from "../../parts/kept";
import type { Per } from "./geometry";
import type { By, LayAt, Way } from "./laying";
import type { Subject } from "./treating/kinds";

export const LAYOUTS = ["rows", "whole song", "compare", "plan", "live", "colour"] as const;
export type Layout = (typeof LAYOUTS)[number];

interface Choice {
  /** The shot that is chosen, and the item over the base lane, by their ids. */
  shot: number | null;
  item: number | null;
  /** The lane that clips are laid on; null for the lowest that takes them. */
  lane: number | null;
  /** The mark that is chosen. */
  mark: number | null;
  clip: string | null;
  /** The select of the chosen clip, where one was chosen. */
  select: number | null;
  /** Clips and selects to fill with, in the order in which they were chosen. */
  many: readonly { media: string; select: number | null; key: string }[];
  /** After a clip was laid, the next of the list is chosen. */
  thenNext: boolean;
  /** Whether filling shows angles too. */
  mixed: boolean;
  /** After a clip was laid, the playhead goes to the next slot or place. */
  thenPlace: boolean;
  /** The way in which the chosen clip is laid, the one that is pointed at, and what of the clip is seen. */
  way: Way;
  tried: Way | null;
  by: By;
  /** Whether the chosen clip is open beside the programme, and has the keys. */
  bench: boolean;
  benchKeys: boolean;
  /** Rows of cards in the drawer of clips; 0 where it is closed. */
  drawer: number;
  /** Where a clip that is dragged would be dropped: the operation that would be done. */
  dragged: LayAt | null;
  /** What the drawer of clips shows, in its order. */
  listed: readonly Carried[];
  /** Frames of shots that are chosen together. */
  range: { first: number; end: number } | null;
  /** A shot whose picture is to change places with, or go to, the next one that is clicked. */
  carrying: { item: number; how: "swap" | "bring" } | null;
  /** Up to where live switching is laid over what is cut; null where it shows until the next cut. */
  over: "section" | "song" | null;
  /** T taps empty slots, not marks. */
  slots: boolean;
  /** Length of song in a row. */
  per: Per;
  /** Subject of the treatments: the item at the playhead, or a passage; null while treatments are not shown. */
  treating: "here" | Extract<Subject, { kind: "passage" }> | null;
  /** Programme with the value that is being dragged; null while none is. */
  trial: Layers | null;
  layout: Layout;
  /** Height of the waveform under the rows. */
  wave: Wave;
}

/** Heights of the waveform under a row, in pixels: to read the beats by, and to put a cut on a peak by eye. */
export const WAVE_HEIGHT = { thin: 16, medium: 40, tall: 72 } as const;
export type Wave = keyof typeof WAVE_HEIGHT;
export const WAVES: { value: Wave; label: string }[] = [
  { value: "thin", label: "thin wave" },
  { value: "medium", label: "medium wave" },
  { value: "tall", label: "tall wave" },
];
const WAVE = "zembi.wave";

/** What this browser keeps of how clips are laid, and the storage key of it. */
const KEPT = "zembi.laying";
type Kept = Pick<Choice, "way" | "by" | "thenPlace" | "drawer">;
const FIRST: Kept = { way: "into", by: "head", thenPlace: true, drawer: 1 };

/** Choose how clips are laid; this browser keeps it. */
export function chooseLaying(change: Partial<Kept>): void {
  useChoice.setState(change);
  const { way, by, thenPlace, drawer } = useChoice.getState();
  localStorage.setItem(KEPT, JSON.stringify({ way, by, thenPlace, drawer }));
}

/** Choose how high the waveform is; this browser keeps it. */
export function chooseWave(wave: Wave): void {
  localStorage.setItem(WAVE, JSON.stringify(wave));
  useChoice.setState({ wave });
}

const first = (): Choice => ({
  shot: null,
  item: null,
  lane: null,
  mark: null,
  clip: null,
  select: null,
  many: [],
  range: null,
  thenNext: false,
  mixed: false,
  carrying: null,
  over: null,
  slots: false,
  per: "phrase",
  treating: null,
  trial: null,
  layout: "rows",
  wave: kept<Wave>(WAVE, "thin"),
  ...FIRST,
  ...kept<Kept>(KEPT, FIRST),
  tried: null,
  bench: false,
  benchKeys: false,
  dragged: null,
  listed: [],
});

/** Selection on the sheet, and settings of its view. */
export const useChoice = create<Choice>(first);
endsWithProject(() => useChoice.setState(first(), true));

/** Choose the clip so many on in the drawer, round at its ends. */
export function chooseOther(by: number): void {
  const { listed, clip, select } = useChoice.getState();
  const at = listed.findIndex((one) => one.media === clip && one.select === select);
  const next = listed[(at + by + listed.length) % Math.max(1, listed.length)];
  if (next) useChoice.setState({ clip: next.media, select: next.select });
}

/** Open a clip beside the programme; keys go to it. */
export function openBench(clip: Carried): void {
  useChoice.setState({ clip: clip.media, select: clip.select, bench: true, benchKeys: true });
}
