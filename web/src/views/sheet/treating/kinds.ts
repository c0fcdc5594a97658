/** Every kind of treatment as the page offers it: its word, what it begins with, and what of it can be said. Pure. */

import type { CutawayView, Schemas, ShotView, SongView } from "../../../api/client";
import { barBeat } from "../../../parts/format";

export type Treatments = NonNullable<ShotView["treated"]>;
type Told = Treatments["treatments"][number];
/** A treatment with everything that may be left out filled in. */
export type Treatment = Told extends infer T
  ? T extends { kind?: infer K }
    ? Required<T> & { kind: NonNullable<K> }
    : never
  : never;
export type Kind = Treatment["kind"];
export type Length = Schemas["Length"];
export type On = Required<Schemas["On"]>;
export type Place = { bar: number; beat: number };
/** What is treated: a shot, a cutaway, or a passage whatever is cut there. */
export type Subject =
  | { kind: "shot"; start: number; end: number }
  | { kind: "cutaway"; start: number; end: number }
  | { kind: "passage"; number: number | null; first: number; end: number; name: string };

export type Field = { name: string; label: string; less?: (t: Treatment) => boolean } & (
  | { type: "times" | "seconds" | "degrees" | "number" | "count" }
  | { type: "percent" }
  | { type: "length" | "on" | "place" | "colour" | "yes" | "speeds" | "places" }
  | { type: "choice"; of: readonly string[] }
);

export const SHAPES = ["straight", "smooth", "slow start", "slow end", "sharp"] as const;
const AFTER = ["catches up", "goes on"] as const;
const WHERE = ["before", "centred", "after"] as const;

const length = (value: number, unit: Length["unit"] = "beats"): Length => ({ value, unit });
const on = (what: On["what"]): On => ({ what, above: 0.5, every: 1, skip: 0 });

export interface Offered {
  kind: Kind;
  word: string;
  says: string;
  group: "time" | "colour" | "picture";
  fields: readonly Field[];
  /** What it begins with: at a place in the music, and a second of the clip. */
  first: (at: Place, second: number) => Treatment;
}

const shape: Field = { name: "shape", label: "shape", type: "choice", of: SHAPES };
const lies: Field = { name: "place", label: "lies", type: "choice", of: WHERE };

