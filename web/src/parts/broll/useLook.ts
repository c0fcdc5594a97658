import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, data, type MediaView } from "../../api/client";
import { useProject } from "../../api/project";
import { type Command, useCommandKeys } from "../keys";
import type { Item } from "./items";
import { useClip } from "./useClip";
import { useSay } from "./useSay";

const NO_PLACES = { movements: [] as number[], strokes: [] as number[] };
/** A place this near is the one that is shown. */
const NEAR_S = 0.02;

export type Look = ReturnType<typeof useLook>;

interface Looking {
  clip: MediaView;
  /** Id of the select that is changed; null where the clip itself is. */
  chosen: number | null;
  /** Open a clip, or a select of it. */
  open: (clip: string, select: number | null) => void;
  /** Open the clip so many on. */
  next: (by: number) => void;
  /** Leave the clip. */
  leave: () => void;
  /** Whether keys go to the clip. */
  keys?: boolean;
}

/**
 * Looking through a clip: the range that would be kept, its selects, its player, and what keys do.
 * Its in and out are kept with the clip, or the select that is open, as soon as they are set.
 */
export function useLook({ clip, chosen, open, next, leave, keys = true }: Looking) {
  const { id, state, act, path } = useProject();
  const selects = state.selects.filter((s) => s.media === clip.id).sort((a, b) => a.in_s - b.in_s);
  const select = selects.find((s) => s.id === chosen) ?? null;
  const [first, last] = select ? [select.in_s, select.out_s] : [clip.select_in_s, clip.select_out_s];
  const player = useClip(clip, first, select?.id);
  const [range, setRange] = useState<[number, number]>([first, last]);
  const say = useSay();
  // biome-ignore lint/correctness/useExhaustiveDependencies: another clip or select has a range of its own
  useEffect(() => setRange([first, last]), [select?.id, clip.id, first, last]);
  const set = (in_s: number, out_s: number) => {
    setRange([in_s, out_s]);
    if (select) {
      const params = { path: { project_id: id, select_id: select.id } };
      void act(() =>
        data(api.PATCH("/api/v1/projects/{project_id}/broll/selects/{select_id}", { params, body: { in_s, out_s } })),
      );
      return;
    }
    const params = { path: { project_id: id, media_id: clip.id } };
    void act(() =>
      data(api.PATCH("/api/v1/projects/{project_id}/media/{media_id}", { params, body: { select: [in_s, out_s] } })),
    );
  };
  const keep = async () => {
    // A still has no range to keep, and that of a select is kept already.
    if (clip.still || select) return;
    const [in_s, out_s] = range;
    const body = { media: clip.id, ranges: [{ in_s, out_s, name: "" }] };
    const made = await act(() => data(api.POST("/api/v1/projects/{project_id}/broll/selects", { params: path, body })));
    // The clip after it is opened next.
    if (made) setRange([Math.min(out_s, clip.seconds), clip.seconds]);
  };
  const setIn = () => set(player.shown(), range[1] > player.shown() ? range[1] : clip.seconds);
  const setOut = () => {
    const end = player.end(clip.seconds);
    set(range[0] < end ? range[0] : 0, end);
  };
  const item: Pick<Item, "clip" | "select"> = { clip, select };
  const mark = () => void (clip.still || say([item], { moment_s: player.shown() }));
  const told = useQuery({
    queryKey: ["places", id, clip.id, clip.made_of, clip.prepared],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/broll/places/{media_id}", {
          params: { path: { project_id: id, media_id: clip.id } },
        }),
      ),
    enabled: !clip.still,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const places = told.data ?? NO_PLACES;
  /** The next place on the way where something moves or strikes. */
  const jump = (way: 1 | -1) => {
    player.play(0);
    const all = [...places.movements, ...places.strokes].sort((a, b) => a - b);
    const here = player.at;
    const to = way > 0 ? all.find((at) => at > here + NEAR_S) : all.findLast((at) => at < here - NEAR_S);
    if (to !== undefined) player.go(to);
  };
  const shuttle = (way: 1 | -1) =>
    player.play(Math.sign(player.speed) === way ? Math.max(-4, Math.min(4, player.speed * 2)) : way);
  const playing: readonly Command[] = clip.still
    ? []
    : [{ keys: "Space", words: "Play the clip or pause", run: () => player.play(player.speed ? 0 : 1) }];
  useCommandKeys(
    "The clip that is looked at",
    keys
      ? [
          ...playing,
          { keys: "k", words: "Stop the clip", run: () => player.play(0) },
          { keys: "l", words: "Play the clip on; again, faster", run: () => shuttle(1) },
          { keys: "j", words: "Play the clip backwards; again, faster", run: () => shuttle(-1) },
          { keys: "ArrowLeft", words: "A frame of the clip back", run: () => player.step(-1) },
          { keys: "ArrowRight", words: "A frame of the clip on", run: () => player.step(1) },
          { keys: "Shift+ArrowLeft", words: "A second of the clip back", run: () => player.go(player.at - 1) },
          { keys: "Shift+ArrowRight", words: "A second of the clip on", run: () => player.go(player.at + 1) },
          { keys: "Alt+ArrowLeft", words: "To the movement or stroke before", run: () => jump(-1) },
          { keys: "Alt+ArrowRight", words: "To the next movement or stroke", run: () => jump(1) },
          { keys: "ArrowDown", words: "The next clip", run: () => next(1) },
          { keys: "ArrowUp", words: "The clip before", run: () => next(-1) },
          { keys: "i", words: "In of the clip", run: setIn },
          { keys: "o", words: "Out of the clip", run: setOut },
          { keys: "Enter", words: "Keep a select", run: () => void keep() },
          { keys: "m", words: "Mark its moment", run: mark },
          { keys: "n", words: "Begin another select", run: () => open(clip.id, null) },
          {
            keys: "0 1 2 3 4 5",
            words: "Rate the clip",
            run: (e) => void say([item], { rating: Number(e?.key) }),
            row: true,
          },
          {
            keys: "Escape",
            words: "Leave the select, or the clip",
            run: () => (select ? open(clip.id, null) : leave()),
          },
        ]
      : [],
    true,
  );
  const moment = (select ?? clip).said.moment_s ?? clip.said.moment_s;
  return { player, range, selects, select, item, moment, places, jump, keep, setIn, setOut, mark, next };
}
