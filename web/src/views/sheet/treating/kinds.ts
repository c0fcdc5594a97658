/** Every kind of treatment as the page offers it: its word, what it begins with, and what of it can be said. Pure. */

import type { ItemView, MediaView, Schemas, SongView } from "../../../api/client";
import { FADES, GRADE, TREATMENTS } from "../../../api/facts";
import { timeAt } from "../../../parts/beats";
import { barBeat } from "../../../parts/format";

export type Treatments = NonNullable<ItemView["treated"]>;
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
/** Subject of treatments: a shot, a cutaway, a title, or a passage whatever is cut there. */
export type Subject =
  | { kind: "shot"; id: number; start: number; end: number }
  | { kind: "cutaway" | "title"; id: number; start: number; end: number }
  | { kind: "passage"; item: number | null; first: number; end: number; name: string };

export type Field = { name: string; label: string; less?: (t: Treatment) => boolean } & (
  | { type: "times" | "seconds" | "degrees" | "number" | "count" }
  | { type: "percent" | "stops" | "control" }
  | { type: "length" | "on" | "place" | "colour" | "yes" | "speeds" | "places" | "pattern" }
  | { type: "choice" | "cube" }
);

export interface Offered {
  kind: Kind;
  word: string;
  says: string;
  group: "words" | "time" | "colour" | "picture";
  fields: readonly Field[];
  /** Fields that begin where the playhead is, and with what was said of the clip. */
  here?: (at: Place, second: number, clip?: OfClip) => object;
}

/** What was said of the clip that is treated. */
export interface OfClip {
  /** Its kept range, in seconds of the file; null where that is all of it. */
  range: readonly [number, number] | null;
  /** Its marked moment, and the beat on which that is seen now; null where there is none, or it is not seen. */
  moment_s: number | null;
  seen: Place | null;
  /** Speed at which each of its frames is shown once, against the one that it has; null where that is no slower. */
  slowest: number | null;
}

const shape: Field = { name: "shape", label: "shape", type: "choice" };
const lies: Field = { name: "place", label: "lies", type: "choice" };

