import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { FrameSource, pictureSize, ProxyPool } from "./proxy";

/** A file of 300 frames at 25 a second: frame i is i % 7 + 1 bytes, each of the value i % 256. */
const COUNT = 300;
const sizes = Array.from({ length: COUNT }, (_, i) => (i % 7) + 1);
const offsets = sizes.map((_, i) => sizes.slice(0, i).reduce((sum, size) => sum + size, 0));
const file = Uint8Array.from(sizes.flatMap((size, i) => Array.from({ length: size }, () => i % 256)));
const index = { codec: "avc1", width: 480, height: 270, times: sizes.map((_, i) => i / 25), offsets, sizes };

let asked: string[] = [];
let broken = false;
let open = new Set<number>();
/** Frames that a slow decoder has not given back yet. */
let held: (() => void)[] | null = null;
let decoded: { timestamp: number; bytes: number[] }[] = [];

class Decoder {
  state = "unconfigured";
  constructor(private readonly to: { output: (frame: unknown) => void; error: () => void }) {}
  configure() {
    this.state = "configured";
  }
  decode({ timestamp, data }: { timestamp: number; data: Uint8Array }) {
    decoded.push({ timestamp, bytes: [...data] });
    open.add(timestamp);
    const give = () => this.to.output({ timestamp, close: () => open.delete(timestamp) });
    if (held) held.push(give);
    else give();
  }
  close() {
    this.state = "closed";
  }
}

beforeEach(() => {
  asked = [];
  decoded = [];
  open = new Set();
  broken = false;
  held = null;
  vi.stubGlobal("VideoDecoder", Decoder);
  vi.stubGlobal(
    "EncodedVideoChunk",
    class {
      constructor(init: object) {
        Object.assign(this, init);
      }
    },
  );
  vi.stubGlobal("fetch", async (url: string, options?: { headers?: { Range?: string } }) => {
    const range = options?.headers?.Range ?? "";
    asked.push(`${url} ${range}`.trim());
    if (url.includes(".json")) return { ok: true, json: async () => index };
    if (broken) throw new Error("the connection broke");
    const [from = 0, to = 0] = range.replace("bytes=", "").split("-").map(Number);
    return { status: 206, arrayBuffer: async () => file.slice(from, to + 1).buffer };
  });
});
afterEach(() => vi.unstubAllGlobals());

const settled = () => new Promise((done) => setTimeout(done));

async function opened(): Promise<FrameSource> {
  const source = new FrameSource({ index: "/p/wall.json", frames: "/p/wall.h264" }, () => undefined);
  await settled();
  return source;
}

/** Ask until it is there, as drawing does. */
async function shown(source: FrameSource, frame: number, ahead = 0): Promise<VideoFrame | undefined> {
  for (let i = 0; i < 4; i++) {
    const picture = source.get(frame, ahead);
    if (picture) return picture;
    await settled();
  }
  return source.get(frame, ahead);
}

describe("reading a proxy", () => {
  it("leaves out what a decoder that is behind would give too late", async () => {
    const source = await opened();
    await shown(source, 0);
    held = [];
    source.get(1, 6);
    expect(decoded.map((d) => d.timestamp)).toEqual([0, 1, 2, 3, 4, 5, 6, 7]);
    source.get(2, 6);
    source.get(3, 6);
    // Frame 1 is still to come, and late: only what is far enough ahead is asked for.
    expect(decoded.slice(8).map((d) => d.timestamp)).toEqual([8, 9]);
    for (const give of held.splice(0)) give();
    source.get(8, 6);
    expect(decoded.slice(10).map((d) => d.timestamp)).toEqual([10, 11, 12, 13, 14]);
  });

  it("asks for every so many frames, and for the next chunk as soon as it plays", async () => {
    const source = await opened();
    await shown(source, 0);
    decoded = [];
    source.get(0, 6, 3);
    expect(decoded.map((d) => d.timestamp)).toEqual([3, 6]);
    expect(asked).toHaveLength(3);
  });

  it("decodes the very bytes of the frame that is asked for, in any order", async () => {
    const source = await opened();
    for (const frame of [0, 299, 137, 136, 50]) {
      expect((await shown(source, frame))?.timestamp).toBe(frame);
      expect(decoded.at(-1)).toEqual({ timestamp: frame, bytes: Array(sizes[frame]).fill(frame % 256) });
    }
  });

  it("fetches two seconds at a time, each once", async () => {
    const source = await opened();
    for (const frame of [10, 49, 0, 51, 99]) await shown(source, frame);
    const at = (frame: number) => offsets[frame] as number;
    expect(asked.slice(1)).toEqual([
      `/p/wall.h264 bytes=0-${at(50) - 1}`,
      `/p/wall.h264 bytes=${at(50)}-${at(100) - 1}`,
    ]);
  });

  it("asks for the frames ahead, and for none beyond the last", async () => {
    const source = await opened();
    await shown(source, 297, 6);
    expect(decoded.map((d) => d.timestamp)).toEqual([297, 298, 299]);
  });

  it("keeps few frames, and lets go of the oldest", async () => {
    const source = await opened();
    for (let frame = 0; frame < 40; frame++) await shown(source, frame);
    expect(open.size).toBe(14);
    expect(Math.min(...open)).toBe(26);
    source.close();
    expect(open.size).toBe(0);
  });

  it("asks again after the connection broke", async () => {
    const source = await opened();
    broken = true;
    expect(await shown(source, 5)).toBeUndefined();
    broken = false;
    expect((await shown(source, 5))?.timestamp).toBe(5);
  });
});

