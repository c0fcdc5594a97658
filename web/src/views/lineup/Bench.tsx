import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Segmented, Slider, Space } from "antd";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, data, derivedUrl, type PassView, type TakeView } from "../../api/client";
import { useProject } from "../../api/project";
import { Canvas, useRoom } from "../../parts/Canvas";
import { ClipFrame } from "../../parts/Clips";
import { barBeat, signed } from "../../parts/format";
import { clock, type Listening } from "../../player/clock";
import { Picture } from "../../player/Picture";
import { colour, hueOf } from "../../theme";
import { STATUS } from "./LineupView";

const WINDOW_S = 1.6;

interface Pair {
  take: number;
  song: number;
}

/** Where one take is proved or settled: song over take at head, middle and tail, the places it fits, and by hand. */
export function Bench({ take }: { take: TakeView }) {
  const { id, state, act, rate } = useProject();
  const file = state.media.find((m) => m.id === take.media);
  const [which, setWhich] = useState(0);
  const [listening, setListening] = useState<Listening | null>(null);
  const [marking, setMarking] = useState(false);
  const pass = take.passes[Math.min(which, take.passes.length - 1)];
  const status = STATUS[take.status] ?? STATUS.waiting;

  useCompanion(take.media, pass, listening);

  const boxes = useRef<HTMLDivElement>(null);
  const tall = useRoom(boxes, 150, pass && pass.places.length > 1 ? 320 : 260);
  const place = (
    action: "choose" | "accept" | "nudge" | "revert" | "unlock",
    more: { song_start_s?: number; seconds?: number } = {},
  ) =>
    pass &&
    act(() =>
      data(
        api.POST("/api/projects/{project_id}/lineup/passes/{pass_id}", {
          params: { path: { project_id: id, pass_id: pass.id } },
          body: { action, ...more },
        }),
      ),
    );
  const hear = (how: Listening | null, at?: number) => {
    setListening(how);
    if (how && pass) {
      clock.seek(Math.max(0, at ?? pass.song_start_s));
      setTimeout(() => clock.play(), 60);
    }
  };
  const spans = useMemo(
    () =>
      take.passes
        .map((p) => ({
          start: Math.max(0, Math.round(p.song_start_s * rate)),
          end: Math.round(p.song_end_s * rate),
          media: take.media,
          in_s: p.take_start_s + (Math.max(0, Math.round(p.song_start_s * rate)) / rate - p.song_start_s) / p.rate,
          speed: 1 / p.rate,
          label: "",
        }))
        .sort((a, b) => a.start - b.start),
    [take, rate],
  );
  if (!file || !status) return <section className="bench" />;
  return (
    <section className="bench" data-testid="bench">
      <div className="bench-head">
        <h2>{file.name}</h2>
        <span className="soft">
          {file.camera} · {file.seconds.toFixed(1)} s · {file.rate} f/s{file.variable ? " variable" : ""}
          {file.rotation ? ` · turned ${file.rotation}°` : ""}
          {file.timecode ? ` · TC ${file.timecode}` : ""}
        </span>
        <span className="grow" />
        {take.passes.length > 1 && (
          <Segmented
            size="small"
            value={which}
            onChange={(v) => setWhich(Number(v))}
            options={take.passes.map((_, i) => ({ label: `pass ${i + 1}`, value: i }))}
          />
        )}
        <b className={status.tone}>
          {status.shape} {verdict(take, pass)}
        </b>
      </div>
      {file.offline && (
        <Alert
          type="warning"
          showIcon
          title={`${file.file} is offline: it is not in ${file.folder} any more. Its place and shots are kept; put it back or relink it on the Hand-off view.`}
        />
      )}
      {pass ? (
        <>
          <div ref={boxes} />
          <Windows
            tall={tall}
            pass={pass}
            media={take.media}
            hue={state.angles.find((a) => a.id === pass.angle)?.hue ?? 2}
          />
          <div className="bench-tools">
            <Segmented
              size="small"
              value={listening ?? "song"}
              onChange={(v) => hear(v === "song" ? null : (v as Listening))}
              options={[
                { label: "song alone", value: "song" },
                { label: "song left, take right", value: "left and right" },
                "mixed",
                { label: "swap each beat", value: "in turn" },
              ]}
            />
            <span className="grow" />
            <span className="mono" title="Moved from where it was found">
              {signed(pass.moved_ms, 1)} ms
            </span>
            <Space.Compact>
              <Button
                size="small"
                onClick={() => place("nudge", { seconds: -1 / rate })}
                data-testid="nudge-frame-back"
              >
                ◂ frame
              </Button>
              <Button size="small" onClick={() => place("nudge", { seconds: -0.001 })}>
                ◂ 1 ms
              </Button>
              <Button size="small" onClick={() => place("nudge", { seconds: 0.001 })} data-testid="nudge-ms">
                1 ms ▸
              </Button>
              <Button size="small" onClick={() => place("nudge", { seconds: 1 / rate })}>
                frame ▸
              </Button>
            </Space.Compact>
          </div>
        </>
      ) : (
        <p className="bench-note">{without(take.status, file.error)}</p>
      )}
      <div className="bench-lower">
        <div className="bench-places">
          {pass && file.has_sound && <MatchStrip pass={pass} />}
          {pass && pass.places.length > 1 && (
            <div className="places">
              {pass.places.map((p, i) => {
                const here = Math.abs(p.song_start_s - pass.song_start_s) < 0.02 && pass.status === "locked";
                return (
                  <div key={p.song_start_s} className="place">
                    <b>
                      {i + 1} {p.section}
                      {state.song ? ` · ${barBeat(state.song, Math.max(0, p.song_start_s))}` : ""}
                    </b>
                    <span className="soft">{p.score.toFixed(2)} of the best</span>
                    <div className="buttons">
                      <Button
                        size="small"
                        type={i === 0 && pass.status === "choose" ? "primary" : "default"}
                        disabled={here}
                        onClick={() => place("choose", { song_start_s: p.song_start_s })}
                        data-testid={`lock-place-${i + 1}`}
                      >
                        {here ? "Locked here" : "Lock here"}
                      </Button>
                      <Button size="small" onClick={() => hear("mixed", p.song_start_s)}>
                        Hear
                      </Button>
                    </div>
                  </div>
                );
              })}
            </div>
          )}
          <div className="buttons">
            <Button onClick={() => setMarking(!marking)} data-testid="mark-both">
              Mark the same beat in both…
            </Button>
            {pass?.status === "choose" && (
              <Button type={pass.places.length > 1 ? "default" : "primary"} onClick={() => place("accept")}>
                Lock where it lies
              </Button>
            )}
            {pass?.status === "locked" && <Button onClick={() => place("unlock")}>Unlock</Button>}
            {pass && pass.origin === "by hand" && (
              <Button onClick={() => place("revert")} data-testid="revert">
                Back as found
              </Button>
            )}
          </div>
          {marking && (
            <ByHand media={take.media} sound={file.has_sound} seconds={file.seconds} done={() => setMarking(false)} />
          )}
        </div>
        {pass && (
          <div className="bench-picture">
            <Picture
              project={id}
              spans={spans}
              rate={rate}
              size="wall"
              length={state.length}
              label={`Picture of ${file.name} at the playhead`}
              id="bench-picture"
            />
            <span className="soft">the take at the playhead: watch the lips</span>
            {pass && (
              <button type="button" className="link" onClick={() => clock.seek(Math.max(0, pass.song_start_s) + 0.01)}>
                go to its head
              </button>
            )}
          </div>
        )}
      </div>
    </section>
  );
}