export const OFFERED: readonly Offered[] = [
  {
    kind: "speed",
    word: "speed",
    says: "runs slower or faster",
    group: "time",
    fields: [
      { name: "factor", label: "runs", type: "times" },
      { name: "keep", label: "keeps its", type: "choice", of: ["head", "tail"] },
    ],
    first: () => ({ kind: "speed", factor: 0.5, keep: "head", off: false }),
  },
  {
    kind: "fit",
    word: "fit the slot",
    says: "from one second of the clip to another, filling the shot exactly",
    group: "time",
    fields: [
      { name: "from_s", label: "from", type: "seconds" },
      { name: "to_s", label: "to", type: "seconds" },
    ],
    first: (_at, second) => ({ kind: "fit", from_s: second, to_s: second + 2, off: false }),
  },
  {
    kind: "moment",
    word: "moment on a beat",
    says: "the clip runs so that a moment of it lies on a beat",
    group: "time",
    fields: [
      { name: "moment_s", label: "the moment", type: "seconds" },
      { name: "at", label: "lies on", type: "place" },
      { name: "hold", label: "from the", type: "choice", of: ["head", "tail"] },
      { name: "end_s", label: "ends at", type: "seconds", less: (t) => t.kind === "moment" && t.hold === "head" },
      { name: "rest", label: "the rest runs", type: "choice", of: ["same", "normal"] },
      {
        name: "then_s",
        label: "then the moment",
        type: "seconds",
        less: (t) => t.kind === "moment" && t.then_s === null,
      },
      { name: "then_at", label: "lies on", type: "place", less: (t) => t.kind === "moment" && t.then_at === null },
    ],
    first: (at, second) => ({
      kind: "moment",
      moment_s: second + 1,
      at,
      hold: "head",
      end_s: null,
      rest: "normal",
      then_s: null,
      then_at: null,
      off: false,
    }),
  },
  {
    kind: "ramp",
    word: "ramp",
    says: "from one speed to another, on a beat",
    group: "time",
    fields: [
      { name: "speeds", label: "speeds", type: "speeds" },
      { name: "at", label: "changes on", type: "places" },
      { name: "over", label: "over", type: "length" },
      { name: "ease", label: "eased", type: "choice", of: ["straight", "smooth", "sharp"] },
      { name: "moment_s", label: "the moment", type: "seconds", less: (t) => t.kind === "ramp" && t.solved === null },
      { name: "moment_at", label: "lies on", type: "place", less: (t) => t.kind === "ramp" && t.solved === null },
    ],
    first: (at) => ({
      kind: "ramp",
      speeds: [2, 0.5],
      at: [at],
      over: length(1),
      ease: "smooth",
      solved: null,
      moment_s: null,
      moment_at: null,
      off: false,
    }),
  },
  {
    kind: "reverse",
    word: "reverse",
    says: "backwards, the last frame first",
    group: "time",
    fields: [],
    first: () => ({ kind: "reverse", off: false }),
  },
  {
    kind: "freeze",
    word: "freeze",
    says: "stands on a frame",
    group: "time",
    fields: [
      { name: "at", label: "on", type: "place", less: (t) => t.kind === "freeze" && t.on !== null },
      { name: "on", label: "on every", type: "on" },
      { name: "over", label: "for", type: "length" },
      { name: "after", label: "then", type: "choice", of: AFTER },
    ],
    first: (at) => ({ kind: "freeze", at, on: null, over: length(1), after: "catches up", off: false }),
  },
  {
    kind: "back and forth",
    word: "back and forth",
    says: "forwards for a length, backwards for as long, again and again",
    group: "time",
    fields: [{ name: "every", label: "turns every", type: "length" }],
    first: () => ({ kind: "back and forth", every: length(1), off: false }),
  },
  {
    kind: "rewind",
    word: "rewind",
    says: "runs back to what was seen before, and on from there",
    group: "time",
    fields: [
      { name: "at", label: "from", type: "place" },
      { name: "over", label: "over", type: "length" },
      { name: "to", label: "back to", type: "place" },
      { name: "grows", label: "grows and falls", type: "yes" },
    ],
    first: (at) => ({
      kind: "rewind",
      at,
      to: { bar: at.beat > 1 ? at.bar : at.bar - 1, beat: 1 },
      over: length(1),
      grows: false,
      off: false,
    }),
  },
  {
    kind: "stutter",
    word: "stutter",
    says: "a piece again and again",
    group: "time",
    fields: [
      { name: "at", label: "from", type: "place", less: (t) => t.kind === "stutter" && t.on !== null },
      { name: "on", label: "on every", type: "on" },
      { name: "piece", label: "a piece of", type: "length" },
      { name: "times", label: "times", type: "count" },
      { name: "after", label: "then", type: "choice", of: AFTER },
    ],
    first: (at) => ({ kind: "stutter", at, on: null, piece: length(0.25), times: 4, after: "catches up", off: false }),
  },
  {
    kind: "jump cuts",
    word: "jump cuts",
    says: "leaps ahead on each hit; the shots stay as many",
    group: "time",
    fields: [
      { name: "on", label: "on", type: "on" },
      { name: "by", label: "leaps by", type: "length" },
    ],
    first: () => ({ kind: "jump cuts", on: on("low"), by: length(1), off: false }),
  },
  {
    kind: "blend",
    word: "frames in between",
    says: "between two frames of the clip both are mixed, or what moves is moved; without, the one on display is shown",
    group: "time",
    fields: [{ name: "how", label: "are", type: "choice", of: ["mixed", "moved"] }],
    first: () => ({ kind: "blend", how: "mixed", off: false }),
  },
  {
    kind: "dissolve",
    word: "dissolve",
    says: "comes in over the shot before it",
    group: "colour",
    fields: [{ name: "over", label: "over", type: "length" }, lies, shape],
    first: () => ({ kind: "dissolve", over: length(1, "bars"), place: "centred", shape: "straight", off: false }),
  },
  {
    kind: "fade",
    word: "fade",
    says: "from or to a colour, or what lies beneath",
    group: "colour",
    fields: [
      { name: "side", label: "goes", type: "choice", of: ["in", "out"] },
      { name: "over", label: "over", type: "length" },
      { name: "beneath", label: "what lies beneath", type: "yes" },
      { name: "colour", label: "colour", type: "colour", less: (t) => t.kind === "fade" && t.beneath },
      shape,
    ],
    first: () => ({
      kind: "fade",
      side: "in",
      over: length(1, "bars"),
      colour: "#000000",
      beneath: false,
      shape: "smooth",
      off: false,
    }),
  },
  {
    kind: "dip",
    word: "dip to a colour",
    says: "through a colour at the cut",
    group: "colour",
    fields: [
      { name: "over", label: "over", type: "length" },
      lies,
      { name: "colour", label: "colour", type: "colour" },
      shape,
    ],
    first: () => ({ kind: "dip", over: length(1), place: "centred", colour: "#000000", shape: "smooth", off: false }),
  },
  {
    kind: "flash",
    word: "flash",
    says: "a colour on each hit, gone at once",
    group: "colour",
    fields: [
      { name: "on", label: "on", type: "on" },
      { name: "colour", label: "colour", type: "colour" },
      { name: "amount", label: "as strong as", type: "percent" },
      { name: "fall", label: "gone after", type: "length" },
    ],
    first: () => ({ kind: "flash", on: on("bar"), colour: "#ffffff", amount: 0.8, fall: length(0.5), off: false }),
  },
  {
    kind: "strobe",
    word: "strobe",
    says: "on and off",
    group: "colour",
    fields: [
      { name: "every", label: "every", type: "length" },
      { name: "share", label: "on for", type: "percent" },
      { name: "beneath", label: "what lies beneath", type: "yes" },
      { name: "colour", label: "else", type: "colour", less: (t) => t.kind === "strobe" && t.beneath },
    ],
    first: () => ({ kind: "strobe", every: length(0.25), share: 0.5, colour: "#000000", beneath: false, off: false }),
  },
  {
    kind: "pulse",
    word: "pulse",
    says: "grows on each hit and falls back",
    group: "picture",
    fields: [
      { name: "what", label: "its", type: "choice", of: ["scale", "lightness", "shift", "turn"] },
      { name: "amount", label: "by", type: "percent", less: (t) => t.kind === "pulse" && t.what === "turn" },
      { name: "amount", label: "by", type: "degrees", less: (t) => t.kind === "pulse" && t.what !== "turn" },
      { name: "on", label: "on", type: "on" },
      { name: "attack", label: "rises in", type: "length" },
      { name: "fall", label: "falls in", type: "length" },
      { name: "follow", label: "as strong as the hit", type: "yes" },
    ],
    first: () => ({
      kind: "pulse",
      what: "scale",
      amount: 0.06,
      on: on("low"),
      attack: length(0, "frames"),
      fall: length(0.5),
      follow: false,
      off: false,
    }),
  },
  {
    kind: "step",
    word: "step",
    says: "grows on each hit and stays so",
    group: "picture",
    fields: [
      { name: "what", label: "its", type: "choice", of: ["scale", "lightness", "turn"] },
      { name: "amount", label: "by", type: "percent", less: (t) => t.kind === "step" && t.what === "turn" },
      { name: "amount", label: "by", type: "degrees", less: (t) => t.kind === "step" && t.what !== "turn" },
      { name: "on", label: "on", type: "on" },
      { name: "glide", label: "glides over", type: "length" },
    ],
    first: () => ({ kind: "step", what: "scale", amount: 0.15, on: on("bar"), glide: length(0, "frames"), off: false }),
  },
  {
    kind: "shake",
    word: "shake",
    says: "an unsteady hand, the same every time",
    group: "picture",
    fields: [
      { name: "amount", label: "by", type: "percent" },
      { name: "turn", label: "and", type: "degrees" },
      { name: "every", label: "another every", type: "length" },
      { name: "seed", label: "number", type: "count" },
    ],
    first: () => ({ kind: "shake", amount: 0.01, turn: 0.3, every: length(0.25), seed: 1, off: false }),
  },
  {
    kind: "punch in",
    word: "punch in",
    says: "enlarged about a point",
    group: "picture",
    fields: [
      { name: "scale", label: "to", type: "percent" },
      { name: "x", label: "across", type: "percent" },
      { name: "y", label: "down", type: "percent" },
    ],
    first: () => ({ kind: "punch in", scale: 1.25, x: 0.5, y: 0.5, off: false }),
  },
  {
    kind: "drift",
    word: "drift",
    says: "a slow move over the shot",
    group: "picture",
    fields: [
      { name: "scale", label: "from", type: "percent" },
      { name: "x", label: "across", type: "percent" },
      { name: "y", label: "down", type: "percent" },
      { name: "to_scale", label: "to", type: "percent" },
      { name: "to_x", label: "across", type: "percent" },
      { name: "to_y", label: "down", type: "percent" },
      shape,
    ],
    first: () => ({
      kind: "drift",
      scale: 1,
      x: 0.5,
      y: 0.5,
      to_scale: 1.12,
      to_x: 0.5,
      to_y: 0.5,
      shape: "straight",
      off: false,
    }),
  },
  {
    kind: "mirror",
    word: "mirror",
    says: "left and right change places",
    group: "picture",
    fields: [],
    first: () => ({ kind: "mirror", off: false }),
  },
  {
    kind: "turn",
    word: "turn",
    says: "turned, no edge shows",
    group: "picture",
    fields: [{ name: "degrees", label: "by", type: "degrees" }],
    first: () => ({ kind: "turn", degrees: 3, off: false }),
  },
  {
    kind: "bars",
    word: "bars",
    says: "cropped to a shape of picture",
    group: "picture",
    fields: [{ name: "shape", label: "width by height", type: "number" }],
    first: () => ({ kind: "bars", shape: 2.39, off: false }),
  },
  {
    kind: "vignette",
    word: "vignette",
    says: "darker towards the corners",
    group: "picture",
    fields: [{ name: "amount", label: "corners darker by", type: "percent" }],
    first: () => ({ kind: "vignette", amount: 0.4, off: false }),
  },
  {
    kind: "blur",
    word: "blur",
    says: "out of focus, coming or going",
    group: "picture",
    fields: [
      { name: "amount", label: "by", type: "percent" },
      { name: "side", label: "goes", type: "choice", of: ["in", "out", "all"] },
      { name: "over", label: "over", type: "length", less: (t) => t.kind === "blur" && t.side === "all" },
      { ...shape, less: (t) => t.kind === "blur" && t.side === "all" },
    ],
    first: () => ({ kind: "blur", amount: 0.02, side: "in", over: length(1), shape: "smooth", off: false }),
  },
  {
    kind: "sharpen",
    word: "sharpen",
    says: "fine lines clearer",
    group: "picture",
    fields: [{ name: "amount", label: "by", type: "percent" }],
    first: () => ({ kind: "sharpen", amount: 0.5, off: false }),
  },
  {
    kind: "glow",
    word: "soft glow",
    says: "lights spread over what is around them",
    group: "picture",
    fields: [{ name: "amount", label: "by", type: "percent" }],
    first: () => ({ kind: "glow", amount: 0.4, off: false }),
  },
  {
    kind: "grain",
    word: "grain",
    says: "a film's grain, the same every time",
    group: "picture",
    fields: [
      { name: "amount", label: "by", type: "percent" },
      { name: "seed", label: "number", type: "count" },
    ],
    first: () => ({ kind: "grain", amount: 0.3, seed: 1, off: false }),
  },
];

