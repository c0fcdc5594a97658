import { useMemo } from "react";
import { useCommands } from "../../api/project";
import { itemsOf } from "../../parts/broll/items";
import { clock, useClock } from "../../player/clock";
import { frameAt } from "../../player/timemap";
import { fallsNow, laidNow, shotAt } from "./falls";
import { useChoice } from "./choice";
import { sectionEnd } from "./keys";

/** Actions of an editor on the sheet: the same by key, by button and by menu, and the same functions all the time. */
export function useSheetActions() {
  const commands = useCommands();
  return useMemo(() => actionsOf(commands), [commands]);
}

function actionsOf({ now, rate, operate }: ReturnType<typeof useCommands>) {
  const here = () => shotAt(now().edit, frameAt(clock.position(), rate));
  const playing = () => useClock.getState().playing;
  const laid = () => {
    const { clip: media, select } = useChoice.getState();
    return media ? { media, select } : null;
  };
  /** The clip or select after the one that was laid, where that is asked for. */
  const chooseNext = () => {
    const { thenNext, clip, select } = useChoice.getState();
    if (!thenNext) return;
    const { state, edit } = now();
    const items = itemsOf(state.media, state.selects, edit);
    const at = items.findIndex((i) => (select ? i.select?.id === select : i.clip.id === clip && !i.select));
    const next = items[(at + 1) % Math.max(1, items.length)];
    if (next) useChoice.setState({ clip: next.clip.id, select: next.select?.id ?? null });
  };
  return {
    cutHere: () => operate({ op: "cut", ...fallsNow(now().state, playing(), clock.position()) }),
    switchTo: (angle: number) => {
      const { state } = now();
      const over = useChoice.getState().over;
      const until_s =
        over === "section" ? sectionEnd(state, clock.position()) : over === "song" ? state.length / rate : null;
      if (playing()) return operate({ op: "switch", angle, until_s, ...fallsNow(state, true, clock.position()) });
      const shot = here();
      return shot ? operate({ op: "angle", item: shot.id, angle }) : undefined;
    },
    join: () => {
      const shot = here();
      return shot ? operate({ op: "join", item: shot.id }) : undefined;
    },
    hold: () => {
      const shot = here();
      return shot ? operate({ op: "hold", item: shot.id, held: !shot.held }) : undefined;
    },
    layOver: async () => {
      const clip = laid();
      if (!clip) return undefined;
      const after = await operate({
        op: "lay over",
        ...clip,
        lane: useChoice.getState().lane,
        ...laidNow(now().state, playing(), clock.position()),
      });
      if (after) chooseNext();
      return after;
    },
    /** The chosen clip into the shot, its marked moment on the frame at the playhead. */
    layMoment: () => {
      const [clip, shot] = [laid(), here()];
      const at = frameAt(clock.position(), rate);
      return clip && shot ? operate({ op: "lay", item: shot.id, ...clip, by: "moment", at }) : undefined;
    },
    layInto: async () => {
      const [clip, shot] = [laid(), here()];
      if (!clip || !shot) return undefined;
      const after = await operate({ op: "lay", item: shot.id, ...clip });
      if (after) chooseNext();
      return after;
    },
  };
}