function verdict(take: TakeView, pass: PassView | undefined): string {
  if (take.status === "choose")
    return pass && pass.places.length > 1
      ? `fits ${pass.places.length} places equally well`
      : "not sure enough to lock";
  if (take.status === "locked")
    return pass?.origin === "by hand" ? "locked by hand" : `locked, sure ${(100 * take.confidence).toFixed(1)} %`;
  return STATUS[take.status]?.word ?? take.status;
}

function without(status: string, error: string): string {
  if (status === "silent")
    return "This take has no usable sound, so it cannot be found by waveform. Mark the same beat in both to place it by hand.";
  if (status === "unmatched")
    return "Nothing in this take's sound is this song. If it is, mark the same beat in both to place it by hand.";
  if (status === "failed") return error;
  return "This take is waiting to be prepared and compared with the song.";
}

/** While listening, the take sounds beside the song from its place. */
function useCompanion(media: string, pass: PassView | undefined, how: Listening | null): void {
  const { id, state } = useProject();
  const beats = state.song?.beats;
  useEffect(() => {
    if (!how || !pass) {
      clock.accompany(null);
      return;
    }
    let wanted = true;
    void clock
      .decode(derivedUrl(id, media, "sound.wav"))
      .then((buffer) => {
        if (wanted)
          clock.accompany({
            buffer,
            takeStart: pass.take_start_s,
            songStart: pass.song_start_s,
            rate: pass.rate,
            how,
            beats: beats ?? [],
          });
      })
      .catch(() => undefined);
    return () => {
      wanted = false;
      clock.accompany(null);
    };
  }, [id, media, pass?.song_start_s, pass?.take_start_s, pass?.rate, how, beats]);
}

