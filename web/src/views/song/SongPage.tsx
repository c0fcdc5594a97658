import { useQuery } from "@tanstack/react-query";
import { Button, Segmented } from "antd";
import { useCallback, useEffect, useState } from "react";
import { api, data, type SongDetail } from "../../api/client";
import { useJobs, wasStopped } from "../../api/jobs";
import { useProject } from "../../api/project";
import { EmptyPage } from "../../parts/EmptyPage";
import { clock } from "../../player/clock";
import { Listening } from "./Listening";
import { FilePicker } from "../../parts/FilePicker";
import { type Correction, type Follow, useSongActions } from "./actions";
import { FilmPanel } from "./FilmPanel";
import { GridPanel } from "./GridPanel";
import { LyricsPanel } from "./LyricsPanel";
import { MarksPanel } from "./MarksPanel";
import { strongHits } from "./paint";
import { Score } from "./Score";
import type { Look, Zoom } from "./view";
import view from "./song.module.css";
import own from "./SongPage.module.css";
import { classes } from "../../parts/classes";

const cx = classes(view, own);

const HEARING = "Zembi is listening to the song. Beats, bars and sections appear here in a moment.";
const NOT_HEARD = "Listening to the song was stopped. Beats, bars and sections appear here once it is heard.";
const NO_GHOSTS: ReadonlyMap<number, number> = new Map();
const PANELS = ["Grid", "Marks", "Lyrics", "Film"] as const;

/** Number of cuts of all edits that could be brought along. */
const movesOf = (follow: Follow) => follow.edits.reduce((all, e) => all + e.moves.length, 0);

/** Hits of the chosen kinds over the song, each kind by its own sound, as strong and more as are shown. */
function useHeardHits(detail: SongDetail | undefined, { heard, sensitivities }: Look): void {
  useEffect(() => {
    const hits = heard.flatMap((kind) =>
      strongHits(detail, kind, sensitivities).map((h) => ({ at: h.song_s, down: false, kind })),
    );
    clock.setHits(hits);
    return () => clock.setHits([]);
  }, [detail, heard, sensitivities]);
}

/** The song: its grid, sections, marks, lyrics and cutdown, and correcting them. */
export function SongPage() {
  const { id, state, path } = useProject();
  const [picking, setPicking] = useState(false);
  const [panel, setPanel] = useState<(typeof PANELS)[number]>("Grid");
  const [look, setLook] = useState<Look>({
    zoom: "song",
    sensitivities: state.sensitivities,
    heard: [],
    mark: null,
    ghosts: NO_GHOSTS,
  });
  const [follow, setFollow] = useState<Follow | null>(null);
  const actions = useSongActions();
  const song = state.song;
  const detail = useQuery({
    queryKey: ["detail", id, song?.media],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/song/detail", { params: path })),
    enabled: Boolean(song),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const correct = useCallback(
    (correction: Correction) => {
      void actions.grid(correction).then((answer) => setFollow(answer?.edits.length ? answer : null));
    },
    [actions],
  );
  const change = useCallback((more: Partial<Look>) => setLook((now) => ({ ...now, ...more })), []);
  useHeardHits(detail.data, look);
  const stopped = useJobs((j) => wasStopped(j.jobs));
  if (!song) {
    const file = state.media.find((m) => m.kind === "song");
    return (
      <>
        <EmptyPage
          now="song"
          title={
            file
              ? file.error || (stopped ? NOT_HEARD : HEARING)
              : "Begin with the song: the master recording that everything is cut to."
          }
        >
          {(!file || file.error) && (
            <Button type="primary" onClick={() => setPicking(true)} data-testid="add-song">
              Add the song
            </Button>
          )}
        </EmptyPage>
        {file && !file.error && <Listening media={file.id} />}
        <FilePicker kind="song" open={picking} close={() => setPicking(false)} />
      </>
    );
  }
  return (
    <div className={cx("split")}>
      <section className={cx("score-side")}>
        <div className="tools">
          <span className="tools-label">Show</span>
          <Segmented
            value={look.zoom}
            onChange={(zoom) => change({ zoom: zoom as Zoom })}
            options={[
              { label: "whole song", value: "song" },
              "section",
              "8 bars",
              { label: "beat", value: "beat" },
              { label: "samples", value: "sample" },
            ]}
          />
          <span className="soft grow">wheel or + − to zoom · Shift-drag a loop range</span>
        </div>
        <Score
          song={song}
          detail={detail.data}
          look={look}
          choose={(mark) => change({ mark })}
          change={change}
          actions={actions}
          correct={correct}
        />
      </section>
      <aside className={cx("side song-side")}>
        <Segmented
          block
          value={panel}
          onChange={(v) => setPanel(v as (typeof PANELS)[number])}
          options={[...PANELS]}
          data-testid="song-panels"
        />
        {follow && (
          <div className={cx("offer")} data-testid="follow-offer">
            <b>
              {movesOf(follow)} {movesOf(follow) === 1 ? "cut was" : "cuts were"} on the grid.
            </b>{" "}
            The grid moved by up to {follow.farthest} {follow.farthest === 1 ? "frame" : "frames"} there; no cut has.
            <div className="buttons">
              <Button
                type="primary"
                size="small"
                onClick={() => void actions.bringAlong(follow.edits).then(() => setFollow(null))}
                data-testid="bring-along"
              >
                Bring them along
              </Button>
              <Button size="small" onClick={() => setFollow(null)}>
                Leave them
              </Button>
            </div>
          </div>
        )}
        {panel === "Grid" && (
          <GridPanel song={song} detail={detail.data} look={look} change={change} correct={correct} />
        )}
        {panel === "Marks" && <MarksPanel song={song} look={look} change={change} actions={actions} />}
        {panel === "Lyrics" && <LyricsPanel song={song} actions={actions} />}
        {panel === "Film" && <FilmPanel song={song} actions={actions} />}
      </aside>
    </div>
  );
}
