import { type CardImage, CardPictures, cardAddress } from "./cards";
import { useEffect, useLayoutEffect, useRef } from "react";
import { useAddresses, useProject } from "../api/project";
import { clock, useClock } from "./clock";
import { compose, fitted, type Part } from "./compositor";
import { withoutSteps } from "./without";
import { STILLS } from "../api/facts";
import type { Act } from "./chain";
import { coming, type Layers, nextEdge, type Seen, seenAt } from "./layers";
import { luts } from "./luts";
import { pace } from "./pace";
import { numberOf } from "./numbered";
import { hasColours } from "./quick";
import { canDecode, partOf, pictureSize, ProxyPool, type ProxySize } from "./proxy";
import { frameAt, frameOnDisplay, mediaTime, mixAt } from "./timemap";

interface Props {
  layers: Layers;
  size: ProxySize;
  label: string;
  id?: string;
  /** The frame of the programme at which the picture stands; else it follows the clock. */
  at?: number;
  /** True while what is shown is tried: drawn quickly, and exactly once it stands. */
  draft?: boolean;
}

const AHEAD = 6;
/** Frames before a cut at which its other side is prefetched. */
const SOON = 40;
/** Frames before a card at which its picture is asked for, and how many that come next: words one by one are many cards. */
const CARDS_SOON = 72;
const CARDS_AHEAD = 20;
/** How often, and how many frames ahead, tables of colours are asked for. */
const COLOURS_EVERY = 4;
const COLOURS_SOON = 16;
/** Most proxies that are open at once: nine angles cut in turn and what is laid over them, or an angle and its next take. */
const POOL: Record<ProxySize, number> = { programme: 14, wall: 3 };
/** A frame without any span. */
const NOTHING = "#2b2c30";
/** A jump of more frames than this shows a still first. */
const FAR = 24;

/**
 * A live picture: at every tick of the song's clock it draws exactly the source frame that the frame rule names.
 * The drawn frame is also written on the element (data-frame, data-source-frame, data-media), read by tests.
 */