function useSamples(media: string | undefined, start: number, seconds: number): Float32Array | undefined {
  const { id } = useProject();
  return useQuery({
    queryKey: ["samples", id, media, start.toFixed(5), seconds],
    enabled: Boolean(media),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 30_000,
    placeholderData: (old) => old,
    queryFn: async () => {
      const answer = await fetch(`/api/projects/${id}/samples/${media}?start_s=${start}&seconds=${seconds}`);
      if (!answer.ok) return new Float32Array(0);
      return Float32Array.from(new Int16Array(await answer.arrayBuffer()), (v) => v / 32767);
    },
  }).data;
}

function Windows({ pass, media, hue, tall }: { tall: number; pass: PassView; media: string; hue: number }) {
  const length = pass.song_end_s - pass.song_start_s;
  const spots = [
    ["Head", 0.06],
    ["Middle", 0.5],
    ["Tail", 0.94],
  ] as const;
  return (
    <div className="windows">
      {spots.map(([name, share]) => (
        <WindowPair
          key={name}
          tall={tall}
          name={name}
          pass={pass}
          media={media}
          at={pass.song_start_s + share * length}
          hue={hue}
        />
      ))}
    </div>
  );
}

function WindowPair({
  name,
  pass,
  media,
  at,
  hue,
  tall,
}: {
  tall: number;
  name: string;
  pass: PassView;
  media: string;
  at: number;
  hue: number;
}) {
  const { state, rate } = useProject();
  const from = Math.max(0, at - WINDOW_S / 2);
  const takeFrom = pass.take_start_s + (from - pass.song_start_s) / pass.rate;
  const song = useSamples(state.song?.media, from, WINDOW_S);
  const heard = state.media.find((m) => m.id === media)?.has_sound;
  const take = useSamples(heard ? media : undefined, takeFrom, WINDOW_S / pass.rate);
  const residual = useMemo(
    () => nearest(pass.residuals, takeFrom + WINDOW_S / 2) + pass.moved_ms / 1000,
    [pass, takeFrom],
  );
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      for (const beat of state.song?.beats ?? []) {
        const px = ((beat - from) / WINDOW_S) * w;
        if (px < 0 || px > w) continue;
        paper.fillStyle = colour.rule;
        paper.fillRect(Math.round(px), 0, 1, h);
      }
      half(paper, w, h, song, colour.ink, -1);
      half(paper, w, h, take, hueOf(hue), 1);
      paper.fillStyle = colour.soft;
      paper.fillRect(0, h / 2, w, 1);
    },
    [song, take, state.song, from, hue],
  );
  return (
    <div className="window-pair">
      <div className="window-head">
        <b>{name}</b>
        <span className="mono" title="How far this part lies off the line, with nudges">
          {signed(residual * 1000, 2)} ms · {signed(residual * rate, 1)} f
        </span>
      </div>
      <div className="window-box">
        <Canvas paint={paint} height={tall} label={`${name}: song above, take below`} />
        <span className="window-name top">song</span>
        <span className="window-name bottom">take</span>
      </div>
    </div>
  );
}

