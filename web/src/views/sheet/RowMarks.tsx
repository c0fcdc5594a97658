import { useState } from "react";
import { api, data, type MarkView, type SongView } from "../../api/client";
import { useCommands } from "../../api/project";
import { type Drag, follow } from "../../parts/drag";
import { classes } from "../../parts/classes";
import { markColour, marksIn } from "../../parts/marks";
import { barBeat, toSong } from "../../parts/format";
import { useChoice } from "./choice";
import { frameAt } from "../../player/timemap";
import { Reached } from "./Reached";
import { type Row, xOf } from "./geometry";
import { nearest, reachOf } from "./pulls";
import styles from "./RowMarks.module.css";

const cx = classes(styles);

interface Props {
  row: Row;
  song: SongView;
  kept: readonly number[][];
  width: number;
  dense: boolean;
}

/** Flags of the marks that are shown: dragged along the beats, with Shift by frames; Delete takes the chosen one off. */
export function RowMarks({ row, song, kept, width, dense }: Props) {
  const marks = marksIn(song, row.phrase.start_s, row.phrase.end_s);
  return marks.map((mark, k) => {
    const next = marks[k + 1];
    const room = (next ? xOf(row, next.at_s, width) : width) - xOf(row, mark.at_s, width);
    return (
      <Flag
        key={mark.id}
        {...{ mark, row, song, kept, width }}
        room={room}
        named={!dense && mark.name !== "" && room > 18}
      />
    );
  });
}

function Flag({
  mark,
  row,
  song,
  kept,
  width,
  room,
  named,
}: Omit<Props, "dense"> & { mark: MarkView; room: number; named: boolean }) {
  const { act, path, rate } = useCommands();
  const on = useChoice((c) => c.mark === mark.id);
  const [drag, setDrag] = useState<number | null>(null);
  const grab = (event: React.PointerEvent<HTMLElement>) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    useChoice.setState({ mark: mark.id, item: null });
    let to = mark.at_s;
    const move = ({ dx, event: e }: Drag) => {
      const at = mark.at_s + (dx / width) * row.seconds;
      const frame = Math.round(at * rate);
      const beat = nearest(frame, song.beat_frames);
      const near = !e.shiftKey && beat !== undefined && Math.abs(beat - frame) <= reachOf(rate);
      const on = near ? song.beats[song.beat_frames.indexOf(beat)] : undefined;
      to = Math.max(0, on ?? frame / rate);
      setDrag(to);
    };
    follow(event, move, (last) => {
      if (!last || Math.abs(to - mark.at_s) < 1e-6) return setDrag(null);
      const moved = api.PATCH("/api/v1/projects/{project_id}/song/marks/{mark_id}", {
        params: { path: { ...path.path, mark_id: mark.id } },
        body: { song_s: toSong(kept, to) },
      });
      void act(() => data(moved)).then(() => setDrag(null));
    });
  };
  return (
    <div
      className={cx(on ? "flag on" : "flag")}
      style={{
        left: xOf(row, drag ?? mark.at_s, width),
        ["--mark" as string]: markColour(song, mark),
        maxWidth: Math.max(12, room),
      }}
      onPointerDown={grab}
      title={`${mark.name || "Mark"}. Drag it along the beats, Shift for frames; Delete takes it off.`}
      data-testid="row-mark"
      data-at={mark.at_s}
    >
      <Reached
        kind="mark"
        id={mark.id}
        frame={frameAt(mark.at_s, rate)}
        on={on}
        label={`mark ${mark.name || "without a name"}, ${barBeat(song, mark.at_s)}`}
      />
      {named && <span>{mark.name}</span>}
    </div>
  );
}
