import { useQuery } from "@tanstack/react-query";
import { Button, Empty, InputNumber, Segmented, Select, Slider } from "antd";
import { useState } from "react";
import { api, data } from "../../api/client";
import { useProject } from "../../api/project";
import { FilePicker } from "../../parts/FilePicker";
import { clock, useClock } from "../../player/clock";
import { Score } from "./Score";

/** What the Song view shows and how far in. */
export interface Look {
  zoom: "song" | "section" | "8 bars" | "beat";
  sensitivity: number;
  mark: number | null;
}

/** The song: its grid, sections, hits and marks, and correcting them. */
export function SongPage() {
  const { id, state, path } = useProject();
  const [picking, setPicking] = useState(false);
  const [look, setLook] = useState<Look>({ zoom: "song", sensitivity: 0.5, mark: null });
  const song = state.song;
  const detail = useQuery({
    queryKey: ["detail", id, song?.media],
    queryFn: () => data(api.GET("/api/projects/{project_id}/song/detail", { params: path })),
    enabled: Boolean(song),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!song) {
    const file = state.media.find((m) => m.kind === "song");
    return (
      <div className="empty-page">
        <Empty
          description={
            file
              ? file.error || "Zembi is listening to the song. Beats, bars and sections appear here in a moment."
              : "Begin with the song: the master recording that everything is cut to."
          }
        >
          {(!file || file.error) && (
            <Button type="primary" onClick={() => setPicking(true)} data-testid="add-song">
              Add the song
            </Button>
          )}
        </Empty>
        <FilePicker kind="song" open={picking} close={() => setPicking(false)} />
      </div>
    );
  }
  return (
    <div className="split">
      <section className="score-side">
        <div className="tools">
          <span className="tools-label">Show</span>
          <Segmented
            value={look.zoom}
            onChange={(zoom) => setLook({ ...look, zoom: zoom as Look["zoom"] })}
            options={[{ label: "whole song", value: "song" }, "section", "8 bars", { label: "beat", value: "beat" }]}
          />
          <span className="soft grow">
            tap <b>T</b> while playing to mark · double-click a section to rename it
          </span>
          <ListeningGain />
        </div>
        <Score song={song} detail={detail.data} look={look} choose={(mark) => setLook({ ...look, mark })} />
      </section>
      <GridSide look={look} setLook={setLook} detail={detail.data} />
    </div>
  );
}

function ListeningGain() {
  const gain = useClock((c) => c.gain);
  return (
    <span className="gain">
      listening{" "}
      <Slider
        min={0}
        max={1}
        step={0.01}
        value={gain}
        onChange={(v) => clock.setGain(v)}
        tooltip={{ formatter: (v) => `${(20 * Math.log10(Math.max(0.001, v ?? 0))).toFixed(0)} dB` }}
      />
    </span>
  );
}

type GridAction = "halve" | "double" | "half beat" | "the one" | "metre" | "nudge" | "as found";

function GridSide({
  look,
  setLook,
  detail,
}: {
  look: Look;
  setLook: (l: Look) => void;
  detail: { hits: Record<string, { strength: number }[]> } | undefined;
}) {
  const { state, act, path, id } = useProject();
  const song = state.song;
  const [reach, setReach] = useState(120);
  const [to, setTo] = useState<"beat" | "half" | "hit">("beat");
  if (!song) return null;
  const correct = (action: GridAction, more: { at_s?: number; metre?: number; seconds?: number } = {}) =>
    act(() => data(api.POST("/api/projects/{project_id}/song/grid", { params: path, body: { action, ...more } })));
  const found = song.readings[0];
  const corrected = song.factor !== 1 || song.half_shift;
  const count = (band: string) => detail?.hits[band]?.filter((h) => h.strength >= 1 - look.sensitivity).length ?? 0;
  const tidy = () =>
    act(
      async () =>
        data(
          api.POST("/api/projects/{project_id}/song/marks/tidy", { params: path, body: { to, reach_s: reach / 1000 } }),
        ),
      "Marks tidied",
    );
  const clear = () =>
    act(() =>
      data(
        api.POST("/api/projects/{project_id}/song/marks/delete", {
          params: path,
          body: { ids: song.marks.map((m) => m.id) },
        }),
      ),
    );
  const remove = () =>
    look.mark !== null &&
    act(() =>
      data(
        api.POST("/api/projects/{project_id}/song/marks/delete", {
          params: { path: { project_id: id } },
          body: { ids: [look.mark as number] },
        }),
      ),
    );
  return (
    <aside className="side">
      <h2>The grid</h2>
      <div className="bpm" data-testid="bpm">
        {song.bpm.toFixed(2)}
      </div>
      <p className="soft">
        beats a minute, {song.steady ? "steady through the song" : "moving with the music"} · {song.metre}/4 ·{" "}
        {song.confidence >= 0.75 ? (
          `sure ${Math.round(100 * song.confidence)} %`
        ) : (
          <b className="doubt">unsure ({Math.round(100 * song.confidence)} %): check the one</b>
        )}
      </p>
      <div className="readings">
        <button type="button" className={corrected ? "reading" : "reading on"} onClick={() => correct("as found")}>
          <span>as found</span>
          <span>{found?.tempo_bpm.toFixed(2)}</span>
        </button>
        <button
          type="button"
          className={song.factor < 1 ? "reading on" : "reading"}
          onClick={() => correct("halve")}
          data-testid="halve"
        >
          <span>half as fast</span>
          <span>{(song.bpm / 2).toFixed(2)}</span>
        </button>
        <button
          type="button"
          className={song.factor > 1 ? "reading on" : "reading"}
          onClick={() => correct("double")}
          data-testid="double"
        >
          <span>twice as fast</span>
          <span>{(song.bpm * 2).toFixed(2)}</span>
        </button>
        <button
          type="button"
          className={song.half_shift ? "reading on" : "reading"}
          onClick={() => correct("half beat")}
        >
          <span>shifted by half a beat</span>
          <span>{song.bpm.toFixed(2)}</span>
        </button>
      </div>
      <div className="buttons">
        <Button onClick={() => correct("the one", { at_s: clock.position() })} data-testid="the-one">
          Beat at the playhead is the one
        </Button>
        <Button onClick={() => correct("nudge", { seconds: -0.005 })}>◂ 5 ms</Button>
        <Button onClick={() => correct("nudge", { seconds: 0.005 })}>5 ms ▸</Button>
        <Select
          value={song.metre}
          onChange={(metre) => correct("metre", { metre })}
          options={[2, 3, 4, 5, 6, 7].map((m) => ({ value: m, label: `${m} beats a bar` }))}
          aria-label="Beats in a bar"
        />
      </div>
      <h2>Sensitivity of hits</h2>
      <Slider
        min={0.1}
        max={0.9}
        step={0.01}
        value={look.sensitivity}
        onChange={(sensitivity) => setLook({ ...look, sensitivity })}
        tooltip={{ open: false }}
        aria-label="Sensitivity of hits"
      />
      <p className="soft mono">
        low {count("low")} · middle {count("mid")} · high {count("high")}
      </p>
      <h2>Marks</h2>
      <p className="soft">
        {song.marks.length
          ? `${song.marks.length} marks. Drag one to move it.`
          : "None yet: play, and tap T on the moments you want."}
      </p>
      <div className="buttons">
        <Button
          type={song.marks.length ? "primary" : "default"}
          disabled={!song.marks.length}
          onClick={tidy}
          data-testid="tidy"
        >
          Tidy {song.marks.length} to the {to === "half" ? "half-beat" : to}
        </Button>
        <Select
          value={to}
          onChange={setTo}
          options={[
            { value: "beat", label: "beat" },
            { value: "half", label: "half-beat" },
            { value: "hit", label: "hit" },
          ]}
          aria-label="Tidy to"
        />
        <InputNumber
          value={reach}
          min={10}
          max={1000}
          step={10}
          onChange={(v) => setReach(v ?? 120)}
          suffix="ms"
          aria-label="Reach"
          style={{ width: 92 }}
        />
        <Button disabled={look.mark === null} onClick={remove}>
          Delete mark
        </Button>
        <Button disabled={!song.marks.length} onClick={clear}>
          Delete all
        </Button>
      </div>
    </aside>
  );
}