function nearest(residuals: readonly number[][], at: number): number {
  const close = residuals.filter(([t]) => Math.abs((t ?? 0) - at) < 3);
  return close.length ? close.reduce((sum, [, r]) => sum + (r ?? 0), 0) / close.length : 0;
}

/** Half a waveform: the song grows upward from the middle, the take downward, each to its own loudest. */
function half(
  paper: CanvasRenderingContext2D,
  w: number,
  h: number,
  samples: Float32Array | undefined,
  ink: string,
  side: 1 | -1,
): void {
  if (!samples?.length) return;
  const per = samples.length / w;
  const heights = Array.from({ length: Math.ceil(w / 2) }, (_, i) => {
    let top = 0;
    for (let k = Math.floor(i * 2 * per); k < (i + 1) * 2 * per; k++) top = Math.max(top, Math.abs(samples[k] ?? 0));
    return top;
  });
  const loudest = Math.max(0.003, ...heights);
  paper.fillStyle = ink;
  heights.forEach((v, i) => {
    const tall = (v / loudest) * (h / 2 - 4);
    paper.fillRect(i * 2, side < 0 ? h / 2 - tall : h / 2 + 1, 1.4, tall);
  });
}

function MatchStrip({ pass }: { pass: PassView }) {
  const { id, state } = useProject();
  const curve = useQuery({
    queryKey: ["match", id, pass.id, pass.take_start_s, pass.take_end_s],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      data(
        api.GET("/api/projects/{project_id}/lineup/passes/{pass_id}/match", {
          params: { path: { project_id: id, pass_id: pass.id } },
        }),
      ),
  }).data;
  const seconds = state.song?.seconds ?? 1;
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      paper.strokeStyle = colour.coral;
      paper.setLineDash([4, 3]);
      paper.beginPath();
      paper.moveTo(0, h - 0.7 * (h - 26));
      paper.lineTo(w, h - 0.7 * (h - 26));
      paper.stroke();
      paper.setLineDash([]);
      paper.fillStyle = colour.rule;
      for (const s of state.song?.sections ?? []) paper.fillRect(Math.round((s.start_s / seconds) * w), 0, 1, h);
      if (!curve) return;
      paper.strokeStyle = colour.ink;
      paper.lineWidth = 1.2;
      paper.beginPath();
      curve.forEach((v, i) => paper.lineTo((i / curve.length) * w, h - 2 - v * (h - 28)));
      paper.stroke();
    },
    [curve, seconds, state.song],
  );
  return (
    <div>
      <div className="window-head">
        <b>Where it fits in the song</b>
        <span className="soft">places above 0.70 of the best count as equal, unless the take tells them apart</span>
      </div>
      <div className="match">
        <Canvas paint={paint} height={88} label="Match of this pass over the song" />
        {state.song?.sections.map((s) => (
          <span
            key={s.id}
            className="match-section"
            style={{ left: `${(100 * s.start_s) / seconds}%`, width: `${(100 * (s.end_s - s.start_s)) / seconds}%` }}
          >
            {s.name}
          </span>
        ))}
        {pass.places.map((p, i) => (
          <span
            key={p.song_start_s}
            className="match-place"
            style={{ left: `${(100 * Math.max(0, p.song_start_s)) / seconds}%` }}
          >
            {i + 1}
          </span>
        ))}
      </div>
    </div>
  );
}

