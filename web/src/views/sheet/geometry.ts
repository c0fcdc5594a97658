import type { EditView, ItemView, PhraseView, SongView, SpanView } from "../../api/client";
import { TREATMENTS } from "../../api/facts";
import { itemsOn, lanesOf, shotsOf } from "../../api/lanes";

/** A row of the sheet: its phrase and how it maps time to pixels. */
export interface Row {
  phrase: PhraseView;
  /** Seconds that the row's full width stands for. */
  seconds: number;
}

/** The part of a song that rows are made of. */
export type Laid = Pick<SongView, "phrases" | "beats" | "beat_frames" | "bars" | "first_bar">;

/** Length of song in a row. */
export type Per = "bar" | "two bars" | "phrase" | "two phrases" | "section";

/** All rows to one scale, so that like phrases lie under each other; a longer one is drawn closer. */
export function rowsOf(song: Laid, per: Per = "phrase"): Row[] {
  const phrases = per === "bar" ? parted(song, 1) : per === "two bars" ? parted(song, 2) : joined(song.phrases, per);
  const lengths = phrases.map((p) => p.end_s - p.start_s).sort((a, b) => a - b);
  const usual = lengths[Math.floor(lengths.length * 0.75)] ?? 1;
  return phrases.map((phrase) => ({ phrase, seconds: Math.max(usual, phrase.end_s - phrase.start_s) }));
}

/** Rows of the film before the song and after it, to the scale of the others; none where there is no such part. */
export function rowsAround(
  { lead, tail, length }: Pick<EditView, "lead" | "tail" | "length">,
  rate: number,
  scale: number,
): { before: Row[]; after: Row[] } {
  const row = (first_frame: number, end_frame: number): Row[] => {
    if (end_frame <= first_frame) return [];
    const [start_s, end_s] = [first_frame / rate, end_frame / rate];
    const phrase = { section: AROUND, number: 0, bars: 0, first_bar: 0, lyric: "" };
    return [
      { phrase: { ...phrase, first_frame, end_frame, start_s, end_s }, seconds: Math.max(scale, end_s - start_s) },
    ];
  };
  return { before: row(-lead, 0), after: row(length, length + tail) };
}

/** The section of a row that lies outside the song. */
export const AROUND = -1;

/** Phrases parted every so many bars; the words stand over the first part. */
function parted({ phrases, beats, beat_frames, bars, first_bar }: Laid, every: number): PhraseView[] {
  return phrases.flatMap((phrase) => {
    const parts: PhraseView[] = [];
    for (let bar = 0; bar < phrase.bars; bar += every) {
      const at = bars[phrase.first_bar + bar - first_bar];
      const [start_s, first_frame] = at === undefined ? [] : [beats[at], beat_frames[at]];
      const begins = bar > 0 && start_s !== undefined && first_frame !== undefined ? { start_s, first_frame } : {};
      const last = parts.at(-1);
      const part = {
        ...phrase,
        ...begins,
        first_bar: phrase.first_bar + bar,
        bars: Math.min(every, phrase.bars - bar),
      };
      if (last) Object.assign(last, { end_s: part.start_s, end_frame: part.first_frame });
      parts.push({ ...part, lyric: last ? "" : phrase.lyric });
    }
    return parts;
  });
}

/** Phrases of a section joined, two by two or all. */
function joined(phrases: readonly PhraseView[], per: Per): PhraseView[] {
  const out: PhraseView[] = [];
  for (const phrase of phrases) {
    const last = out.at(-1);
    const runsOn =
      last?.section === phrase.section && (per === "section" || (per === "two phrases" && phrase.number % 2 === 0));
    if (!last || !runsOn) out.push(phrase);
    else
      out[out.length - 1] = {
        ...last,
        end_s: phrase.end_s,
        end_frame: phrase.end_frame,
        bars: last.bars + phrase.bars,
        lyric: [last.lyric, phrase.lyric].filter(Boolean).join(" / "),
      };
  }
  return out;
}

/** Rows of repeats under each other: of every group of like sections, each first row, then each second. */
export function repeatsOf(
  song: Laid & Pick<SongView, "sections">,
  per: Per = "phrase",
): { name: string; rows: Row[] }[] {
  const rows = rowsOf(song, per);
  const groups = new Map<number, number[]>();
  song.sections.forEach((s, i) => groups.set(s.group, [...(groups.get(s.group) ?? []), i]));
  return [...groups.values()]
    .filter((g) => g.length > 1)
    .flatMap((group) => {
      const parts = group.map((i) => rows.filter((r) => r.phrase.section === i));
      const most = Math.max(...parts.map((p) => p.length));
      const name = group.map((i) => song.sections[i]?.name ?? "").join(", ");
      return Array.from({ length: most }, (_, k) => ({
        name: per === "section" ? name : `${name}: ${most === 1 ? "the phrase" : `row ${k + 1} of ${most}`}`,
        rows: parts.flatMap((p) => p.slice(k, k + 1)),
      }));
    });
}

