/** Defaults, limits and choices of forms: the core's own, written beside the client by "make client". */

import type { HitKind, Schemas } from "./client";
import facts from "./facts.json";

type Limit = keyof typeof facts.limits;

/** The least and the greatest value that a field takes; in another unit, so many of which are one of the core's. */
export function within(limit: Limit, units = 1): { min: number; max: number } {
  const [min = 0, max = 0] = facts.limits[limit];
  return { min: min * units, max: max * units };
}

/** Widths and heights of films that are offered. */
export const SIZES = facts.sizes as [number, number][];

/** For each kind of step of a picture's chain, its parameters where it does nothing. */
export const REST: Readonly<Record<string, Readonly<Record<string, number>>>> = facts.steps;

/** What one hit of each kind is called, and several; in the order in which they are shown. */
export const HITS = facts.hits as Readonly<Record<HitKind, { one: string; many: string }>>;
export const HIT_KINDS = Object.keys(HITS) as HitKind[];

/** Rows in which hits are shown: strokes where so many of them are heard, else attacks; and what neither marks. */
export const HIT_ROWS = facts.hit_rows as Readonly<Record<"strokes" | "attacks" | "turns", readonly HitKind[]>> & {
  readonly with_drums: number;
};

/** Shapes of the song's fades, each with the shape of curve that it is. */
export const FADES = facts.fades as Readonly<Record<string, Schemas["Key"]["shape"]>>;

/** States of works that have not ended. */
export const OPEN_STATES: readonly string[] = facts.open_states;

/** The sheet of small stills of a file: its name, a tile's size, how many lie beside each other, seconds between two. */
export const STILLS = facts.stills;

/** Width and height of proxies of 16:9; those of another shape have as many pixels. */
export const PROXIES = facts.proxies as unknown as Record<"programme" | "wall", [number, number]>;

interface TreatmentFacts {
  begins: Record<string, unknown>;
  choices: Record<string, string[]>;
  passage: boolean;
  cutaway: boolean;
  shot: boolean;
  title: boolean;
  angle: boolean;
  joins: boolean;
}

/** Least and largest of each control of a grade, in the order in which they act. */
export const GRADE = facts.grade as unknown as Readonly<Record<string, [number, number]>>;

/** Curves of a grade: of what, and the per cent of the scale at which they are bent. */
export const CURVES = facts.curves as unknown as {
  of: readonly ("all" | "red" | "green" | "blue")[];
  at: readonly number[];
};

/** Looks that come with the application. */
export const LOOKS = facts.looks as unknown as readonly { name: string; values: Readonly<Record<string, number>> }[];
/** Limits of the checks as they usually are, and how far they may be set: usual, least, most. */
export const CHECK_LIMITS = facts.check_limits as unknown as Record<
  "shortest_shot_s" | "flashes" | "reading_cps" | "jump",
  [number, number, number]
>;
/** Longest word with which a finding is accepted. */
export const ACCEPT_WORD = facts.accept_word;
/** Longest name and note of a version. */
export const VERSIONS = facts.versions;
/** Longest text of a note, name of who wrote it, and word why it will not be done. */
export const NOTES = facts.notes;
/** Logarithmic curves that tables are made of, and a plain log's two constants as they begin and their limits. */
export const LOGS = facts.logs as unknown as {
  curves: readonly ("acescct" | "film scan" | "plain log")[];
  slope: number;
  offset: number;
  slopes: [number, number];
  offsets: [number, number];
};

/** Defaults of each kind of treatment, the choices of its fields, the subjects it can lie on, and whether it joins two shots. */
export const TREATMENTS = facts.treatments as unknown as Record<string, TreatmentFacts>;

interface TitleFacts {
  plain: Omit<Required<Schemas["Card"]>, "lines">;
  lyrics: { style: string; lines: 1 | 2; lead: number; hold: number; styles: string[] };
  presets: { name: string; card: Schemas["Card"] }[];
  limits: Record<
    "size" | "outline" | "shadow" | "box_opacity" | "spacing" | "tracking" | "x" | "y" | "turn",
    [number, number]
  >;
  line_sizes: [number, number];
  fonts: NonNullable<Schemas["Card"]["font"]>[];
  aligns: NonNullable<Schemas["Card"]["align"]>[];
  anchors: NonNullable<Schemas["Card"]["anchor"]>[];
  safe: number;
}

/** A plain card, how words of the song are laid, cards to begin with in their order, the limits and choices of a card, and the share of the frame kept free on each side. */
export const TITLES = facts.titles as unknown as TitleFacts;