/** What one step of a drag is for each kind of number, and a small one. */
const STEPS = {
  percent: [0.01, 0.002],
  times: [0.05, 0.01],
  seconds: [0.1, 0.01],
  degrees: [0.5, 0.1],
  number: [0.05, 0.01],
  count: [1, 1],
} as const;
const LENGTH_STEPS = { frames: [1, 1], beats: [0.25, 0.125], bars: [0.25, 0.125] } as const;

/** A treatment whose field was dragged by so many steps; the very same where the field is no number. */
export function dragged(treatment: Treatment, field: Field, steps: number, small: boolean): Treatment {
  const value = treatment[field.name as keyof Treatment] as unknown;
  if (field.type === "length") {
    if (!value) return treatment;
    const { value: long, unit } = value as Length;
    const next = Math.max(0, round(long + steps * LENGTH_STEPS[unit ?? "beats"][small ? 1 : 0]));
    return { ...treatment, [field.name]: { value: next, unit } };
  }
  if (!(field.type in STEPS) || typeof value !== "number") return treatment;
  const next = round(value + steps * STEPS[field.type as keyof typeof STEPS][small ? 1 : 0]);
  return { ...treatment, [field.name]: field.type === "count" ? Math.max(1, next) : next };
}

const round = (value: number) => Math.round(value * 1e4) / 1e4;

