/** The stages of colour of what is on screen, each of which can be left out for a moment. Pure. */

import type { ItemView, MediaView } from "../../../api/client";
import type { Layers, Span } from "../../../player/layers";

/** In the order in which they act: the file's table, its grade, the shot's own, and looks over passages. */
export const STAGES = ["input", "file", "shot", "look"] as const;
export type Stage = (typeof STAGES)[number];

/** How many grades of an item act. */
const gradesOf = (item: ItemView): number =>
  (item.treated?.treatments ?? []).filter((t) => t.kind === "grade" && !t.off).length;

/** The stage of each step of a span's chain; none for steps that are not of colour. */
function stagesOf(
  span: Span,
  graded: ReadonlyMap<string, number>,
  passages: readonly ItemView[],
): (Stage | undefined)[] {
  const middle = (span.start + span.end) / 2;
  const looks = passages
    .filter((p) => p.start <= middle && middle < p.end)
    .reduce((count, p) => count + gradesOf(p), 0);
  const chain = span.chain ?? [];
  const all = chain.filter((c) => c.step === "grade").length;
  let nth = 0;
  return chain.map(({ step }) => {
    if (step === "table") return "input";
    if (step !== "grade") return undefined;
    nth++;
    if (nth <= (graded.get(span.media ?? "") ?? 0)) return "file";
    return nth > all - looks ? "look" : "shot";
  });
}

/** Layers without some stages of colour; the very same spans where nothing is left out. */
export function withoutStages(
  layers: Layers,
  off: ReadonlySet<Stage>,
  media: readonly Pick<MediaView, "id" | "grade" | "evened">[],
  passages: readonly ItemView[],
): Layers {
  if (!off.size) return layers;
  const graded = new Map(media.map((m) => [m.id, Number(m.evened) + Number(Object.keys(m.grade).length > 0)]));
  return layers.map((spans) =>
    spans.map((span) => {
      const stages = stagesOf(span, graded, passages);
      if (!stages.some((stage) => stage && off.has(stage))) return span;
      const chain = (span.chain ?? []).filter((_, n) => !off.has(stages[n] as Stage));
      return { ...span, chain: chain.length ? chain : null };
    }),
  );
}
