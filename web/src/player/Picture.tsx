import { useEffect, useRef } from "react";
import { derivedUrl } from "../api/client";
import { clock, useClock } from "./clock";
import { compose, type Part } from "./compositor";
import { AS_IT_IS, type Layers, nextEdge, type Seen, seenAt } from "./layers";
import { canDecode, ProxyPool, type ProxySize } from "./proxy";
import { frameAt, frameOnDisplay, mediaTime, mixAt } from "./timemap";

interface Props {
  project: string;
  layers: Layers;
  rate: number;
  size: ProxySize;
  length: number;
  label: string;
  id?: string;
}

const AHEAD = 6;
/** How many frames before a cut its other side is fetched. */
const SOON = 20;
/** Where nothing is laid. */
const NOTHING = "#2b2c30";
/** A jump of more frames than this shows a still first. */
const FAR = 24;

/**
 * A live picture: at every tick of the song's clock it draws exactly the source frame that the frame rule names.
 * What is drawn is also written on the element (data-frame, data-source-frame, data-media), read by tests.
 */
export function Picture({ project, layers, rate, size, length, label, id }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const latest = useRef({ layers, rate, length });
  latest.current = { layers, rate, length };

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
      paper.fillStyle = NOTHING;
      paper.fillRect(0, 0, target.width, target.height);
      note(frame, "", -1, "blank");
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
      const crop: [number, number, number, number] = [(k % 10) * 160, Math.floor(k / 10) * 90, 160, 90];
      const part: Part = { look: AS_IT_IS, image: sheet, size: [160, 90], crop };
      compose(paper, target.width, target.height, [part]);
      note(frame, media, -1, `still ${media} ${k}`);
    };
    const draw = (position: number) => {
      const { layers: now, rate: fps, length: end } = latest.current;
      const frame = Math.min(Math.max(0, frameAt(position, fps)), Math.max(0, end - 1));
      const seen = seenAt(now, frame, target.width / target.height);
      const top = seen.findLast(({ span }) => span.kind === "picture" || span.kind === "black");
      if (!seen.some(({ span }) => span.kind !== "title")) return blank(frame);
      const media = top?.span.media ?? "";
      const at = top ? mediaTime(top.span.time, frame - top.span.start, fps) : 0;
      if (!canDecode && media) return drawStill(media, at, frame);
      const ahead = useClock.getState().playing ? AHEAD : 0;
      if (ahead) lookAhead(now, frame, fps);
      const { parts, key, source, missing } = partsOf(seen, frame, fps, ahead);
      if (missing) {
        // A far jump (a drag along the strip) shows the nearest still until the exact frame is there.
        if (!ahead && media && source >= 0 && (last.media !== media || Math.abs(last.source - source) > FAR)) {
          last = { media, source };
          drawStill(media, at, frame);
        }
        return;
      }
      last = { media, source };
      if (key === shown && target.dataset.frame === String(frame)) return;
      if (key !== shown) compose(paper, target.width, target.height, parts);
      note(frame, media, source, key);
    };
    /** The pictures of a stack; ``source`` is the frame of the topmost picture, ``missing`` where one is still to come. */
    const partsOf = (seen: readonly Seen[], frame: number, fps: number, ahead: number) => {
      const out = { parts: [] as Part[], key: "", source: -1, missing: false };
      for (const { span, look } of seen) {
        out.key += `${span.kind} ${look === AS_IT_IS ? "" : Object.values(look).join(" ")} `;
        if (span.kind === "title") out.parts.push({ look, text: span.text });
        if (span.kind === "colour") out.parts.push({ look, colour: span.text });
        if (span.kind === "colour") out.key += span.text;
        if (span.kind === "black") out.source = -1;
        if (span.kind === "black") out.parts.push({ look });
        if (!span.media) continue;
        const proxy = pool.get(project, span.media, size);
        const at = mediaTime(span.time, frame - span.start, fps);
        const times = proxy.index?.times;
        const [source, share] = !times ? [-1, 0] : span.blend ? mixAt(times, at) : [frameOnDisplay(times, at), 0];
        out.source = source;
        const image = proxy.index ? proxy.get(out.source, ahead) : undefined;
        out.key += `${span.media} ${out.source} `;
        const next = share ? proxy.get(out.source + 1, ahead) : undefined;
        if (!image || (share && !next)) out.missing = true;
        else out.parts.push({ look, image, size: [image.displayWidth, image.displayHeight], next, share });
        if (share) out.key += `${share.toFixed(3)} `;
      }
      return out;
    };
    /** Have the first frames of what comes next ready before the cut comes. */
    const lookAhead = (now: Layers, frame: number, fps: number) => {
      const next = nextEdge(now, frame);
      if (frame < next - SOON) return;
      for (const { span } of seenAt(now, next, target.width / target.height)) {
        if (!span.media) continue;
        const proxy = pool.get(project, span.media, size);
        const at = mediaTime(span.time, next - span.start, fps);
        if (proxy.index) proxy.get(frameOnDisplay(proxy.index.times, at), 2);
      }
    };
    const stop = clock.subscribe(draw);
    return () => {
      stop();
      pool.close();
      stills = new Map();
    };
  }, [project, size]);

  useEffect(() => {
    // A changed programme may change the picture under a standing playhead.
    if (layers && !useClock.getState().playing) clock.seek(clock.position());
  }, [layers]);

  const [width, height] = size === "programme" ? [480, 270] : [320, 180];
  return (
    <canvas ref={canvas} id={id} className="picture" width={width} height={height} role="img" aria-label={label} />
  );
}