export const OFFERED: readonly Offered[] = [
  {
    kind: "one by one",
    word: "one by one",
    says: "letters, words or lines come, or go, one after another",
    group: "words",
    fields: [
      { name: "side", label: "at its", type: "choice" },
      { name: "by", label: "by", type: "choice" },
      { name: "sung", label: "as they are sung", type: "yes" },
      { name: "every", label: "one every", type: "length", less: (t) => t.kind === "one by one" && t.sung },
      { name: "cursor", label: "with a cursor", type: "yes", less: (t) => t.kind === "one by one" && t.side === "out" },
    ],
  },
  {
    kind: "sung word",
    word: "sung word",
    says: "the word that is sung is told from the others",
    group: "words",
    fields: [
      { name: "colour", label: "in", type: "colour" },
      { name: "grow", label: "larger by", type: "percent" },
      { name: "heavier", label: "heavier", type: "yes" },
      { name: "keep", label: "all that were sung stay so", type: "yes" },
    ],
  },
  {
    kind: "speed",
    word: "speed",
    says: "runs slower or faster",
    group: "time",
    fields: [
      { name: "factor", label: "runs", type: "times" },
      { name: "keep", label: "keeps its", type: "choice" },
    ],
    here: (_at, _second, clip) => (clip?.slowest ? { factor: clip.slowest } : {}),
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
    here: (_at, second, clip) => ({
      from_s: clip?.range?.[0] ?? second,
      to_s: clip?.range?.[1] ?? second + 2,
    }),
  },
  {
    kind: "moment",
    word: "moment on a beat",
    says: "the clip runs so that a moment of it lies on a beat",
    group: "time",
    fields: [
      { name: "moment_s", label: "the moment", type: "seconds" },
      { name: "at", label: "lies on", type: "place" },
      { name: "hold", label: "from the", type: "choice" },
      { name: "end_s", label: "ends at", type: "seconds", less: (t) => t.kind === "moment" && t.hold === "head" },
      { name: "rest", label: "the rest runs", type: "choice" },
      {
        name: "then_s",
        label: "then the moment",
        type: "seconds",
        less: (t) => t.kind === "moment" && t.then_s === null,
      },
      { name: "then_at", label: "lies on", type: "place", less: (t) => t.kind === "moment" && t.then_at === null },
    ],
    here: (at, second, clip) => ({ moment_s: clip?.moment_s ?? second + 1, at }),
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
      { name: "ease", label: "eased", type: "choice" },
      { name: "moment_s", label: "the moment", type: "seconds", less: (t) => t.kind === "ramp" && t.solved === null },
      { name: "moment_at", label: "lies on", type: "place", less: (t) => t.kind === "ramp" && t.solved === null },
    ],
    here: (at, _second, clip) => ({ at: [clip?.seen ?? at] }),
  },
  {
    kind: "reverse",
    word: "reverse",
    says: "backwards, the last frame first",
    group: "time",
    fields: [],
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
      { name: "after", label: "then", type: "choice" },
    ],
    here: (at) => ({ at }),
  },
  {
    kind: "back and forth",
    word: "back and forth",
    says: "forwards for a length, backwards for as long, again and again",
    group: "time",
    fields: [{ name: "every", label: "turns every", type: "length" }],
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
    here: (at) => ({ at, to: { bar: at.beat > 1 ? at.bar : at.bar - 1, beat: 1 } }),
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
      { name: "after", label: "then", type: "choice" },
    ],
    here: (at) => ({ at }),
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
  },
  {
    kind: "blend",
    word: "frames in between",
    says: "between two frames of the clip both are mixed, or what moves is moved; without, the one on display is shown",
    group: "time",
    fields: [{ name: "how", label: "are", type: "choice" }],
  },
  {
    kind: "dissolve",
    word: "dissolve",
    says: "comes in over the shot before it",
    group: "colour",
    fields: [{ name: "over", label: "over", type: "length" }, lies, shape],
  },
  {
    kind: "slide",
    word: "slide",
    says: "pushes the shot before it out of the frame",
    group: "colour",
    fields: [
      { name: "to", label: "both move", type: "choice" },
      { name: "over", label: "over", type: "length" },
      lies,
      shape,
    ],
  },
  {
    kind: "whip",
    word: "whip",
    says: "a fast push of both pictures, out of focus in between",
    group: "colour",
    fields: [
      { name: "to", label: "both move", type: "choice" },
      { name: "over", label: "over", type: "length" },
      lies,
      { name: "amount", label: "out of focus by", type: "percent" },
    ],
  },
  {
    kind: "zoom through",
    word: "zoom through",
    says: "into the picture before, and out of this one",
    group: "colour",
    fields: [
      { name: "scale", label: "to", type: "percent" },
      { name: "over", label: "over", type: "length" },
      lies,
      { name: "amount", label: "out of focus by", type: "percent" },
    ],
  },
  {
    kind: "flicker",
    word: "flicker cut",
    says: "both pictures in turn, until this one stays",
    group: "colour",
    fields: [
      { name: "over", label: "over", type: "length" },
      lies,
      { name: "every", label: "each for", type: "length" },
    ],
  },
  {
    kind: "fade",
    word: "fade",
    says: "from or to a colour, or what lies beneath",
    group: "colour",
    fields: [
      { name: "side", label: "goes", type: "choice" },
      { name: "over", label: "over", type: "length" },
      { name: "beneath", label: "what lies beneath", type: "yes" },
      { name: "colour", label: "colour", type: "colour", less: (t) => t.kind === "fade" && t.beneath },
      shape,
    ],
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
  },
  {
    kind: "flicker on",
    word: "flicker on",
    says: "on and off by frames, before it stays or goes",
    group: "colour",
    fields: [
      { name: "side", label: "at its", type: "choice" },
      { name: "pattern", label: "frames", type: "pattern" },
      { name: "grow", label: "larger each time by", type: "percent" },
    ],
  },
  {
    kind: "table",
    word: "table",
    says: "its colours looked up in a .cube",
    group: "colour",
    fields: [
      { name: "code", label: "from", type: "cube" },
      { name: "strength", label: "strength", type: "percent" },
    ],
  },
  {
    kind: "grade",
    word: "grade",
    says: "its colours: exposure, balance, contrast, tones, saturation",
    group: "colour",
    fields: [
      { name: "exposure", label: "exposure", type: "stops" },
      { name: "temperature", label: "warmer", type: "control" },
      { name: "tint", label: "redder", type: "control" },
      { name: "contrast", label: "contrast", type: "times" },
      { name: "pivot", label: "about", type: "percent", less: (t) => t.kind === "grade" && t.contrast === 1 },
      { name: "blacks", label: "blacks", type: "control" },
      { name: "shadows", label: "shadows", type: "control" },
      { name: "highlights", label: "highlights", type: "control" },
      { name: "whites", label: "whites", type: "control" },
      { name: "saturation", label: "saturation", type: "percent" },
      { name: "low_saturation", label: "of what is dark", type: "percent" },
      { name: "high_saturation", label: "of what is bright", type: "percent" },
      { name: "strength", label: "strength", type: "percent" },
    ],
  },
  {
    kind: "come in",
    word: "come in",
    says: "comes from a side, or grows, until it stays; or goes so",
    group: "picture",
    fields: [
      { name: "side", label: "at its", type: "choice" },
      { name: "way", label: "moves", type: "choice" },
      { name: "by", label: "by", type: "percent" },
      { name: "scale", label: "size there", type: "percent" },
      { name: "over", label: "over", type: "length" },
      shape,
    ],
  },
  {
    kind: "pulse",
    word: "pulse",
    says: "grows on each hit and falls back",
    group: "picture",
    fields: [
      { name: "what", label: "its", type: "choice" },
      { name: "amount", label: "by", type: "percent", less: (t) => t.kind === "pulse" && t.what === "turn" },
      { name: "amount", label: "by", type: "degrees", less: (t) => t.kind === "pulse" && t.what !== "turn" },
      { name: "on", label: "on", type: "on" },
      { name: "attack", label: "rises in", type: "length" },
      { name: "fall", label: "falls in", type: "length" },
      { name: "follow", label: "as strong as the hit", type: "yes" },
    ],
  },
  {
    kind: "step",
    word: "step",
    says: "grows on each hit and stays so",
    group: "picture",
    fields: [
      { name: "what", label: "its", type: "choice" },
      { name: "amount", label: "by", type: "percent", less: (t) => t.kind === "step" && t.what === "turn" },
      { name: "amount", label: "by", type: "degrees", less: (t) => t.kind === "step" && t.what !== "turn" },
      { name: "on", label: "on", type: "on" },
      { name: "glide", label: "glides over", type: "length" },
    ],
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
  },
  {
    kind: "punch in",
    word: "punch in",
    says: "enlarged about a point",
    group: "picture",
    fields: [
      { name: "scale", label: "to", type: "percent" },
      { name: "x", label: "about the point across", type: "percent" },
      { name: "y", label: "and down", type: "percent" },
    ],
  },
  {
    kind: "drift",
    word: "drift",
    says: "a slow move over the shot",
    group: "picture",
    fields: [
      { name: "scale", label: "from", type: "percent" },
      { name: "x", label: "about across", type: "percent" },
      { name: "y", label: "and down", type: "percent" },
      { name: "to_scale", label: "to", type: "percent" },
      { name: "to_x", label: "about across", type: "percent" },
      { name: "to_y", label: "and down", type: "percent" },
      shape,
    ],
  },
  {
    kind: "mirror",
    word: "mirror",
    says: "left and right change places",
    group: "picture",
    fields: [],
  },
  {
    kind: "turn",
    word: "turn",
    says: "turned, no edge shows",
    group: "picture",
    fields: [{ name: "degrees", label: "by", type: "degrees" }],
  },
  {
    kind: "bars",
    word: "bars",
    says: "cropped to a shape of picture",
    group: "picture",
    fields: [{ name: "shape", label: "width by height", type: "number" }],
  },
  {
    kind: "vignette",
    word: "vignette",
    says: "darker towards the corners",
    group: "picture",
    fields: [{ name: "amount", label: "corners darker by", type: "percent" }],
  },
  {
    kind: "blur",
    word: "blur",
    says: "out of focus, coming or going",
    group: "picture",
    fields: [
      { name: "amount", label: "by", type: "percent" },
      { name: "side", label: "goes", type: "choice" },
      { name: "over", label: "over", type: "length", less: (t) => t.kind === "blur" && t.side === "all" },
      { ...shape, less: (t) => t.kind === "blur" && t.side === "all" },
    ],
  },
  {
    kind: "sharpen",
    word: "sharpen",
    says: "fine lines clearer",
    group: "picture",
    fields: [{ name: "amount", label: "by", type: "percent" }],
  },
  {
    kind: "glow",
    word: "soft glow",
    says: "lights spread over what is around them",
    group: "picture",
    fields: [{ name: "amount", label: "by", type: "percent" }],
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
  },
];

