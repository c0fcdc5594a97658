/** The stages of colour of what is on screen, each of which can be left out for a moment. Pure. */

import type { ItemView, MediaView } from "../../../api/client";
import type { Layers, Span } from "../../../player/layers";
import { OF_COLOUR } from "../../../player/quick";
import { filled, type Treatment } from "../treating/kinds";
import { changed } from "./grade";

/** In the order in which they act: the file's table, its grade, the shot's own, and looks over passages. */
export const STAGES = ["input", "file", "shot", "look"] as const;
export type Stage = (typeof STAGES)[number];

/** What each stage is, for whoever asks. */
export const STAGE_WORDS: Readonly<Record<Stage, string>> = {
  input: "the file's table",
  file: "the file's grade",
  shot: "the shot's own grade",
  look: "the looks over passages",
};

/** How many steps of colour the treatments of an item make. */
const stepsOf = (item: ItemView): number => filled(item.treated).filter((t) => !t.off && acts(t)).length;

const acts = (t: Treatment): boolean =>
  t.kind === "table" ? t.strength > 0 : t.kind === "grade" && Object.keys(changed(t)).some((c) => !IDLE.has(c));

/** Controls that do nothing by themselves. */
const IDLE: ReadonlySet<string> = new Set(["strength", "pivot"]);

/** How many steps of colour a file has: its table, then its evening and its grade. */
export interface OfFile {
  tables: number;
  grades: number;
}

/** The stage of each step of a span's chain; none for steps that are not of colour. */
function stagesOf(
  span: Span,
  files: ReadonlyMap<string, OfFile>,
  passages: readonly ItemView[],
): (Stage | undefined)[] {
  const middle = (span.start + span.end) / 2;
  const looks = passages.filter((p) => p.start <= middle && middle < p.end).reduce((count, p) => count + stepsOf(p), 0);
  const chain = span.chain ?? [];
  const all = chain.filter((c) => OF_COLOUR.has(c.step)).length;
  const { tables, grades } = files.get(span.media ?? "") ?? { tables: 0, grades: 0 };
  let nth = 0;
  return chain.map(({ step }) => {
    if (!OF_COLOUR.has(step)) return undefined;
    nth++;
    if (nth <= tables) return "input";
    if (nth <= tables + grades) return "file";
    return nth > all - looks ? "look" : "shot";
  });
}

/** Layers without some stages of colour; the very same spans where nothing is left out. */
export function withoutStages(
  layers: Layers,
  off: ReadonlySet<Stage>,
  media: readonly Pick<MediaView, "id" | "grade" | "evened" | "table">[],
  passages: readonly ItemView[],
): Layers {
  if (!off.size) return layers;
  const files = new Map(
    media.map((m) => [
      m.id,
      { tables: Number(m.table.number > 0), grades: Number(m.evened) + Number(Object.keys(m.grade).length > 0) },
    ]),
  );
  return layers.map((spans) =>
    spans.map((span) => {
      const stages = stagesOf(span, files, passages);
      if (!stages.some((stage) => stage && off.has(stage))) return span;
      const chain = (span.chain ?? []).filter((_, n) => !off.has(stages[n] as Stage));
      return { ...span, chain: chain.length ? chain : null };
    }),
  );
}