/** Lock by pairs of the same moment: one gives the place, two the place and the rate. */
function ByHand({ media, sound, seconds, done }: { media: string; sound: boolean; seconds: number; done: () => void }) {
  const { id, act, state } = useProject();
  const [takeAt, setTakeAt] = useState(seconds / 2);
  const [zoom, setZoom] = useState(seconds);
  const [point, setPoint] = useState<number | null>(null);
  const [pairs, setPairs] = useState<Pair[]>([]);
  const from = Math.min(Math.max(0, takeAt - zoom / 2), Math.max(0, seconds - zoom));
  const samples = useSamples(sound ? media : undefined, from, Math.min(20, zoom));
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      half(paper, w, 2 * h, samples, colour.waveInner, -1);
      for (const p of [...pairs.map((q) => q.take), ...(point === null ? [] : [point])]) {
        paper.fillStyle = colour.coral;
        paper.fillRect(((p - from) / Math.min(20, zoom)) * w - 1, 0, 2, h);
      }
    },
    [samples, pairs, point, from, zoom],
  );
  const pick = (event: React.MouseEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    setPoint(from + ((event.clientX - box.left) / box.width) * Math.min(20, zoom));
  };
  const lock = async () => {
    const body = { pairs: pairs.map((p) => [p.take, p.song] as [number, number]) };
    if (
      await act(
        () =>
          data(
            api.POST("/api/projects/{project_id}/lineup/takes/{media_id}/lock", {
              params: { path: { project_id: id, media_id: media } },
              body,
            }),
          ),
        "Locked by hand",
      )
    )
      done();
  };
  return (
    <div className="by-hand">
      <p>
        <b>1</b> Click the beat in the take (scroll to look closer). <b>2</b> Put the playhead on the same beat of the
        song. <b>3</b> Keep the pair. A second pair far from the first gives the rate too.
      </p>
      <div
        className="by-hand-wave"
        data-testid="by-hand-wave"
        onClick={pick}
        onKeyDown={() => undefined}
        role="presentation"
        onWheel={(e) => {
          setZoom(Math.min(20, Math.max(0.2, Math.min(20, zoom) * Math.exp(e.deltaY * 0.002))));
          if (point !== null) setTakeAt(point);
        }}
      >
        <Canvas paint={paint} height={64} label="Sound of the take" />
        {!sound && (
          <span className="window-name top">no sound: choose the moment by its picture, with the slider or here</span>
        )}
      </div>
      <div className="by-hand-look">
        <ClipFrame media={media} at={point ?? takeAt} />
        <div className="grow">
          <Slider
            min={0}
            max={seconds}
            step={0.01}
            value={takeAt}
            onChange={(v) => {
              setTakeAt(v);
              setZoom(Math.min(20, zoom));
              if (!sound) setPoint(v);
            }}
            tooltip={{ formatter: (v) => `${(v ?? 0).toFixed(2)} s` }}
            aria-label="Place in the take"
          />
          <span className="soft">the take's picture at the point: a clap, a flash or the lips show the beat</span>
        </div>
      </div>
      <div className="buttons">
        <Button
          size="small"
          disabled={point === null || pairs.length > 1}
          data-testid="keep-pair"
          onClick={() => {
            if (point !== null) setPairs([...pairs, { take: point, song: clock.position() }]);
            setPoint(null);
          }}
        >
          Keep: take {point === null ? "–" : `${point.toFixed(3)} s`} is the song's playhead
        </Button>
        {pairs.map((p) => (
          <span key={p.take} className="mono">
            {p.take.toFixed(2)} s ↔ {state.song ? barBeat(state.song, p.song) : p.song.toFixed(2)}
          </span>
        ))}
        <Button size="small" type="primary" disabled={!pairs.length} onClick={lock} data-testid="lock-by-hand">
          Lock by hand
        </Button>
        <Button size="small" type="text" onClick={done}>
          Leave it
        </Button>
      </div>
    </div>
  );
}
