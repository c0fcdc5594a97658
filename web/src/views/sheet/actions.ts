import { useMemo } from "react";
import { api, data } from "../../api/client";
import { useCommands } from "../../api/project";
import { clock, useClock } from "../../player/clock";
import { tappedAt } from "../../player/latency";
import { frameAt } from "../../player/timemap";
import { chooseLaying, chooseOther, useChoice } from "./choice";
import { fallsNow, shotAt } from "./falls";
import { sectionEnd } from "./keys";
import { layAt, type LayAt, type Way } from "./laying";

/** Actions of an editor on the sheet: the same by key, by button and by menu, and the same functions all the time. */
export function useSheetActions() {
  const commands = useCommands();
  return useMemo(() => actionsOf(commands), [commands]);
}

function actionsOf({ now, rate, operate, ofEdit }: ReturnType<typeof useCommands>) {
  const placementOf = (body: LayAt) =>
    data(api.POST("/api/v1/projects/{project_id}/edits/{edit_id}/placement", { params: ofEdit(), body }));
  const here = () => shotAt(now().edit, frameAt(clock.position(), rate));
  const playing = () => useClock.getState().playing;
  const laid = () => {
    const { clip: media, select } = useChoice.getState();
    return media ? { media, select } : null;
  };
  return {
    placementOf,
    cutHere: () => operate({ op: "cut", ...fallsNow(now().state, playing(), tappedAt()) }),
    switchTo: (angle: number) => {
      const { state } = now();
      const over = useChoice.getState().over;
      const until_s = over === "section" ? sectionEnd(state, tappedAt()) : over === "song" ? state.length / rate : null;
      if (playing()) return operate({ op: "switch", angle, until_s, ...fallsNow(state, true, tappedAt()) });
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
    /** Lay the chosen clip in a way; then go on to the next place and clip, where that is asked for. */
    lay: async (way: Way) => {
      const chosen = laid();
      if (!chosen) return undefined;
      const { by, lane, thenPlace } = useChoice.getState();
      const body = layAt({ ...chosen, way, by, lane }, now().state, playing(), tappedAt());
      chooseLaying({ way });
      // Over what is cut, and in place of a picture, it is looked at where it lies.
      const goesOn = thenPlace && way !== "over" && (way !== "into" || here()?.source.kind === "empty");
      const place = !playing() && goesOn ? await placementOf(body).catch(() => null) : null;
      const after = await operate(body);
      if (!after) return undefined;
      if (place) clock.seek((place.then + 0.001) / rate);
      if (useChoice.getState().thenNext) chooseOther(1);
      return after;
    },
  };
}
