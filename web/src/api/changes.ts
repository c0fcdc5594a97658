import type { EditView } from "./client";

/** A list whose head and tail stand in an earlier one. */
function joined<T>(before: readonly T[], between: readonly T[], [head = 0, tail = 0]: readonly number[]): T[] {
  return [...before.slice(0, head), ...between, ...before.slice(before.length - tail)];
}

/** The edit after an answer that holds only what changed; what did not change is the very same object. */
export function broughtUp(before: EditView, answer: EditView): EditView {
  const { kept } = answer;
  if (!kept) return answer;
  return {
    ...answer,
    kept: null,
    lanes: answer.lanes.map((lane, n) => {
      const known = before.lanes.find((one) => one.id === lane.id)?.items ?? [];
      const ends = kept.lanes[n] ?? [];
      // A lane on which nothing changed keeps its very items.
      const same = !lane.items.length && (ends[0] ?? 0) + (ends[1] ?? 0) === known.length;
      return { ...lane, items: same ? known : joined(known, lane.items, ends) };
    }),
    findings: joined(before.findings, answer.findings, kept.findings),
    programme: {
      ...answer.programme,
      layers: answer.programme.layers.map((layer, n) =>
        joined(before.programme.layers[n] ?? [], layer, kept.layers[n] ?? []),
      ),
    },
  };
}
