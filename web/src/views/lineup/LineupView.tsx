import { Button, Empty, Segmented } from "antd";
import { useMemo, useState } from "react";
import { api, data, type PassView, type TakeView } from "../../api/client";
import { useProject } from "../../api/project";
import { FilePicker } from "../../parts/FilePicker";
import { signed } from "../../parts/format";
import { Still } from "../../parts/Still";
import { hueOf } from "../../theme";
import { Bench } from "./Bench";

/** Status words with their shapes: never colour alone. */
export const STATUS: Record<string, { word: string; shape: string; tone: string }> = {
  locked: { word: "locked", shape: "●", tone: "good" },
  choose: { word: "choose", shape: "◐", tone: "doubt" },
  unmatched: { word: "no match", shape: "○", tone: "bad" },
  silent: { word: "no sound", shape: "∅", tone: "soft" },
  failed: { word: "unreadable", shape: "✕", tone: "bad" },
  waiting: { word: "waiting", shape: "…", tone: "soft" },
};
const DOUBT = ["choose", "unmatched", "silent", "failed", "waiting", "locked"];

/** Every take and where it lies in the song, with a bench for the chosen one. */
export function LineupView() {
  const { state } = useProject();
  const [order, setOrder] = useState<"doubtful" | "camera" | "place">("doubtful");
  const [chosen, setChosen] = useState<string | null>(null);
  const [picking, setPicking] = useState(false);
  const camera = (id: string) => state.media.find((m) => m.id === id)?.camera ?? "";
  const takes = useMemo(() => {
    const list = [...state.takes];
    const place = (t: TakeView) => Math.min(Number.POSITIVE_INFINITY, ...t.passes.map((p) => p.song_start_s));
    if (order === "doubtful") list.sort((a, b) => DOUBT.indexOf(a.status) - DOUBT.indexOf(b.status));
    if (order === "camera") list.sort((a, b) => camera(a.media).localeCompare(camera(b.media)));
    if (order === "place") list.sort((a, b) => place(a) - place(b));
    return list;
  }, [state, order]);
  const take = takes.find((t) => t.media === chosen) ?? takes[0];
  if (!state.song)
    return (
      <div className="empty-page">
        <Empty description="Takes are lined up to the song. Add the song first, on the Song view." />
      </div>
    );
  return (
    <div className="lineup">
      <section className="takes">
        <div className="tools">
          <b>{takes.length} takes</b>
          <Segmented
            size="small"
            value={order}
            onChange={(v) => setOrder(v as typeof order)}
            options={[
              { label: "doubtful first", value: "doubtful" },
              { label: "camera", value: "camera" },
              { label: "song place", value: "place" },
            ]}
          />
          <span className="grow" />
          <Button onClick={() => setPicking(true)} data-testid="add-takes">
            Add takes…
          </Button>
        </div>
        {!takes.length && (
          <Empty description="No takes yet. Add every recording of the performance: Zembi finds where each one lies in the song." />
        )}
        <div className="take-list">
          {takes.map((t) => (
            <TakeRow key={t.media} take={t} on={t.media === take?.media} choose={() => setChosen(t.media)} />
          ))}
        </div>
      </section>
      {take ? <Bench key={take.media} take={take} /> : <div />}
      <FilePicker kind="take" open={picking} close={() => setPicking(false)} />
    </div>
  );
}

function TakeRow({ take, on, choose }: { take: TakeView; on: boolean; choose: () => void }) {
  const { state, act, id } = useProject();
  const file = state.media.find((m) => m.id === take.media);
  const status = STATUS[take.status] ?? STATUS.waiting;
  const seconds = state.song?.seconds ?? 1;
  const angle = (p: PassView) => state.angles.find((a) => a.id === p.angle);
  const first = take.passes[0];
  if (!file || !status) return null;
  const again = (event: React.MouseEvent) => {
    event.stopPropagation();
    const params = { path: { project_id: id, media_id: take.media } };
    void act(async () =>
      data(
        take.status === "failed"
          ? api.POST("/api/projects/{project_id}/media/{media_id}/prepare", { params })
          : api.POST("/api/projects/{project_id}/media/{media_id}/align", { params }),
      ),
    );
  };
  return (
    <div
      className={on ? "take on" : "take"}
      onClick={choose}
      onKeyDown={(e) => e.key === "Enter" && choose()}
      role="button"
      tabIndex={0}
      data-testid={`take-${file.name}`}
    >
      <Still media={take.media} at={file.seconds / 2} width={86} />
      <div className="take-middle">
        <div className="take-name">
          <b>{file.name}</b>{" "}
          <span className="soft">
            {file.camera}
            {take.passes.length > 1 ? ` · ${take.passes.length} passes` : ""}
          </span>
        </div>
        <div className="take-map">
          {take.passes.flatMap((p) => {
            const length = p.song_end_s - p.song_start_s;
            const spots =
              p.status === "choose" && p.places.length ? p.places.map((x) => x.song_start_s) : [p.song_start_s];
            return spots.map((s) => (
              <span
                key={`${p.id} ${s}`}
                className={p.status === "locked" ? "spot" : "spot open"}
                style={{
                  left: `${(100 * Math.max(0, s)) / seconds}%`,
                  width: `${(100 * length) / seconds}%`,
                  ["--hue" as string]: hueOf(angle(p)?.hue ?? 6),
                }}
              />
            ));
          })}
        </div>
        <div className="soft mono take-facts">
          {file.offline ? (
            <span className="bad">offline</span>
          ) : take.status === "failed" ? (
            <span className="bad">{file.error}</span>
          ) : first ? (
            facts(first)
          ) : take.status === "waiting" ? (
            "in the queue"
          ) : (
            `${file.seconds.toFixed(1)} s`
          )}
        </div>
      </div>
      <div className="take-status">
        <span className={status.tone} data-testid="status">
          <span aria-hidden>{status.shape}</span> {status.word}
        </span>
        {take.passes.length > 0 && (
          <span className="mono">
            {take.status === "choose" && first?.places.length
              ? `${first.places.length} places`
              : `${(100 * take.confidence).toFixed(1)} %`}
          </span>
        )}
        {(take.status === "failed" || take.status === "unmatched") && (
          <button type="button" className="link" onClick={again}>
            again
          </button>
        )}
      </div>
    </div>
  );
}

function facts(p: PassView): string {
  const at = `at ${signed(p.song_start_s - p.take_start_s, 3)} s`;
  const ppm = Math.abs(p.drift_ppm) >= 0.5 ? ` · ${signed(p.drift_ppm, 0)} ppm` : "";
  const rate = Math.abs(p.rate - 1) > 0.01 ? ` · ${p.rate.toFixed(3)}×` : "";
  return at + (rate || ppm) + (p.origin === "by hand" ? " · by hand" : "");
}