/** Step of a drag for each kind of number, and a small one. */
const STEPS = {
  percent: [0.01, 0.002],
  stops: [0.1, 0.02],
  control: [0.02, 0.005],
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
  const limits = treatment.kind === "grade" ? GRADE[field.name] : undefined;
  const inside = limits ? Math.min(limits[1], Math.max(limits[0], next)) : next;
  return { ...treatment, [field.name]: field.type === "count" ? Math.max(1, inside) : inside };
}

const round = (value: number) => Math.round(value * 1e4) / 1e4;

/** A treatment as it begins: the core's own values, what begins at the playhead, and what was said of the clip. */
export function begun(kind: Kind, at: Place, second: number, clip?: OfClip): Treatment {
  return { ...structuredClone(TREATMENTS[kind]?.begins), ...offered(kind).here?.(at, second, clip) } as Treatment;
}

/** What was said of the clip that a shot or cutaway shows. */
export function ofClip(item: ItemView, end: number, file: MediaView, song: SongView, rate: number): OfClip {
  const { in_s, speed } = item.source;
  const { moment_s } = file.said;
  const frame = moment_s === null ? -1 : item.start + Math.floor(((moment_s - in_s) / speed) * rate);
  const slowest = round(file.slowest / speed);
  return {
    range: file.select_out_s - file.select_in_s < file.seconds - 0.01 ? [file.select_in_s, file.select_out_s] : null,
    moment_s,
    seen: frame > item.start && frame < end ? placeAt(song, frame, rate) : null,
    slowest: slowest < 1 ? slowest : null,
  };
}