export function Picture({ layers, size, label, id, at, draft = false }: Props) {
  const { state, rate, id: project } = useProject();
  const addressOf = useAddresses();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { length, width, height } = state;
  luts.project = project;
  const now = { layers, rate, length, addressOf, aspect: width / height, at, draft };
  const latest = useRef(now);
  const redraw = useRef<() => void>(() => undefined);
  useLayoutEffect(() => {
    latest.current = now;
  });

  useEffect(() => {
    // The film itself loses no frame for what is seen beside it.
    const leads = size === "programme" && id !== undefined;
    const target = canvas.current;
    const paper = target?.getContext("2d");
    if (!target || !paper) return;
    let shown = "";
    let last = { media: "", source: -1 };
    let stills = new Map<string, HTMLImageElement>();
    const pool = new ProxyPool(() => draw(), POOL[size]);
    const cards = new CardPictures(() => draw());
    const imageOf = ({ card, shown }: Seen["span"]) =>
      card ? cards.get(cardAddress(project, card, target.width, target.height, shown)) : null;
    let seenLast = new Map<string, CardImage>();
    /** The picture of a card now. While it plays the film goes on: one whose next letter is still to come is seen without it. */
    const cardOf = (span: Seen["span"], playing: boolean) => {
      const found = imageOf(span);
      if (!span.card || found === null) return null;
      const words = JSON.stringify(span.card);
      if (found) seenLast.set(words, found);
      const last = seenLast.get(words);
      // One that is no longer kept is closed.
      return found ?? (playing && last?.of.width ? last : undefined);
    };

    const note = (frame: number, media: string, source: number, key: string) => {
      shown = key;
      target.dataset.frame = String(frame);
      target.dataset.media = media;
      target.dataset.sourceFrame = String(source);
      target.dataset.clock = clock.position().toFixed(5);
    };
    // A wall is seen smaller than it is drawn.
    let across = target.width;
    const sized = new ResizeObserver(() => {
      across = target.clientWidth * window.devicePixelRatio || target.width;
    });
    sized.observe(target);
    const lay = (parts: Part[], plays = false) => {
      const quick = plays ? Math.min(1, across / target.width) : 0;
      const left = compose(paper, target.width, target.height, parts, quick);
      if (left.length) withoutSteps(left);
    };
    const blank = (frame: number) => {
      if (shown === "blank" && target.dataset.frame === String(frame)) return;
      paper.fillStyle = NOTHING;
      paper.fillRect(0, 0, target.width, target.height);
      note(frame, "", -1, "blank");
    };
    /** The stills nearest to what a frame shows, each where its picture lies; nothing where one is still to come. */
    const drawStills = (seen: readonly Seen[], frame: number, fps: number) => {
      const parts: Part[] = [];
      let [key, top] = ["stills", ""];
      for (const { span, acts } of seen) {
        const still = span.media ? stillOf(span.media, mediaTime(span.time, frame - span.start, fps)) : {};
        if (!still) return;
        const card = cardOf(span, false);
        if (span.kind === "title" && !card) continue;
        parts.push({ acts, ...still, ...plainOf(span, card) });
        key += ` ${span.media ?? span.text} ${"crop" in still ? still.crop : ""} ${keyOf(acts)}`;
        top = span.media ?? (span.kind === "black" ? "" : top);
      }
      lay(parts, true);
      note(frame, top, -1, key);
    };
    const stillOf = (media: string, at: number) => {
      const address = latest.current.addressOf(media, STILLS.sheet);
      let sheet = stills.get(address);
      if (!sheet) {
        sheet = new Image();
        sheet.onload = () => draw();
        sheet.src = address;
        stills.set(address, sheet);
      }
      const { index } = pool.get(latest.current.addressOf, media, size);
      return sheet.complete && sheet.naturalWidth ? stillPart(sheet, at, index) : null;
    };
    const draw = (position = clock.position()) => {
      const { layers: now, rate: fps, length: song, aspect, at } = latest.current;
      // The film may begin before the song and end after it: its lowest layer does.
      const [from, until] = [Math.min(0, now[0]?.[0]?.start ?? 0), Math.max(song, now[0]?.at(-1)?.end ?? 0)];
      const frame = Math.min(Math.max(from, at ?? frameAt(position, fps)), Math.max(from, until - 1));
      const seen = seenAt(now, frame, aspect);
      if (!seen.some(({ span }) => span.kind !== "title")) return blank(frame);
      if (!canDecode) return drawStills(seen, frame, fps);
      const ahead = at === undefined && useClock.getState().playing ? AHEAD : 0;
      if (ahead && !leads && !pace.draws(target, frame)) return;
      if (ahead) lookAhead(now, frame, fps);
      const { parts, key, media, source, missing } = partsOf(seen, frame, fps, ahead);
      if (missing) {
        // A far jump (a drag along the strip) shows the nearest stills until the exact frames are there.
        if (!ahead && media && source >= 0 && (last.media !== media || Math.abs(last.source - source) > FAR)) {
          last = { media, source };
          drawStills(seen, frame, fps);
        }
        return;
      }
      last = { media, source };
      if (ahead && leads && target.dataset.frame !== String(frame)) pace.drew(frame);
      if (key === shown && target.dataset.frame === String(frame)) return;
      if (key !== shown) lay(parts, ahead > 0 || latest.current.draft);
      note(frame, media, source, key);
    };
    /** The pictures of a stack; ``source`` is the frame of the topmost picture, ``missing`` where one is still to come. */
    const partsOf = (seen: readonly Seen[], frame: number, fps: number, ahead: number) => {
      const out = { parts: [] as Part[], key: "", media: "", source: -1, missing: false };
      for (const { span, acts } of seen) {
        // A colour whose table is still to come is waited for, as a picture is.
        if (luts.waits(acts)) out.missing = true;
        // What was drawn while it played is drawn again once it stands, as exactly as it goes.
        if ((ahead || latest.current.draft) && hasColours(acts)) out.key += "quick ";
        out.key += `${span.kind} ${keyOf(acts)} `;
        if (span.kind === "black") [out.media, out.source] = ["", -1];
        if (!span.media) {
          const card = cardOf(span, ahead > 0);
          if (card === undefined) out.missing = true;
          if (span.kind !== "title" || card) out.parts.push({ acts, ...plainOf(span, card) });
          out.key += span.card ? numberOf(card ?? span.card) : span.text;
          continue;
        }
        const proxy = pool.get(latest.current.addressOf, span.media, size);
        const at = mediaTime(span.time, frame - span.start, fps);
        const times = proxy.index?.times;
        const [source, share] = !times
          ? [-1, 0]
          : span.blend && !proxy.index?.alpha
            ? mixAt(times, at)
            : [frameOnDisplay(times, at), 0];
        [out.media, out.source] = [span.media, source];
        const image = proxy.index ? proxy.get(out.source, ahead, leads ? 1 : pace.every) : undefined;
        // Another content of a file has another address.
        out.key += `${latest.current.addressOf(span.media, "")} ${out.source} `;
        const next = share ? proxy.get(out.source + 1, ahead) : undefined;
        if (!image || (share && !next)) out.missing = true;
        else if (proxy.index) out.parts.push({ acts, ...partOf(proxy.index, image), next, share });
        if (share) out.key += `${share.toFixed(3)} `;
      }
      return out;
    };
    /** Have the first frames of what comes next ready before the cut comes. */
    const lookAhead = (now: Layers, frame: number, fps: number) => {
      for (const span of coming(now, frame, CARDS_SOON, CARDS_AHEAD)) imageOf(span);
      // A file that is evened has another table every few seconds.
      if (frame % COLOURS_EVERY === 0)
        for (const { acts } of seenAt(now, frame + COLOURS_SOON, latest.current.aspect)) luts.waits(acts);
      const next = nextEdge(now, frame);
      if (frame < next - SOON) return;
      for (const { span } of seenAt(now, next, latest.current.aspect)) {
        if (!span.media) continue;
        const proxy = pool.get(latest.current.addressOf, span.media, size);
        const at = mediaTime(span.time, next - span.start, fps);
        if (proxy.index) proxy.get(frameOnDisplay(proxy.index.times, at), 2);
      }
    };
    const stop = clock.subscribe((position) => {
      // What stands at a frame is not drawn again with every tick.
      if (latest.current.at === undefined) draw(position);
    });
    if (!leads) pace.join(target);
    redraw.current = draw;
    draw();
    const deaf = luts.subscribe(() => draw());
    return () => {
      redraw.current = () => undefined;
      stop();
      pace.leave(target);
      sized.disconnect();
      deaf();
      pool.close();
      cards.close();
      stills = new Map();
      seenLast = new Map();
    };
  }, [project, size, id]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: what is shown changed, if not the clock
  useEffect(() => {
    // A changed programme, or a file of another content, may change the picture under a standing playhead.
    if (at !== undefined) redraw.current();
    else if (!useClock.getState().playing) clock.seek(clock.position());
  }, [layers, addressOf, at, draft]);

  const [across, up] = pictureSize([width, height], size);
  return <canvas ref={canvas} id={id} className="picture" width={across} height={up} role="img" aria-label={label} />;
}

/** Key that tells a chain in a frame from another. */
const keyOf = (acts: readonly Act[]): string =>
  acts.map(({ step, values }) => `${step} ${Object.values(values).join(" ")}`).join(" ");

/** Content of a span without a picture of a file: a card, a colour, or black. */
function plainOf({ kind, text }: Seen["span"], card: CardImage | null | undefined): Partial<Part> {
  return kind === "title" ? (card ? { card } : {}) : kind === "colour" ? { colour: text } : {};
}

/** A still on its sheet; the tile has bars where the file's shape is another. */
function stillPart(sheet: HTMLImageElement, at: number, file: { width: number; height: number } | null) {
  const tiles = (sheet.naturalWidth / STILLS.width) * (sheet.naturalHeight / STILLS.height);
  const k = Math.min(tiles - 1, Math.max(0, Math.floor(at / STILLS.every_s)));
  const [x, y, width, height] = fitted(
    file?.width ?? STILLS.width,
    file?.height ?? STILLS.height,
    STILLS.width,
    STILLS.height,
  );
  const [left, top] = [(k % STILLS.columns) * STILLS.width, Math.floor(k / STILLS.columns) * STILLS.height];
  const crop: [number, number, number, number] = [left + x, top + y, width, height];
  return { image: sheet, size: [width, height] as [number, number], crop };
}
