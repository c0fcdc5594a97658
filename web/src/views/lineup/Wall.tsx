import { useMemo } from "react";
import { useProject } from "../../api/project";
import { signed } from "../../parts/format";
import { spanAt } from "../../player/layers";
import { useFrame } from "../../player/useFrame";
import { Picture } from "../../player/Picture";
import { STATUS, sureness, takeSpans } from "./lineup";
import view from "./lineup.module.css";
import own from "./Wall.module.css";
import { classes } from "../../parts/classes";

const cx = classes(view, own);

/** As many pictures as a page can keep up with. */
const MOST = 12;

/** Every take that has picture at the playhead, together: all mouths move as one, or one does not. */
export function Wall({ choose }: { choose: (media: string) => void }) {
  const { state, rate } = useProject();
  const takes = useMemo(
    () =>
      state.takes
        .filter((t) => t.passes.some((p) => p.status === "locked"))
        .map((t) => ({ take: t, layers: [takeSpans(t, "locked")] })),
    [state.takes],
  );
  const frame = useFrame(rate, 120);
  const here = takes.filter((t) => spanAt(t.layers[0] ?? [], frame)).slice(0, MOST);
  const across = here.length > 6 ? 4 : here.length > 4 ? 3 : here.length > 1 ? 2 : 1;
  return (
    <section className={cx("bench")} data-testid="wall">
      <div className={cx("bench-head")}>
        <h2>{here.length === 1 ? "One take" : `${here.length} takes`} at the playhead</h2>
        <span className="soft">
          space plays the song; a mouth that is late or early stands out. Click it for its bench.
        </span>
      </div>
      {!here.length && (
        <p className={cx("bench-note")}>No locked take has picture here. Move the playhead on the song strip above.</p>
      )}
      <div className={cx("lip-wall")} style={{ gridTemplateColumns: `repeat(${across}, minmax(0, 1fr))` }}>
        {here.map(({ take, layers }) => {
          const file = state.media.find((m) => m.id === take.media);
          const pass = take.passes.find((p) => frame / rate >= p.song_start_s && frame / rate < p.song_end_s);
          return (
            <button key={take.media} type="button" className={cx("lip")} onClick={() => choose(take.media)}>
              <Picture layers={layers} size="wall" label={`${file?.name} at the playhead`} id={`lip-${file?.name}`} />
              <span>
                <b>{file?.name}</b> <span className="soft">{file?.camera}</span>
              </span>
              <span className="mono soft">
                {pass && pass.origin === "by hand"
                  ? `by hand, ${signed(pass.moved_ms, 1)} ms`
                  : `${STATUS.locked?.word}, ${sureness(pass?.confidence ?? 0)}`}
              </span>
            </button>
          );
        })}
      </div>
    </section>
  );
}
