import type { SongView } from "../../api/client";
import { classes } from "../../parts/classes";
import { barBeat } from "../../parts/format";
import { clock } from "../../player/clock";
import { tempoTags } from "./tempi";
import type { View } from "./view";
import styles from "./TempoTags.module.css";

const cx = classes(styles);

/** In a song of several tempi, each at the bar from which it is kept; a click goes there. */
export function TempoTags({ song, view, width }: { song: SongView; view: View; width: number }) {
  return (
    <>
      {tempoTags(song, view, width).map((tag) => (
        <button
          type="button"
          key={tag.at}
          className={cx("tempo")}
          style={{ left: tag.x }}
          title={`From bar ${barBeat(song, tag.at + 1e-4)} on ${tag.bpm.toFixed(2)} beats a minute. Click to go there.`}
          onPointerDown={(e) => e.stopPropagation()}
          onClick={() => clock.seek(tag.at)}
          data-testid="tempo-tag"
        >
          {tag.bpm.toFixed(2)}
        </button>
      ))}
    </>
  );
}
