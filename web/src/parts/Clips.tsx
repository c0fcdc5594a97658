import { Alert, Button, Modal, Slider } from "antd";
import { useEffect, useRef, useState } from "react";
import { api, data, derivedUrl, type MediaView } from "../api/client";
import { CONDITION } from "./format";
import { useProject } from "../api/project";
import { frameOnDisplay } from "../player/timemap";
import { FrameSource } from "../player/proxy";
import { Still } from "./Still";
import styles from "./Clips.module.css";
import { classes } from "./classes";

const cx = classes(styles);

/** A B-roll clip: still, name and usable length; a click opens its in and out. */
export function ClipCard({
  clip,
  width,
  chosen,
  choose,
}: {
  clip: MediaView;
  width: number;
  chosen?: boolean;
  choose?: () => void;
}) {
  const [open, setOpen] = useState(false);
  const length = clip.select_out_s - clip.select_in_s;
  return (
    <div className={cx(chosen ? "clip on" : "clip")} style={{ width }} data-testid={`clip-${clip.name}`}>
      <button
        type="button"
        className={cx("clip-picture")}
        data-testid="clip-picture"
        onClick={choose ?? (() => setOpen(true))}
        onDoubleClick={() => setOpen(true)}
        aria-label={clip.name}
        disabled={clip.state === "failed"}
      >
        <Still media={clip.id} at={clip.select_in_s} width={width - 2} />
      </button>
      <div className={cx("clip-line")}>
        <span className={cx("clip-name")} title={clip.error || clip.name}>
          {clip.name}
        </span>
        {clip.state === "failed" ? (
          <span className="bad" title={clip.error}>
            unreadable
          </span>
        ) : clip.condition !== "ok" ? (
          <span className="bad" title={clip.trouble}>
            {CONDITION[clip.condition]}
          </span>
        ) : (
          <button
            type="button"
            className="link mono"
            onClick={() => setOpen(true)}
            title="Set in and out"
            data-testid={`select-${clip.name}`}
          >
            {length.toFixed(1)} s
          </button>
        )}
      </div>
      {open && <SelectDialog clip={clip} close={() => setOpen(false)} />}
    </div>
  );
}

function SelectDialog({ clip, close }: { clip: MediaView; close: () => void }) {
  const { id, act } = useProject();
  const [range, setRange] = useState<[number, number]>([clip.select_in_s, clip.select_out_s]);
  const [at, setAt] = useState(clip.select_in_s);
  const save = async () => {
    const done = await act(() =>
      data(
        api.PATCH("/api/projects/{project_id}/media/{media_id}", {
          params: { path: { project_id: id, media_id: clip.id } },
          body: { select: range },
        }),
      ),
    );
    if (done) close();
  };
  const rate = Number.parseFloat(clip.rate) || 25;
  const move = (next: [number, number]) => {
    setAt(next[0] !== range[0] ? next[0] : Math.max(0, next[1] - 0.5 / rate));
    setRange(next);
  };
  return (
    <Modal title={`In and out of ${clip.name}`} open onCancel={close} onOk={save} okText="Set in and out" width={560}>
      {clip.error && <Alert type="error" title={clip.error} />}
      <ClipFrame media={clip.id} at={at} />
      <Slider
        range
        min={0}
        max={clip.seconds}
        step={1 / rate}
        value={range}
        onChange={(v) => move(v as [number, number])}
        tooltip={{ formatter: (v) => `${(v ?? 0).toFixed(2)} s` }}
      />
      <div className="buttons">
        <span className="mono">
          in {range[0].toFixed(2)} s · out {range[1].toFixed(2)} s · {(range[1] - range[0]).toFixed(2)} s
        </span>
        <span className="grow" />
        <Button size="small" onClick={() => move([Math.max(0, range[0] - 1 / rate), range[1]])}>
          in ◂
        </Button>
        <Button size="small" onClick={() => move([Math.min(range[1] - 1 / rate, range[0] + 1 / rate), range[1]])}>
          in ▸
        </Button>
        <Button size="small" onClick={() => move([range[0], Math.max(range[0] + 1 / rate, range[1] - 1 / rate)])}>
          ◂ out
        </Button>
        <Button size="small" onClick={() => move([range[0], Math.min(clip.seconds, range[1] + 1 / rate)])}>
          ▸ out
        </Button>
      </div>
    </Modal>
  );
}

/** The exact frame of a file at a media time. */
export function ClipFrame({ media, at }: { media: string; at: number }) {
  const { id } = useProject();
  const canvas = useRef<HTMLCanvasElement>(null);
  const wanted = useRef(at);
  const draw = useRef<() => void>(() => undefined);
  useEffect(() => {
    const proxy = new FrameSource(derivedUrl(id, media, "programme"), () => draw.current());
    draw.current = () => {
      const paper = canvas.current?.getContext("2d");
      if (!proxy.index || !paper || !canvas.current) return;
      const picture = proxy.get(frameOnDisplay(proxy.index.times, wanted.current + 1e-4), 0);
      if (picture) paper.drawImage(picture, 0, 0, canvas.current.width, canvas.current.height);
    };
    return () => {
      draw.current = () => undefined;
      proxy.close();
    };
  }, [id, media]);
  useEffect(() => {
    wanted.current = at;
    draw.current();
  }, [at]);
  return <canvas ref={canvas} className="picture" width={480} height={270} role="img" aria-label="Frame of the clip" />;
}
