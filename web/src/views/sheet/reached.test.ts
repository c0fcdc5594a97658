import { describe, expect, it } from "vitest";
import type { EditView, SongView } from "../../api/client";
import { reachedBy, type Stop, stopsOf } from "./Reached";

const item = (id: number, start: number) => ({ id, start, end: start + 24 });
const edit = {
  lanes: [
    { kind: "base", items: [item(1, 0), item(2, 48), item(3, 96)] },
    { kind: "over", items: [item(7, 48), item(8, 60)] },
  ],
} as unknown as EditView;
const song = {
  mark_sets: [
    { id: 1, shown: true },
    { id: 2, shown: false },
  ],
  marks: [
    { id: 4, set_id: 1, at_s: 3 },
    { id: 5, set_id: 2, at_s: 1 },
  ],
} as unknown as SongView;
const names = (stops: readonly Stop[]) => stops.map((s) => `${s.kind} ${s.id}`);

describe("walking over the Sheet by keys", () => {
  const stops = stopsOf(edit, song, 24);

  it("goes by time, a shot before what lies over it, and leaves out marks that are not shown", () => {
    expect(names(stops)).toEqual(["shot 1", "shot 2", "cutaway 7", "cutaway 8", "mark 4", "shot 3"]);
  });

  it("comes back by the key that goes on", () => {
    for (const stop of stops.slice(0, -1)) {
      const next = reachedBy("ArrowRight", stop, stops, []) as Stop;
      expect(reachedBy("ArrowLeft", next, stops, [])).toEqual(stop);
    }
    expect(reachedBy("ArrowRight", stops.at(-1) as Stop, stops, [])).toBeUndefined();
    expect(reachedBy("End", stops[0] as Stop, stops, [])).toEqual(stops.at(-1));
  });

  it("goes a phrase up or down to the shot there, and leaves other keys alone", () => {
    const phrases = [0, 50, 96];
    expect(reachedBy("ArrowDown", stops[0] as Stop, stops, phrases)?.id).toBe(2);
    expect(reachedBy("ArrowUp", stops.at(-1) as Stop, stops, phrases)?.id).toBe(2);
    expect(reachedBy("a", stops[0] as Stop, stops, phrases)).toBeUndefined();
  });
});
