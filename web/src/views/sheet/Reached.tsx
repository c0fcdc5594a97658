import { useEffect, useRef } from "react";
import { create } from "zustand";
import type { EditView, SongView } from "../../api/client";
import { itemsOn, shotsOf } from "../../api/lanes";
import { useCommands } from "../../api/project";
import { clock } from "../../player/clock";
import { useChoice } from "./choice";
import { frameAt } from "../../player/timemap";
import { endsWithProject } from "../../parts/ending";

/** Something on the Sheet that the keyboard reaches: a shot, a cutaway or a mark, with its frame. */
export interface Stop {
  kind: "shot" | "cutaway" | "mark";
  id: number;
  frame: number;
}

/** The stop that Tab goes to, and whether it is to be focused as soon as it is drawn. */
const useReached = create<{ kind: Stop["kind"]; id: number | null; wanted: boolean }>(() => ({
  kind: "shot",
  id: null,
  wanted: false,
}));
endsWithProject(() => useReached.setState(useReached.getInitialState(), true));

const ORDER = { shot: 0, cutaway: 1, mark: 2 } as const;

/** Everything on the Sheet in the order in which the arrow keys walk it: by time; a shot before what lies over it. */
export function stopsOf(edit: EditView | undefined, song: SongView | null, rate: number): readonly Stop[] {
  const shots = shotsOf(edit).map((s) => ({ kind: "shot" as const, id: s.id, frame: s.start }));
  const over = itemsOn(edit, "over").map((c) => ({ kind: "cutaway" as const, id: c.id, frame: c.start }));
  const shown = new Set(song?.mark_sets.filter((s) => s.shown).map((s) => s.id));
  const marks = (song?.marks ?? [])
    .filter((m) => shown.has(m.set_id))
    .map((m) => ({ kind: "mark" as const, id: m.id, frame: frameAt(m.at_s, rate) }));
  return [...shots, ...over, ...marks].sort((a, b) => a.frame - b.frame || ORDER[a.kind] - ORDER[b.kind]);
}

/** The stop that a key leads to from another: the next one, the first or last, or the shot a phrase further. */
export function reachedBy(
  key: string,
  from: Stop,
  stops: readonly Stop[],
  phrases: readonly number[],
): Stop | undefined {
  const at = stops.findIndex((s) => s.kind === from.kind && s.id === from.id);
  if (key === "ArrowRight") return stops[at + 1];
  if (key === "ArrowLeft") return stops[at - 1];
  if (key === "Home") return stops[0];
  if (key === "End") return stops[stops.length - 1];
  const to =
    key === "ArrowDown"
      ? phrases.find((frame) => frame > from.frame)
      : key === "ArrowUp"
        ? phrases.findLast((frame) => frame < from.frame)
        : undefined;
  if (to === undefined) return undefined;
  return stops.findLast((s) => s.kind === "shot" && s.frame <= to + 1);
}

function choose(stop: Stop, rate: number): void {
  clock.seek((stop.frame + 0.001) / rate);
  useChoice.setState({
    item: stop.kind === "cutaway" ? stop.id : null,
    mark: stop.kind === "mark" ? stop.id : null,
    range: null,
  });
}

/**
 * The place of the keyboard's focus in something of the Sheet that is drawn for the pointer. One of them all is reached by
 * Tab; the arrow keys walk from one to the next and choose it.
 */
export function Reached({ kind, id, frame, label, on }: Stop & { label: string; on: boolean }) {
  const { rate, now } = useCommands();
  const tabbed = useReached((r) => r.kind === kind && (r.id === id || (r.id === null && frame === 0)));
  const wanted = useReached((r) => r.wanted && r.kind === kind && r.id === id);
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (!wanted) return;
    useReached.setState({ wanted: false });
    button.current?.focus({ preventScroll: true });
  }, [wanted]);
  const walk = (event: React.KeyboardEvent) => {
    if (event.ctrlKey || event.altKey || event.metaKey || event.shiftKey) return;
    const { state, edit } = now();
    const phrases = (state.song?.phrases ?? []).map((p) => p.first_frame);
    const to = reachedBy(event.key, { kind, id, frame }, stopsOf(edit, state.song, rate), phrases);
    if (!to) return;
    event.preventDefault();
    event.stopPropagation();
    useReached.setState({ kind: to.kind, id: to.id, wanted: true });
    choose(to, rate);
  };
  return (
    <button
      ref={button}
      type="button"
      className="heard-only reached"
      tabIndex={tabbed ? 0 : -1}
      aria-pressed={on}
      aria-label={label}
      onFocus={() => useReached.setState({ kind, id })}
      onClick={() => choose({ kind, id, frame }, rate)}
      onKeyDown={walk}
      data-testid="reached"
    />
  );
}