export function offered(kind: Kind): Offered {
  return OFFERED.find((o) => o.kind === kind) as Offered;
}

/** Kinds that can be given to what is treated: of a passage nothing that is of one shot; of a cutaway nothing of a cut. */
export function offeredFor(subject: Subject, angle: boolean): readonly Offered[] {
  return OFFERED.filter((o) => {
    if (subject.kind === "passage") return !["fit", "moment", "dissolve", "dip"].includes(o.kind);
    if (subject.kind === "cutaway" && (o.kind === "dissolve" || o.kind === "dip")) return false;
    if (subject.kind === "shot" && subject.start === 0 && o.kind === "dissolve") return false;
    return !(angle && (o.kind === "fit" || o.kind === "moment"));
  });
}

/** Treatments as the server told them, with everything filled in. */
export function filled(treated: Treatments | null | undefined): Treatment[] {
  return (treated?.treatments ?? []).map((t) => ({ ...t })) as Treatment[];
}

/** A list with the item at one place moved to another. */
export function reordered<T>(items: readonly T[], from: number, to: number): T[] {
  const out = [...items];
  const [item] = out.splice(from, 1);
  if (item !== undefined) out.splice(to, 0, item);
  return out;
}

/** A place in the music as it is written, "14.3" or "14.3.5"; null where it is none. */
export function placeFrom(text: string): Place | null {
  const match = /^\s*(-?\d+)(?:[.:](\d+(?:\.\d+)?))?\s*$/.exec(text);
  if (!match) return null;
  const beat = match[2] === undefined ? 1 : Number(match[2]);
  return beat >= 1 ? { bar: Number(match[1]), beat } : null;
}

