import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo } from "react";
import { useParams } from "react-router";
import { derivedUrl } from "../api/client";
import { ProjectProvider, useEdit, useProject, WholeSong } from "../api/project";
import { useFollow } from "../parts/screens";
import { clock } from "../player/clock";
import { Picture } from "../player/Picture";
import { useWorkingSong } from "./Shell";
import { classes } from "../parts/classes";
import styles from "./Screen.module.css";

const cx = classes(styles);

/** The programme alone, for a second window: it follows the window that is worked in. */
export function Screen() {
  const { id = "" } = useParams();
  return (
    <ProjectProvider key={id} id={id} waiting={(error) => <p className={cx("word")}>{error ?? "Opening"}</p>}>
      <WholeSong on={false}>
        <Programme />
      </WholeSong>
    </ProjectProvider>
  );
}

function Programme() {
  const { id, state, rate } = useProject();
  const edit = useEdit();
  const cache = useQueryClient();
  const layers = useMemo(() => edit?.programme.layers ?? [], [edit]);
  const { song } = state;
  useEffect(() => {
    if (song) void clock.load(derivedUrl(id, song.media, "song.flac"), song.seconds).catch(() => undefined);
  }, [id, song?.media, song?.seconds]);
  useWorkingSong("sheet");
  useFollow(
    id,
    useCallback(() => void cache.invalidateQueries(), [cache]),
  );
  useEffect(() => {
    document.title = `${state.name} · programme`;
  }, [state.name]);
  return (
    <main
      className={cx("screen")}
      style={{ ["--shape" as string]: state.width / state.height }}
      onDoubleClick={() => void document.documentElement.requestFullscreen().catch(() => undefined)}
      title="Double click for the full screen"
    >
      <Picture
        project={id}
        layers={layers}
        rate={rate}
        size="programme"
        length={state.length}
        label="Programme"
        id="programme"
      />
    </main>
  );
}
