import { useEffect, useMemo, useState } from "react";
import { api, data, type MediaView } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { type Item, itemsOf, NO_SIFT, sifted } from "../../parts/broll/items";
import { lookAt, useLooking } from "../../parts/broll/looking";
import { useKeys } from "../../parts/keys";
import { useSay } from "./SayTogether";
import { useClip } from "./useClip";

export type Look = ReturnType<typeof useLook>;

/** Looking through a clip: the range that would be kept, its selects, its player, and what keys do. */
export function useLook(clip: MediaView) {
  const { id, state, act, path } = useProject();
  const chosen = useLooking((l) => l.select);
  const selects = state.selects.filter((s) => s.media === clip.id).sort((a, b) => a.in_s - b.in_s);
  const select = selects.find((s) => s.id === chosen) ?? null;
  const [first, last] = select ? [select.in_s, select.out_s] : [clip.select_in_s, clip.select_out_s];
  const player = useClip(clip.id, first, clip.placed);
  const [range, setRange] = useState<[number, number]>([first, last]);
  const say = useSay();
  useEffect(() => setRange([first, last]), [select?.id, clip.id, first, last]);
  const next = useNext(clip);
  const keep = async () => {
    // A still has no range to keep.
    if (clip.still) return;
    const [in_s, out_s] = range;
    if (select) {
      const params = { path: { project_id: id, select_id: select.id } };
      await act(() =>
        data(api.PATCH("/api/projects/{project_id}/broll/selects/{select_id}", { params, body: { in_s, out_s } })),
      );
      return;
    }
    const body = { media: clip.id, ranges: [{ in_s, out_s, name: "" }] };
    const made = await act(() => data(api.POST("/api/projects/{project_id}/broll/selects", { params: path, body })));
    // The clip after it is opened next.
    if (made) setRange([Math.min(out_s, clip.seconds), clip.seconds]);
  };
  const setIn = () => setRange(([, out]) => [player.shown(), out > player.shown() ? out : clip.seconds]);
  const setOut = () => {
    const end = player.end(clip.seconds);
    setRange(([from]) => [from < end ? from : 0, end]);
  };
  const item: Pick<Item, "clip" | "select"> = { clip, select };
  const mark = () => void (clip.still || say([item], { moment_s: player.shown() }));
  const shuttle = (way: 1 | -1) =>
    player.play(Math.sign(player.speed) === way ? Math.max(-4, Math.min(4, player.speed * 2)) : way);
  useKeys(
    {
      ...(clip.still ? {} : { Space: () => player.play(player.speed ? 0 : 1) }),
      k: () => player.play(0),
      l: () => shuttle(1),
      j: () => shuttle(-1),
      ArrowLeft: () => player.step(-1),
      ArrowRight: () => player.step(1),
      "Shift+ArrowLeft": () => player.go(player.at - 1),
      "Shift+ArrowRight": () => player.go(player.at + 1),
      ArrowDown: () => next(1),
      ArrowUp: () => next(-1),
      i: setIn,
      o: setOut,
      Enter: () => void keep(),
      m: mark,
      n: () => lookAt(clip.id),
      Escape: () => (select ? lookAt(clip.id) : lookAt(null)),
      ...Object.fromEntries([0, 1, 2, 3, 4, 5].map((n) => [String(n), () => void say([item], { rating: n })])),
    },
    true,
  );
  const moment = (select ?? clip).said.moment_s ?? clip.said.moment_s;
  return { player, range, selects, select, item, moment, keep, setIn, setOut, mark, next };
}

/** Goes to the clip so many on, round at the ends. */
function useNext(clip: MediaView): (by: number) => void {
  const { state } = useProject();
  const edit = useEdit();
  const order = useMemo(
    () => sifted(itemsOf(state.media, state.selects, edit, true), NO_SIFT).filter((i) => !i.select),
    [state.media, state.selects, edit],
  );
  return (by) => {
    const at = order.findIndex((i) => i.clip.id === clip.id);
    const to = order[(at + by + order.length) % order.length];
    if (to) lookAt(to.clip.id);
  };
}
