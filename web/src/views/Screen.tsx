import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo } from "react";
import { useParams } from "react-router";
import { ProjectProvider, useAddresses, useEdit, useProject, WholeSong } from "../api/project";
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
  const { id, state } = useProject();
  const edit = useEdit();
  const cache = useQueryClient();
  const layers = useMemo(() => edit?.programme.layers ?? [], [edit]);
  const { song } = state;
  const sound = useAddresses()(song?.media ?? "", "song.flac");
  const seconds = song?.seconds;
  useEffect(() => {
    if (sound && seconds !== undefined) void clock.load(sound, seconds);
  }, [sound, seconds]);
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
      <Picture layers={layers} size="programme" label="Programme" id="programme" />
    </main>
  );
}
