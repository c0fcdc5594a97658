import { itemsOn } from "../../api/lanes";
import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Modal, Progress, Radio } from "antd";
import { useState } from "react";
import { api, data, type MediaView } from "../../api/client";
import { isOpen, useJobs } from "../../api/jobs";
import { useEdit, useProject } from "../../api/project";
import { Collect } from "./Collect";
import { FilmSoFar } from "./FilmSoFar";
import { Findings } from "./Findings";
import { EmptyPage, GoToSong } from "../../parts/EmptyPage";
import { GoneFiles } from "../../parts/GoneFiles";
import { Replace } from "../../parts/Replace";
import { CONDITION, barBeat, minutes } from "../../parts/format";
import { useClock } from "../../player/clock";
import { OF_COLOUR } from "../../player/quick";
import { frameAt } from "../../player/timemap";
import { Notes } from "./notes/Notes";
import { Versions } from "./versions/Versions";
import styles from "./HandoffView.module.css";
import { classes } from "../../parts/classes";

const cx = classes(styles);

const FORMATS = [
  ["otio", "OpenTimelineIO", "shots, cutaways, song, with speeds and dissolves"],
  ["edl", "EDL, CMX 3600", "one video track of cuts and dissolves, frame for frame"],
  ["csv", "Table, CSV", "each stretch with its place against the grid"],
  ["cubes", "Colour, .cube", "a table for each different colour, as both lists name them"],
  ["vtt", "Sections and marks, WebVTT", ""],
  ["midi", "Tempo map, MIDI", "for a music program"],
  ["titles.srt", "Titles, SubRip", "the words and when they are seen"],
  ["titles.vtt", "Titles, WebVTT", ""],
  ["titles.lrc", "Titles, LRC", "when they begin"],
] as const;

/** Checks, the rendered film, and files for other programs. */
export function HandoffView() {
  const { state } = useProject();
  const edit = useEdit();
  if (!state.song || !edit)
    return (
      <EmptyPage now="handoff" title="There is nothing to hand off yet. Add the song first.">
        <GoToSong />
      </EmptyPage>
    );
  const coloured = edit.programme.layers.some((spans) =>
    spans.some((s) => s.chain?.some(({ step }) => OF_COLOUR.has(step))),
  );
  const titled = itemsOn(edit, "titles").length > 0;
  const offline = state.media.filter((m) => m.condition !== "ok");
  return (
    <div className={cx("handoff")}>
      <section>
        <FilmSoFar edit={edit} />
        <h2>Checks</h2>
        <GoneFiles />
        {offline.length > 0 && <Offline files={offline} />}
        <Findings />
      </section>
      <section>
        <Versions />
        <Notes />
        <h2>The film</h2>
        <RenderPanel />
        <Collect />
        <h2>For other programs</h2>
        <ul className={cx("exports")}>
          {FORMATS.filter(([kind]) => (titled || !kind.startsWith("titles.")) && (coloured || kind !== "cubes")).map(
            ([kind, name, what]) => (
              <li key={kind}>
                <a
                  href={`/api/v1/projects/${state.id}/edits/${edit.id}/export/${kind}`}
                  download
                  data-testid={`export-${kind}`}
                >
                  {name}
                </a>
                <span className="soft">{what}</span>
                {(kind === "otio" || kind === "edl") && <NotSeen kind={kind} edit={edit.id} version={edit.version} />}
              </li>
            ),
          )}
        </ul>
      </section>
    </div>
  );
}

/** Parts of the edit that a file does not carry to other programs. */
function NotSeen({ kind, edit, version }: { kind: "otio" | "edl"; edit: number; version: number }) {
  const { id } = useProject();
  const report = useQuery({
    queryKey: ["report", id, edit, kind, version],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/export/{kind}/report", {
          params: { path: { project_id: id, edit_id: edit, kind } },
        }),
      ),
  });
  if (!report.data?.length) return null;
  return (
    <details className={cx("not-seen")} data-testid={`report-${kind}`}>
      <summary>what another program does not see of it ({report.data.length})</summary>
      <ul>
        {report.data.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
    </details>
  );
}

