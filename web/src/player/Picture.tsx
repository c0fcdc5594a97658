import { useEffect, useRef } from "react";
import { derivedUrl } from "../api/client";
import { clock, useClock } from "./clock";
import { frameAt, frameOnDisplay, mediaTime, type Span, spanAt } from "./frames";
import { canDecode, ProxyPool, type ProxySize } from "./proxy";

interface Props {
  project: string;
  spans: readonly Span[];
  rate: number;
  size: ProxySize;
  length: number;
  label: string;
  id?: string;
}

const AHEAD = 6;
/** A jump of more frames than this shows a still first. */
const FAR = 24;

/**
 * A live picture: at every tick of the song's clock it draws exactly the source frame that the frame rule names.
 * What is drawn is also written on the element (data-frame, data-source-frame, data-media), read by tests.
 */
export function Picture({ project, spans, rate, size, length, label, id }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const latest = useRef({ spans, rate, length });
  latest.current = { spans, rate, length };

  useEffect(() => {
    const target = canvas.current;
    const paper = target?.getContext("2d");
    if (!target || !paper) return;
    let shown = "";
    let last = { media: "", source: -1 };
    let stills = new Map<string, HTMLImageElement>();
    const pool = new ProxyPool(() => draw(clock.position()), size === "programme" ? 8 : 3);

    const note = (frame: number, media: string, source: number, key: string) => {
      shown = key;
      target.dataset.frame = String(frame);
      target.dataset.media = media;
      target.dataset.sourceFrame = String(source);
      target.dataset.clock = clock.position().toFixed(5);
    };
    const blank = (frame: number) => {
      if (shown === "blank" && target.dataset.frame === String(frame)) return;
      paper.fillStyle = "#2b2c30";
      paper.fillRect(0, 0, target.width, target.height);
      note(frame, "", -1, "blank");
    };
    const fit = (width: number, height: number, image: CanvasImageSource, crop?: [number, number, number, number]) => {
      const scale = Math.min(target.width / width, target.height / height);
      const w = width * scale;
      const h = height * scale;
      if (w < target.width - 1 || h < target.height - 1) {
        paper.fillStyle = "#2b2c30";
        paper.fillRect(0, 0, target.width, target.height);
      }
      const [x, y] = [(target.width - w) / 2, (target.height - h) / 2];
      if (crop) paper.drawImage(image, ...crop, x, y, w, h);
      else paper.drawImage(image, x, y, w, h);
    };
    const drawStill = (media: string, at: number, frame: number) => {
      let sheet = stills.get(media);
      if (!sheet) {
        sheet = new Image();
        sheet.onload = () => draw(clock.position());
        sheet.src = derivedUrl(project, media, "stills.jpg");
        stills.set(media, sheet);
      }
      if (!sheet.complete || !sheet.naturalWidth) return;
      const k = Math.max(0, Math.floor(at * 2));
      fit(160, 90, sheet, [(k % 10) * 160, Math.floor(k / 10) * 90, 160, 90]);
      note(frame, media, -1, `still ${media} ${k}`);
    };
    const draw = (position: number) => {
      const { spans: now, rate: fps, length: end } = latest.current;
      const frame = Math.min(Math.max(0, frameAt(position, fps)), Math.max(0, end - 1));
      const span = spanAt(now, frame);
      if (!span?.media) return blank(frame);
      const at = mediaTime(span, frame, fps);
      if (!canDecode) return drawStill(span.media, at, frame);
      const proxy = pool.get(project, span.media, size);
      if (!proxy.index) return;
      const source = frameOnDisplay(proxy.index.times, at);
      const ahead = useClock.getState().playing ? AHEAD : 0;
      const picture = proxy.get(source, ahead);
      if (ahead) lookAhead(now, span, fps);
      const key = `${span.media} ${source}`;
      if (!picture) {
        // A far jump (a drag along the strip) shows the nearest still until the exact frame is there.
        if (!ahead && (last.media !== span.media || Math.abs(last.source - source) > FAR)) {
          last = { media: span.media, source };
          drawStill(span.media, at, frame);
        }
        return;
      }
      last = { media: span.media, source };
      if (key === shown && target.dataset.frame === String(frame)) return;
      if (key !== shown) fit(picture.displayWidth, picture.displayHeight, picture);
      note(frame, span.media, source, key);
    };
    /** Have the first frames of the next span ready before the cut comes. */
    const lookAhead = (now: readonly Span[], span: Span, fps: number) => {
      const next = spanAt(now, span.end);
      if (!next?.media || frameAt(clock.position(), fps) < span.end - 12) return;
      const proxy = pool.get(project, next.media, size);
      if (proxy.index) proxy.get(frameOnDisplay(proxy.index.times, mediaTime(next, next.start, fps)), 2);
    };
    const stop = clock.subscribe(draw);
    return () => {
      stop();
      pool.close();
      stills = new Map();
    };
  }, [project, size]);

  useEffect(() => {
    // New spans may change the picture under a standing playhead.
    if (spans && !useClock.getState().playing) clock.seek(clock.position());
  }, [spans]);

  const [width, height] = size === "programme" ? [480, 270] : [320, 180];
  return (
    <canvas ref={canvas} id={id} className="picture" width={width} height={height} role="img" aria-label={label} />
  );
}