export const placeText = (place: Place): string => `${place.bar}.${Number(place.beat.toFixed(3))}`;

/** The beat nearest to a frame, as a place. */
export function placeAt(song: SongView, frame: number, rate: number): Place {
  let best = 0;
  song.beat_frames.forEach((f, i) => {
    if (Math.abs(f - frame) < Math.abs((song.beat_frames[best] ?? 0) - frame)) best = i;
  });
  const [bar, beat] = barBeat(song, (song.beats[best] ?? frame / rate) + 0.001).split(".");
  return { bar: Number(bar), beat: Math.floor(Number(beat ?? 1)) };
}

/** The frame of a place; null where the song has none. */
export function frameOf(song: SongView, place: Place, rate: number): number | null {
  const first = song.bars[place.bar - song.first_bar];
  const at = first === undefined ? undefined : first + place.beat - 1;
  if (at === undefined || at < 0 || at > song.beats.length - 1) return null;
  const low = song.beats[Math.floor(at)] as number;
  const high = song.beats[Math.min(song.beats.length - 1, Math.floor(at) + 1)] as number;
  return Math.max(0, Math.floor((low + (at % 1) * (high - low)) * rate + 0.5 + 1e-9));
}

export type Others = { key: string; label: string; starts: number[] };

/** Shots on which the same treatments may be laid: of the same angle, there and everywhere, and of sections of a kind. */
export function othersFor(
  shot: ShotView,
  shots: readonly ShotView[],
  song: SongView,
  angle: { number: number; name: string } | undefined,
): Others[] {
  const sectionOf = (s: ShotView) => song.phrases.find((p) => s.start < p.end_frame - 1)?.section ?? 0;
  const here = sectionOf(shot);
  const section = song.sections[here];
  const group = song.sections.flatMap((s, i) => (section && s.group === section.group ? [i] : []));
  const named = group.map((i) => song.sections[i]?.name ?? "").join(", ");
  const alike = (s: ShotView) =>
    s.source.kind === shot.source.kind && s.source.angle === shot.source.angle && s.source.media === shot.source.media;
  const of = angle ? `angle ${angle.number}` : "this clip";
  const out: Others[] = [
    { key: "alike", label: `all of ${of}`, starts: shots.filter(alike).map((s) => s.start) },
    {
      key: "alike there",
      label: `all of ${of} in ${named}`,
      starts: shots.filter((s) => alike(s) && group.includes(sectionOf(s))).map((s) => s.start),
    },
    {
      key: "section",
      label: `every shot of ${section?.name ?? "this section"}`,
      starts: shots.filter((s) => sectionOf(s) === here && s.source.kind !== "empty").map((s) => s.start),
    },
    {
      key: "group",
      label: `every shot of ${named}`,
      starts: shots.filter((s) => group.includes(sectionOf(s)) && s.source.kind !== "empty").map((s) => s.start),
    },
  ];
  return out.filter((o, i) => o.starts.length > 1 && !out.slice(0, i).some((p) => p.starts.join() === o.starts.join()));
}