function Offline({ files }: { files: MediaView[] }) {
  const { act, id } = useProject();
  const prepareAgain = (f: MediaView) => {
    const params = { path: { project_id: id, media_id: f.id } };
    return act(
      () => data(api.POST("/api/v1/projects/{project_id}/media/{media_id}/preparations", { params })),
      `${f.name} is prepared again`,
    );
  };
  const [chosen, setChosen] = useState<MediaView | null>(null);
  const [where, setWhere] = useState("");
  const relink = async () => {
    if (!chosen) return;
    const params = { path: { project_id: id, media_id: chosen.id } };
    if (
      await act(
        () => data(api.PUT("/api/v1/projects/{project_id}/media/{media_id}/path", { params, body: { path: where } })),
        `${chosen.name} is linked again`,
      )
    )
      setChosen(null);
  };
  return (
    <>
      {files.map((f) => (
        <Alert
          key={f.id}
          type="warning"
          showIcon
          className={cx("offline")}
          title={`${f.name} is ${CONDITION[f.condition]}`}
          description={`${f.trouble} It was in ${f.folder}. Its passes and shots are kept.`}
          action={
            <>
              {f.condition === "changed" && (
                <Button size="small" onClick={() => void prepareAgain(f)}>
                  Use the new file
                </Button>
              )}
              <Button
                size="small"
                onClick={() => {
                  setChosen(f);
                  setWhere(`${f.folder}/${f.file}`);
                }}
              >
                Relink…
              </Button>
              {(f.kind === "take" || f.kind === "broll") && <Replace clip={f} />}
            </>
          }
        />
      ))}
      <Modal
        title={`Relink ${chosen?.name ?? ""}`}
        open={chosen !== null}
        onCancel={() => setChosen(null)}
        onOk={relink}
        okText="Relink"
      >
        <p>Where the same file is now, inside an allowed media folder:</p>
        <input
          className={cx("path")}
          value={where}
          onChange={(e) => setWhere(e.target.value)}
          aria-label="New place of the file"
        />
      </Modal>
    </>
  );
}

function RenderPanel() {
  const { state, act, ofEdit, rate, id } = useProject();
  const { jobs } = useJobs();
  const loop = useClock((c) => c.loop);
  const [part, setPart] = useState<"whole" | "loop">("whole");
  const renders = jobs.filter((j) => j.kind === "render");
  const edit = useEdit();
  const around = (edit?.lead ?? 0) + (edit?.tail ?? 0);
  const range =
    part === "loop" && loop
      ? { first: frameAt(loop[0], rate), end: Math.min(state.length + (edit?.tail ?? 0), frameAt(loop[1], rate)) }
      : { first: null, end: null };
  const start = () =>
    act(() =>
      data(api.POST("/api/v1/projects/{project_id}/edits/{edit_id}/renders", { params: ofEdit(), body: range })),
    );
  const stop = (job: number) =>
    act(() =>
      data(
        api.DELETE("/api/v1/projects/{project_id}/jobs/{job_id}", {
          params: { path: { project_id: id, job_id: job } },
        }),
      ),
    );
  return (
    <div className={cx("render")} data-testid="render-panel">
      <p className="soft">
        MP4 · H.264 and AAC · {state.width}×{state.height} · {state.rate_label} f/s · the song's own sound, and only
        that
      </p>
      <Radio.Group value={loop ? part : "whole"} onChange={(e) => setPart(e.target.value)}>
        <Radio value="whole">
          {around ? "whole film" : "whole song"}, {minutes((state.song?.seconds ?? 0) + around / rate)}
        </Radio>
        <Radio value="loop" disabled={!loop}>
          loop range
          {loop && state.song
            ? `, ${barBeat(state.song, loop[0])} to ${barBeat(state.song, loop[1])}`
            : " (set one with I and O)"}
        </Radio>
      </Radio.Group>
      <div className="buttons">
        <Button type="primary" onClick={start} data-testid="render">
          Render the film
        </Button>
      </div>
      <ul className={cx("render-list")}>
        {renders.map((job) => (
          <li key={job.id} data-testid="render-job" data-state={job.state}>
            <span>{job.title.replace("Rendering ", "")}</span>
            {isOpen(job) ? (
              <>
                <Progress aria-label="Rendering" percent={Math.round(100 * job.progress)} size="small" />
                <span className="soft">{job.message || "waiting"}</span>
                <Button size="small" onClick={() => stop(job.id)}>
                  Stop
                </Button>
              </>
            ) : job.state === "done" ? (
              <a href={`/api/v1/projects/${id}/handoff/renders/${job.id}`} download data-testid="download">
                Download ({(Number(job.result.bytes) / 1e6).toFixed(1)} MB)
              </a>
            ) : (
              <span className={job.state === "failed" ? "bad" : "soft"}>{job.error || "stopped"}</span>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
