import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Slider } from "antd";
import { useCallback, useState } from "react";
import { api, data, type TakeView } from "../../api/client";
import { useProject } from "../../api/project";
import { Canvas } from "../../parts/Canvas";
import { ClipFrame } from "../../parts/ClipFrame";
import { barBeat } from "../../parts/format";
import { clock } from "../../player/clock";
import { colour } from "../../theme";
import { useLineupActions } from "./actions";
import { rise, snapped } from "./lineup";
import { half, useSamples } from "./samples";
import view from "./lineup.module.css";
import own from "./ByHand.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(view, own);

interface Pair {
  take: number;
  song: number;
}

/** Reach within which a point snaps to a beat. */
const SNAP_S = 0.08;

/** Lock by pairs of the same moment: one gives the place, two the place and the rate. */
export function ByHand({
  take,
  sound,
  seconds,
  done,
}: {
  take: TakeView;
  sound: boolean;
  seconds: number;
  done: () => void;
}) {
  const { id, path, state } = useProject();
  const { lock } = useLineupActions();
  const { media, moments } = take;
  const [takeAt, setTakeAt] = useState(moments[0]?.take_s ?? seconds / 2);
  const [zoom, setZoom] = useState(seconds);
  const [point, setPoint] = useState<number | null>(null);
  const [pairs, setPairs] = useState<Pair[]>([]);
  const [snap, setSnap] = useState(true);
  const hits = useQuery({
    queryKey: ["detail", id, state.song?.media],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/song/detail", { params: path })),
    enabled: Boolean(state.song),
  }).data?.hits;
  const wide = Math.min(20, zoom, seconds);
  const from = Math.min(Math.max(0, takeAt - wide / 2), Math.max(0, seconds - wide));
  const samples = useSamples(sound ? media : undefined, from, wide);
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      half(paper, w, 2 * h, samples, colour.waveInner, -1);
      for (const p of [...pairs.map((q) => q.take), ...(point === null ? [] : [point])]) {
        paper.fillStyle = colour.coral;
        paper.fillRect(((p - from) / wide) * w - 1, 0, 2, h);
      }
    },
    [samples, pairs, point, from, wide],
  );
  const pick = (event: React.MouseEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const at = from + ((event.clientX - box.left) / box.width) * wide;
    setPoint(snap && samples?.length ? rise(samples, from, wide, at, SNAP_S) : at);
  };
  const keep = () => {
    if (point === null) return;
    const here = clock.position();
    const strokes = Object.values(hits ?? {}).flatMap((band) => band.map((h) => h.song_s));
    setPairs([...pairs, { take: point, song: snap ? snapped(here, strokes, SNAP_S) : here }]);
    setPoint(null);
  };
  const lockThem = async () => {
    const both = pairs.map((p): [number, number] => [p.take, p.song]);
    if (await lock(media, both)) done();
  };
  return (
    <div className={cx("by-hand")} data-testid="by-hand">
      <p>
        <b>1</b> Click the beat in the take (scroll to look closer). <b>2</b> Put the playhead on the same beat of the
        song. <b>3</b> Keep the pair. A second pair far from the first gives the rate too.
      </p>
      <Moments
        take={take}
        go={(at) => {
          setTakeAt(at);
          setPoint(at);
          setZoom(4);
        }}
      />
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the slider below is the same by keys */}
      <div
        className={cx("by-hand-wave")}
        data-testid="by-hand-wave"
        onClick={pick}
        onKeyDown={() => undefined}
        onWheel={(e) => {
          setZoom(Math.min(20, Math.max(0.2, wide * Math.exp(e.deltaY * 0.002))));
          if (point !== null) setTakeAt(point);
        }}
      >
        <Canvas paint={paint} height={56} label="Sound of the take" />
        {!sound && (
          <span className={cx("window-name top")}>
            no sound: choose the moment by its picture, with the slider or here
          </span>
        )}
      </div>
      <div className={cx("by-hand-look")}>
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
            ariaLabelForHandle="Place in the take"
          />
          <span className="soft">the take's picture at the point: a clap, a flash or the lips show the beat</span>
          <div>
            <Checkbox checked={snap} onChange={(e) => setSnap(e.target.checked)}>
              both points jump to the nearest stroke
            </Checkbox>
          </div>
        </div>
      </div>
      <div className="buttons">
        <Button size="small" disabled={point === null || pairs.length > 1} data-testid="keep-pair" onClick={keep}>
          Keep: take {point === null ? "–" : `${point.toFixed(3)} s`} is the song's playhead
        </Button>
        <Pairs pairs={pairs} forget={(p) => setPairs(pairs.filter((q) => q !== p))} />
        <Button size="small" type="primary" disabled={!pairs.length} data-testid="lock-by-hand" onClick={lockThem}>
          Lock by hand
        </Button>
        <Button size="small" type="text" onClick={done}>
          Leave it
        </Button>
      </div>
    </div>
  );
}

/** Moments in the take's picture that a beat could be: claps and flashes. */
function Moments({ take: { moments }, go }: { take: TakeView; go: (take_s: number) => void }) {
  if (!moments.length) return null;
  return (
    <div className={cx("buttons moments")}>
      <span className="soft">Seen in the picture:</span>
      {moments.map((m) => (
        <Button key={m.take_s} size="small" data-testid="moment" onClick={() => go(m.take_s)}>
          {m.kind} {m.take_s.toFixed(2)} s
        </Button>
      ))}
    </div>
  );
}

function Pairs({ pairs, forget }: { pairs: readonly Pair[]; forget: (pair: Pair) => void }) {
  const { state } = useProject();
  return pairs.map((p) => (
    <span key={p.take} className="mono" data-testid="pair">
      {p.take.toFixed(3)} s ↔ {state.song ? barBeat(state.song, p.song) : p.song.toFixed(2)}
      <TextButton aria-label="Forget this pair" onClick={() => forget(p)}>
        ×
      </TextButton>
    </span>
  ));
}