/** What a shot or cutaway is treated with, in one line. */
export function inWords(item: Pick<ShotView | CutawayView, "treated">): string {
  const treated = item.treated;
  if (!treated) return "";
  return filled(treated)
    .map((t, i) => `${t.off ? "off: " : ""}${t.kind}${treated.said[i] ? `, ${treated.said[i]}` : ""}`)
    .join(" · ");
}

const SOUND_SHAPES: Record<string, Extract<Treatment, { kind: "fade" }>["shape"]> = {
  even: "straight",
  smooth: "smooth",
  slow: "slow start",
};

/** Fades of the picture that last as the song's own do, where a shot lies at its start or end. */
export function songFades(
  subject: Subject,
  length: number,
  level: { fade_in_s: number; fade_out_s: number; shape: string },
  rate: number,
): Treatment[] {
  if (subject.kind !== "shot") return [];
  const made = (side: "in" | "out", seconds: number): Treatment => ({
    kind: "fade",
    side,
    over: { value: Math.round(seconds * rate), unit: "frames" },
    colour: "#000000",
    beneath: false,
    shape: SOUND_SHAPES[level.shape] ?? "smooth",
    off: false,
  });
  return [
    ...(subject.start === 0 && level.fade_in_s > 0 ? [made("in", level.fade_in_s)] : []),
    ...(subject.end === length && level.fade_out_s > 0 ? [made("out", level.fade_out_s)] : []),
  ];
}
