import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { create } from "zustand";
import type { EditView, Schemas } from "../../api/client";
import { itemsOn, shotsOf } from "../../api/lanes";
import { useEdit, useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { Still } from "../../parts/Still";
import { clock, useClock } from "../../player/clock";
import { frameAt } from "../../player/timemap";
import { useSheetActions } from "./actions";
import { useChoice } from "./choice";
import { shotAt } from "./falls";
import { type Row, xOf } from "./geometry";
import styles from "./Ghost.module.css";
import { type LayAt, layAt } from "./laying";
import { endsWithProject } from "../../parts/ending";

const cx = classes(styles);

/** The place at which the chosen clip would come, as the core says; `words` where it would not. */
interface GhostState {
  body: LayAt | null;
  place: Schemas["Placement"] | null;
  words: string;
  name: string;
}

const NONE: GhostState = { body: null, place: null, words: "", name: "" };
export const useGhost = create<GhostState>(() => NONE);
endsWithProject(() => useGhost.setState(useGhost.getInitialState(), true));

/** Pause in milliseconds before it is asked where a clip would come: the playhead may be on its way. */
const PAUSE_MS = 40;

/** Asks where the chosen clip would come while the playhead rests, or the one that is dragged. Draws nothing. */
export function GhostSource() {
  const { id, state, rate } = useProject();
  const edit = useEdit();
  const actions = useSheetActions();
  const choice = useChoice();
  const playing = useClock((c) => c.playing);
  const frame = useRestingFrame(rate);
  const { clip, select, by, lane, bench, drawer, dragged } = choice;
  // Beside the bench it is shown everywhere; without, where something is missing: a picture is not drawn over.
  const shown = clip && !playing && (bench || (drawer > 0 && shotAt(edit, frame)?.source.kind === "empty"));
  const body =
    dragged ??
    (shown
      ? layAt({ media: clip, select, way: choice.tried ?? choice.way, by, lane }, state, false, frame / rate)
      : null);
  const found = useQuery({
    queryKey: ["placement", id, edit?.id, edit?.version, body],
    queryFn: () => actions.placementOf(body as LayAt),
    enabled: body !== null && edit !== undefined,
    retry: false,
    gcTime: 10_000,
  });
  const { data: place, error } = found;
  const name =
    state.selects.find((s) => s.id === body?.select)?.name ?? state.media.find((m) => m.id === body?.media)?.name ?? "";
  useEffect(() => {
    if (!body || (place && lies(edit, body, place))) useGhost.setState(NONE);
    else if (place) useGhost.setState({ body, place, words: place.why, name });
    else if (error) useGhost.setState({ body, place: null, words: error.message, name });
  }, [body, place, error, name, edit]);
  useEffect(() => () => useGhost.setState(NONE), []);
  return null;
}

/** Whether just that lies there already. */
function lies(edit: EditView | undefined, { media }: LayAt, { first, end, in_s }: Schemas["Placement"]): boolean {
  return [...shotsOf(edit), ...itemsOn(edit, "over")].some(
    (i) => i.start === first && i.end === end && i.source.media === media && Math.abs(i.source.in_s - in_s) < 1e-6,
  );
}

/** The frame on which the playhead has come to rest. */
function useRestingFrame(rate: number): number {
  const [frame, setFrame] = useState(() => frameAt(clock.position(), rate));
  useEffect(() => {
    let waiting = 0;
    const stop = clock.subscribe((at) => {
      if (useClock.getState().playing) return;
      window.clearTimeout(waiting);
      waiting = window.setTimeout(() => setFrame(frameAt(at, rate)), PAUSE_MS);
    });
    return () => {
      stop();
      window.clearTimeout(waiting);
    };
  }, [rate]);
  return frame;
}

/** The pale picture of what would be laid, as far as it lies in a row. */
export function RowGhost({ row, rate, width }: { row: Row; rate: number; width: number }) {
  const { first_frame: a, end_frame: b } = row.phrase;
  const ghost = useGhost((g) => (g.place && g.place.first < b && g.place.end > a ? g : null));
  if (!ghost?.place || !ghost.body) return null;
  const { first, end, missing, in_s } = ghost.place;
  const left = Math.max(0, xOf(row, Math.max(first, a) / rate, width));
  const right = Math.min(width, xOf(row, Math.min(end, b) / rate, width));
  const begins = first >= a;
  const room = right - left;
  return (
    <div
      className={cx(`ghost${ghost.body.way === "over" ? " over" : ""}${ghost.words ? " short" : ""}`)}
      style={{ left, width: room }}
      data-testid="ghost"
      data-first={first}
      data-end={end}
    >
      {begins && room > 30 && <Still media={ghost.body.media} at={in_s} width={Math.min(66, room)} inFilm />}
      {begins && room > 96 && (
        <span className={cx("words")}>
          <b>
            {end - first} f · {ghost.name}
          </b>
          {missing > 0 && (
            <span className="bad">
              {missing} f short {ghost.body.by === "moment" ? "about its moment" : "at its end"}
            </span>
          )}
        </span>
      )}
    </div>
  );
}
