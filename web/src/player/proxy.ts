import { PROXIES } from "../api/facts";
import type { Part } from "./compositor";

interface Index {
  codec: string;
  width: number;
  height: number;
  /** Whether each frame has its alpha as grey under it. */
  alpha?: boolean;
  times: number[];
  offsets: number[];
  sizes: number[];
}

/** A frame of a proxy as a part of a stack. */
export function partOf(
  index: Pick<Index, "alpha">,
  image: VideoFrame,
): Pick<Part, "image" | "size" | "crop" | "matte"> {
  const [width, height] = [image.displayWidth, image.displayHeight / (index.alpha ? 2 : 1)];
  const size: [number, number] = [width, height];
  if (!index.alpha) return { image, size };
  return { image, size, crop: [0, 0, width, height], matte: [0, height, width, height] };
}

export type ProxySize = "programme" | "wall";

/** True where this browser can decode proxies frame by frame. */
export const canDecode = typeof VideoDecoder !== "undefined";

const KEPT_FRAMES = 14;
const FETCH_SECONDS = 2;
/** Delay before a proxy that is not there (yet) is asked for again: first, and at most. */
const AGAIN_MS = [500, 4000] as const;

/**
 * Width and height of the picture of a film at a size: as many pixels for each shape, about, with the even sides whose
 * shape is nearest to the film's.
 */
export function pictureSize(film: readonly [number, number], size: ProxySize): [number, number] {
  const even = (side: number) => Math.max(16, 2 * Math.round(side / 2));
  const shape = film[0] / film[1];
  const pixels = PROXIES[size][0] * PROXIES[size][1];
  const middle = even(Math.sqrt(pixels / shape));
  let best: [number, number] = [even(middle * shape), middle];
  const off = ([w, h]: [number, number]) => Math.abs(w / h / shape - 1);
  for (const by of [-2, 2, -4, 4, -6, 6]) {
    const high = even(middle + by);
    const one: [number, number] = [even(high * shape), high];
    if (off(one) < off(best) - 1e-9) best = one;
  }
  return best;
}

/**
 * One proxy: key frames only, fetched about two seconds at a time and decoded frame by frame, in any order.
 * Decoded frames are kept for a short while; whoever draws must not close them.
 */
export class FrameSource {
  index: Index | null = null;
  private decoder: VideoDecoder | null = null;
  private readonly frames = new Map<number, VideoFrame>();
  private readonly pending = new Set<number>();
  private readonly bytes = new Map<number, Uint8Array>();
  private readonly fetching = new Set<number>();
  private closed = false;
  private again: ReturnType<typeof setTimeout> | undefined;

  /** A proxy by the addresses of its index and its frames; `changed` is called when more of it is there. */
  constructor(
    private readonly address: { index: string; frames: string },
    private readonly changed: () => void,
  ) {
    void this.open(AGAIN_MS[0]);
  }

  /** Read the index; what is still being made, or a server that does not answer, is asked again later. */
  private async open(wait: number): Promise<void> {
    try {
      const answer = await fetch(this.address.index);
      if (this.closed) return;
      if (answer.ok) {
        this.index = (await answer.json()) as Index;
        this.changed();
        return;
      }
    } catch {
      // Asked again below.
    }
    if (!this.closed) this.again = setTimeout(() => void this.open(Math.min(2 * wait, AGAIN_MS[1])), wait);
  }

  /** The decoded frame if it is there; asks for it and the few after it, or every so many of them, otherwise. */
  get(index: number, ahead: number, every = 1): VideoFrame | undefined {
    if (!this.index) return undefined;
    const last = Math.min(this.index.sizes.length - 1, index + ahead);
    // A decoder that is behind would stay so: what would come too late is left out.
    const behind = ahead > 0 && [...this.pending].some((i) => i < index);
    for (let i = behind ? last : index; i <= last; i += every) this.want(i);
    // What is read next has as long to come as a chunk lasts.
    if (ahead) this.wantChunk(this.chunk(index) + 1);
    return this.frames.get(index);
  }

  private chunk(index: number): number {
    return Math.floor((this.index?.times[index] ?? 0) / FETCH_SECONDS);
  }