/** Choices for a field of a kind. */
export const choicesOf = (kind: Kind, field: string): readonly string[] => TREATMENTS[kind]?.choices[field] ?? [];

export function offered(kind: Kind): Offered {
  return OFFERED.find((o) => o.kind === kind) as Offered;
}

/** Kinds that can be given to what is treated: of a passage nothing that is of one shot; of a cutaway nothing of a cut; of a title no time. */
export function offeredFor(subject: Subject, angle: boolean): readonly Offered[] {
  return OFFERED.filter(({ kind }) => {
    const lies = TREATMENTS[kind];
    if (!lies || (angle && !lies.angle && subject.kind !== "passage")) return false;
    if (subject.kind === "shot") return lies.shot && (subject.start > 0 || !lies.joins);
    return lies[subject.kind];
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
export function frameOf(
  song: Pick<SongView, "beats" | "bars" | "first_bar">,
  place: Place,
  rate: number,
): number | null {
  const first = song.bars[place.bar - song.first_bar];
  if (first === undefined) return null;
  return Math.max(0, Math.floor(timeAt(song.beats, first + place.beat - 1) * rate + 0.5 + 1e-9));
}

export type Others = { key: string; label: string; items: number[] };

/** Shots on which the same treatments may be laid: of the same angle, there and everywhere, and of sections of a kind. */
export function othersFor(
  shot: ItemView,
  shots: readonly ItemView[],
  song: SongView,
  angle: { number: number; name: string } | undefined,
): Others[] {
  const sectionOf = (s: ItemView) => song.phrases.find((p) => s.start < p.end_frame - 1)?.section ?? 0;
  const here = sectionOf(shot);
  const section = song.sections[here];
  const group = song.sections.flatMap((s, i) => (section && s.group === section.group ? [i] : []));
  const named = group.map((i) => song.sections[i]?.name ?? "").join(", ");
  const alike = (s: ItemView) =>
    s.source.kind === shot.source.kind && s.source.angle === shot.source.angle && s.source.media === shot.source.media;
  const of = angle ? `angle ${angle.number}` : "this clip";
  const out: Others[] = [
    { key: "alike", label: `all of ${of}`, items: shots.filter(alike).map((s) => s.id) },
    {
      key: "alike there",
      label: `all of ${of} in ${named}`,
      items: shots.filter((s) => alike(s) && group.includes(sectionOf(s))).map((s) => s.id),
    },
    {
      key: "section",
      label: `every shot of ${section?.name ?? "this section"}`,
      items: shots.filter((s) => sectionOf(s) === here && s.source.kind !== "empty").map((s) => s.id),
    },
    {
      key: "group",
      label: `every shot of ${named}`,
      items: shots.filter((s) => group.includes(sectionOf(s)) && s.source.kind !== "empty").map((s) => s.id),
    },
  ];
  return out.filter((o, i) => o.items.length > 1 && !out.slice(0, i).some((p) => p.items.join() === o.items.join()));
}

/** Treatments of a shot or cutaway, in one line. */
export function inWords(item: Pick<ItemView, "treated">): string {
  const treated = item.treated;
  if (!treated) return "";
  return filled(treated)
    .map((t, i) => `${t.off ? "off: " : ""}${t.kind}${treated.said[i] ? `, ${treated.said[i]}` : ""}`)
    .join(" · ");
}

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
    shape: FADES[level.shape] ?? "smooth",
    off: false,
  });
  return [
    ...(subject.start === 0 && level.fade_in_s > 0 ? [made("in", level.fade_in_s)] : []),
    ...(subject.end === length && level.fade_out_s > 0 ? [made("out", level.fade_out_s)] : []),
  ];
}