describe("a proxy that is not there", () => {
  beforeEach(() => vi.useFakeTimers());
  afterEach(() => vi.useRealTimers());

  it("is asked for again until it is made, also after the server did not answer, and then drawn", async () => {
    const answers: (() => object)[] = [
      () => ({ ok: false, status: 404 }),
      () => {
        throw new Error("the server is being started again");
      },
      () => ({ ok: true, json: async () => index }),
    ];
    let calls = 0;
    vi.stubGlobal("fetch", async () => (answers[calls++] as () => object)());
    let changed = 0;
    const source = new FrameSource({ index: "/p/wall.json", frames: "/p/wall.h264" }, () => changed++);
    await vi.advanceTimersByTimeAsync(400);
    expect([calls, source.index]).toEqual([1, null]);
    await vi.advanceTimersByTimeAsync(2000);
    expect([calls, changed, source.index?.width]).toEqual([3, 1, 480]);
  });

  it("is not asked for any more once it is closed", async () => {
    let calls = 0;
    vi.stubGlobal("fetch", async () => ({ ok: calls++ < 0 }));
    const source = new FrameSource({ index: "/p/wall.json", frames: "/p/wall.h264" }, () => undefined);
    await vi.advanceTimersByTimeAsync(100);
    source.close();
    await vi.advanceTimersByTimeAsync(60_000);
    expect(calls).toBe(1);
  });
});

describe("the size of a picture", () => {
  it("has the film's shape, and as many pixels for each", () => {
    const sizes = [
      [1920, 1080],
      [1080, 1920],
      [1080, 1080],
      [864, 1080],
      [2048, 858],
    ].map((film) => pictureSize(film as [number, number], "programme"));
    expect(sizes).toEqual([
      [480, 270],
      [270, 480],
      [360, 360],
      [320, 400],
      [568, 238],
    ]);
    expect(pictureSize([1920, 1080], "wall")).toEqual([320, 180]);
  });
});

describe("the proxies that are open", () => {
  const addressOf = (media: string, what: string) => `/p/${media}/${what}?of=${contents[media] ?? "old"}`;
  const contents: Record<string, string> = {};

  it("are others once a file has another content", () => {
    const pool = new ProxyPool(() => undefined, 4);
    const before = pool.get(addressOf, "a", "wall");
    contents.a = "new";
    expect(pool.get(addressOf, "a", "wall")).not.toBe(before);
  });

  it("are opened once, and the least recently used is closed beyond the limit", async () => {
    const pool = new ProxyPool(() => undefined, 2);
    const first = pool.get(addressOf, "a", "wall");
    pool.get(addressOf, "b", "wall");
    expect(pool.get(addressOf, "a", "wall")).toBe(first);
    await settled();
    await shown(first, 3);
    pool.get(addressOf, "c", "wall");
    expect(open.has(3)).toBe(true);
    expect(pool.get(addressOf, "a", "wall")).toBe(first);
    pool.get(addressOf, "d", "wall");
    pool.get(addressOf, "e", "wall");
    expect(open.has(3)).toBe(false);
  });
});