  private want(index: number): void {
    if (this.frames.has(index) || this.pending.has(index) || !this.index) return;
    const chunk = this.chunk(index);
    const bytes = this.bytes.get(chunk);
    if (!bytes) {
      void this.fetchChunk(chunk);
      return;
    }
    const first = this.index.offsets[this.firstOf(chunk)] ?? 0;
    const at = (this.index.offsets[index] ?? 0) - first;
    const size = this.index.sizes[index] ?? 0;
    this.pending.add(index);
    this.decode(index, bytes.subarray(at, at + size));
  }

  private wantChunk(chunk: number): void {
    if (!this.bytes.has(chunk) && this.firstOf(chunk) < (this.index?.times.length ?? 0)) void this.fetchChunk(chunk);
  }

  private firstOf(chunk: number): number {
    const times = this.index?.times ?? [];
    let low = 0;
    let high = times.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (Math.floor((times[middle] as number) / FETCH_SECONDS) < chunk) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  private async fetchChunk(chunk: number): Promise<void> {
    if (this.fetching.has(chunk) || !this.index) return;
    this.fetching.add(chunk);
    const first = this.firstOf(chunk);
    const end = this.firstOf(chunk + 1) - 1;
    const from = this.index.offsets[first] ?? 0;
    const to = (this.index.offsets[end] ?? 0) + (this.index.sizes[end] ?? 0) - 1;
    try {
      const answer = await fetch(this.address.frames, { headers: { Range: `bytes=${from}-${to}` } });
      if (answer.status !== 206 || this.closed) return;
      this.bytes.set(chunk, new Uint8Array(await answer.arrayBuffer()));
      for (const old of this.bytes.keys()) if (this.bytes.size > 6 && old !== chunk) this.bytes.delete(old);
      this.changed();
    } catch {
      // The next wish for a frame asks again.
    } finally {
      this.fetching.delete(chunk);
    }
  }

  private decode(index: number, data: Uint8Array): void {
    if (!this.index) return;
    if (!this.decoder || this.decoder.state === "closed") {
      this.decoder = new VideoDecoder({
        output: (frame) => this.keep(frame),
        error: () => this.pending.clear(),
      });
      this.decoder.configure({ codec: this.index.codec, optimizeForLatency: true });
    }
    this.decoder.decode(new EncodedVideoChunk({ type: "key", timestamp: index, data }));
  }

  private keep(frame: VideoFrame): void {
    const index = frame.timestamp;
    this.pending.delete(index);
    if (this.closed) {
      frame.close();
      return;
    }
    this.frames.get(index)?.close();
    this.frames.set(index, frame);
    if (this.frames.size > KEPT_FRAMES) {
      const [old] = this.frames.keys();
      if (old !== undefined) {
        this.frames.get(old)?.close();
        this.frames.delete(old);
      }
    }
    this.changed();
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.again);
    for (const frame of this.frames.values()) frame.close();
    this.frames.clear();
    if (this.decoder && this.decoder.state !== "closed") this.decoder.close();
  }
}

/** The addresses of a file's proxy. */
export function proxyAddress(addressOf: (media: string, what: string) => string, media: string, size: ProxySize) {
  return { index: addressOf(media, `${size}.json`), frames: addressOf(media, `${size}.h264`) };
}

/** The proxies that are open, by address, and so by content; the least recently used is closed beyond a limit. */
export class ProxyPool {
  private readonly open = new Map<string, FrameSource>();

  constructor(
    private readonly changed: () => void,
    private readonly limit = 12,
  ) {}

  get(addressOf: (media: string, what: string) => string, media: string, size: ProxySize): FrameSource {
    const address = proxyAddress(addressOf, media, size);
    let proxy = this.open.get(address.index);
    if (proxy) this.open.delete(address.index);
    else proxy = new FrameSource(address, this.changed);
    this.open.set(address.index, proxy);
    if (this.open.size > this.limit) {
      const [old] = this.open.keys();
      if (old !== undefined) {
        this.open.get(old)?.close();
        this.open.delete(old);
      }
    }
    return proxy;
  }

  close(): void {
    for (const proxy of this.open.values()) proxy.close();
    this.open.clear();
  }
}