/** Pixels from the row's left edge at a song time. */
export function xOf(row: Row, seconds: number, width: number): number {
  return ((seconds - row.phrase.start_s) / row.seconds) * width;
}

/** Song time at pixels from the row's left edge. */
export function timeOf(row: Row, x: number, width: number): number {
  return row.phrase.start_s + (x / width) * row.seconds;
}

export interface Cell<T> {
  item: T;
  left: number;
  width: number;
  /** True where the item begins in this row, else it runs on from the row before. */
  begins: boolean;
}

/** The part of a lane over the base that lies in a row. */
export interface LaneCells {
  id: number;
  name: string;
  on: boolean;
  locked: boolean;
  items: readonly ItemView[];
}

/** The part of an edit that lies in a row: shots and what they show, what lies over them from the bottom up, and treated ranges. */
export interface RowCells {
  shots: readonly ItemView[];
  over: readonly LaneCells[];
  base: readonly SpanView[];
  treated: readonly ItemView[];
}

/** The part of an edit that lies in a row. */
export function cellsOf(edit: EditView, row: Row): RowCells {
  return {
    shots: itemsIn(shotsOf(edit), row),
    over: [...lanesOf(edit, "over"), ...lanesOf(edit, "titles")].map(({ id, name, on, locked, items }) => ({
      id,
      name,
      on,
      locked,
      items: itemsIn(items, row),
    })),
    base: itemsIn(edit.programme.layers[0] ?? [], row),
    // Ranges may lie over each other, so that they are looked through one by one.
    treated: itemsOn(edit, "ranges").filter((t) => t.end > row.phrase.first_frame && t.start < row.phrase.end_frame),
  };
}

/** Heights of the strip that lanes over the base share, by how many have something in a row: top and height of one. */
export function levelOf(level: number, count: number, strip: number): { top: number; height: number } {
  const height = count < 2 ? strip : Math.max(6, Math.round(strip * (count < 3 ? 0.72 : 0.54)));
  return { top: (count - 1 - level) * height, height };
}

/** The items of a lane, in order and without overlap, of which something lies in a row. */
function itemsIn<T extends { start: number; end: number }>(items: readonly T[], { phrase }: Row): T[] {
  let low = 0;
  let high = items.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((items[middle] as T).end <= phrase.first_frame) low = middle + 1;
    else high = middle;
  }
  let end = low;
  while (end < items.length && (items[end] as T).start < phrase.end_frame) end++;
  return items.slice(low, end);
}

/** The part of each item of a lane that lies in a row; items have start and end in frames. */
export function cellsIn<T extends { start: number; end: number }>(
  items: readonly T[],
  row: Row,
  rate: number,
  width: number,
): Cell<T>[] {
  const { first_frame: a, end_frame: b } = row.phrase;
  return itemsIn(items, row).map((item) => {
    const left = Math.max(0, xOf(row, Math.max(item.start, a) / rate, width));
    const right = Math.min(width, xOf(row, Math.min(item.end, b) / rate, width));
    return { item, left, width: right - left, begins: item.start >= a };
  });
}

/** Rows lower than this show shots alone, with what they are called in one line; none is lower than the least. */
export const TIGHT = 50;
const LEAST_ROW = 13;
const MOST_ROW = 62;

/** Height of rows where the whole song is to fit a pane: they share its height. */
export function fittingRow(pane: number, rows: number): number {
  return Math.max(LEAST_ROW, Math.min(MOST_ROW, Math.floor(pane / Math.max(1, rows))));
}
/** Room for the name of a section and of a row beside each other. */
export const WIDE_NAME = 112;

/** The frames over which a shot comes in over the one before it; null where it does not. */
export function comingOf(shot: ItemView, base: readonly SpanView[]): { first: number; end: number } | null {
  if (!shot.treated?.treatments.some((t) => t.kind && TREATMENTS[t.kind]?.joins && !t.off)) return null;
  const comes = (s: SpanView) => {
    const last = s.chain?.at(-1);
    return last?.step === "opacity" ? last.curves.amount : undefined;
  };
  const span = base.find((s) => s.start <= shot.start && s.end > shot.start && (comes(s)?.length ?? 0) > 1);
  const keys = (span && comes(span)) ?? [];
  const [from, to] = [keys[0], keys.at(-1)];
  return span && from && to ? { first: span.start + from.frame, end: span.start + to.frame } : null;
}

/** Width of the room for the angles in the live layout by its height, as it is in a window of 1280 by 800. */
const ROOM = 2;

/** In how many columns so many pictures of a shape are largest, side by side in the room for them. */
export function columnsFor(count: number, shape: number): number {
  let best = 1;
  let most = 0;
  for (let columns = 1; columns <= count; columns++) {
    const rows = Math.ceil(count / columns);
    const width = Math.min(1 / columns, shape / ROOM / rows);
    if (width > most + 1e-9) [best, most] = [columns, width];
  }
  return best;
}
