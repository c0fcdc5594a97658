import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";

const SECONDS = 60;
let now = 0;
let wall = 0;
let started: { when: number; offset: number; seconds: number | undefined }[] = [];
let stopped = 0;
let clicked = 0;
let frame: () => void = () => undefined;

class Param {
  value = 1;
  setValueAtTime() {}
  setValueCurveAtTime() {}
}

class Node {
  gain = new Param();
  playbackRate = new Param();
  buffer: unknown = null;
  channelCount = 2;
  channelCountMode = "";
  connect(to: unknown) {
    return to;
  }
  start(when: number, offset?: number, seconds?: number) {
    if (offset === undefined) clicked++;
    else started.push({ when, offset, seconds });
  }
  stop() {
    stopped++;
  }
}

class Context {
  outputLatency = 0;
  sampleRate = 48000;
  destination = new Node();
  get currentTime() {
    return now;
  }
  resume = async () => undefined;
  createBufferSource = () => new Node();
  createGain = () => new Node();
  createBuffer = () => ({ getChannelData: () => new Float32Array(10) });
  decodeAudioData = async () => ({ duration: SECONDS });
}

let clock: typeof import("./clock").clock;
let useClock: typeof import("./clock").useClock;

beforeAll(async () => {
  vi.stubGlobal("AudioContext", Context);
  vi.stubGlobal("requestAnimationFrame", (next: () => void) => {
    frame = next;
  });
  vi.stubGlobal("performance", { now: () => wall * 1000 });
  vi.stubGlobal("fetch", async () => ({ ok: true, arrayBuffer: async () => new ArrayBuffer(1) }));
  ({ clock, useClock } = await import("./clock"));
  await clock.load("/song.flac", SECONDS);
});
afterAll(() => vi.unstubAllGlobals());

const WHOLE = { pieces: [], kept: [], fadeIn: 0, fadeOut: 0, shape: "smooth", before: 0, after: 0 };
const CUT = {
  ...WHOLE,
  kept: [
    [0, 10],
    [20, 40],
  ] as const,
  pieces: [
    { at: 0, offset: 0, seconds: 10, fadeIn: 0, fadeOut: 0.02 },
    { at: 9.98, offset: 19.98, seconds: 20.02, fadeIn: 0.02, fadeOut: 0 },
  ],
};

beforeEach(() => {
  clock.pause();
  clock.follow(WHOLE, true);
  clock.seek(0);
  useClock.setState({ loop: null, click: false });
  started = [];
  stopped = 0;
  clicked = 0;
});

describe("the clock", () => {
  it("knows the song's length once it is there", () => {
    expect(useClock.getState()).toMatchObject({ ready: true, duration: SECONDS, playing: false });
  });

  it("goes with the sound and nothing else", () => {
    clock.seek(5);
    clock.play();
    const begun = started[0]?.when ?? 0;
    expect(begun).toBeGreaterThan(now);
    expect(clock.position()).toBe(5);
    now = begun + 1.25;
    wall += 100;
    expect(clock.position()).toBeCloseTo(6.25, 9);
    clock.pause();
    now += 3;
    expect(clock.position()).toBeCloseTo(6.25, 9);
    expect(stopped).toBe(1);
  });

  it("starts the song where the playhead is", () => {
    clock.seek(12.5);
    clock.play();
    expect(started).toEqual([{ when: now + 0.03, offset: 12.5, seconds: SECONDS - 12.5 }]);
  });

  it("tells whoever listens, at once and after a jump", () => {
    const told: number[] = [];
    const stop = clock.subscribe((at) => told.push(at));
    clock.seek(7);
    stop();
    clock.seek(9);
    expect(told).toEqual([0, 7]);
  });

  it("goes back to the start of a loop, and stops at the end of the song", () => {
    useClock.setState({ loop: [10, 12] });
    clock.seek(11.5);
    clock.play();
    now += 0.03 + 0.6;
    frame();
    expect(clock.position()).toBeCloseTo(10, 1);
    useClock.setState({ loop: null });
    clock.seek(SECONDS - 0.5);
    now += 2;
    frame();
    expect(useClock.getState().playing).toBe(false);
    expect(clock.position()).toBe(SECONDS);
    clock.play();
    expect(clock.position()).toBe(0);
  });

  it("shuttles without sound on wall time, forwards and back", () => {
    clock.seek(30);
    clock.play(-2);
    wall += 3;
    expect(clock.position()).toBeCloseTo(24, 9);
    expect(started).toEqual([]);
    wall += 100;
    frame();
    expect([clock.position(), useClock.getState().playing]).toEqual([0, false]);
  });
});

describe("hits that are heard", () => {
  it("sound over the song with the grid's clicks or without, from the playhead on, until they are taken off", () => {
    clock.setHits([5, 12, 20].map((at) => ({ at, down: false, kind: "snare" as const })));
    clock.seek(10);
    clock.play();
    expect(clicked).toBe(2);
    clock.setHits([]);
    expect([clicked, useClock.getState().playing]).toEqual([2, true]);
  });
});

describe("clicks", () => {
  it("of another way to count are heard over the song, at once, until they are left", () => {
    clock.tryClicks([{ at: 1, down: true }]);
    expect(useClock.getState().playing).toBe(true);
    expect(clicked).toBe(1);
    clock.tryClicks([1, 2, 3, 4].map((at) => ({ at, down: false })));
    expect(clicked).toBe(5);
    clock.tryClicks(null);
    expect([clicked, useClock.getState().playing]).toEqual([5, true]);
  });
});

describe("a cutdown", () => {
  it("is played piece by piece, each from where it is heard", () => {
    clock.follow(CUT, false);
    clock.seek(4);
    clock.play();
    const begun = now + 0.03;
    expect(started[0]).toEqual({ when: begun, offset: 4, seconds: 6 });
    expect(started[1]?.when).toBeCloseTo(begun + 5.98, 9);
    expect(started[1]).toMatchObject({ offset: 19.98, seconds: 20.02 });
    expect(useClock.getState().duration).toBe(30);
  });

  it("keeps the moment of the song where the view changes its time", () => {
    clock.follow(CUT, true);
    clock.seek(25);
    clock.follow(CUT, false);
    expect(clock.position()).toBe(15);
    clock.follow(CUT, true);
    expect(clock.position()).toBe(25);
  });
});

describe("film around the song", () => {
  const AROUND = { ...WHOLE, before: 4, after: 2 };

  it("is played in silence before the song, which begins in its time, and after it", () => {
    clock.follow(AROUND, false);
    clock.seek(-3);
    expect(clock.position()).toBe(-3);
    clock.play();
    expect(started[0]).toMatchObject({ offset: 0 });
    expect(started[0]?.when).toBeCloseTo(now + 0.03 + 3, 9);
    clock.seek(SECONDS + 1);
    expect(clock.position()).toBeCloseTo(SECONDS + 1, 9);
    expect(useClock.getState().duration).toBe(SECONDS);
  });

  it("bounds where the playhead can go, and is where playing begins again after the end", () => {
    clock.follow(AROUND, false);
    clock.seek(-9);
    expect(clock.position()).toBe(-4);
    clock.seek(SECONDS + 9);
    expect(clock.position()).toBe(SECONDS + 2);
    clock.play();
    expect(clock.position()).toBe(-4);
  });

  it("keeps the playhead there when the edit changes, and as far from the song where that is cut", () => {
    clock.follow(AROUND, false);
    clock.seek(-2);
    clock.follow({ ...AROUND }, false);
    expect(clock.position()).toBe(-2);
    clock.seek(SECONDS + 1);
    clock.follow({ ...CUT, before: 4, after: 2 }, false);
    expect(clock.position()).toBe(31);
    clock.seek(-2);
    clock.follow(WHOLE, true);
    expect(clock.position()).toBe(0);
  });
});

describe("a song that cannot be loaded", () => {
  afterEach(() => vi.useRealTimers());

  it("is tried again until it is there, and then played", async () => {
    vi.useFakeTimers({ toFake: ["setTimeout"] });
    let calls = 0;
    vi.stubGlobal("fetch", async () => {
      if (++calls === 1) throw new Error("the server is being started again");
      return { ok: calls > 2, status: 404, arrayBuffer: async () => new ArrayBuffer(1) };
    });
    const loading = clock.load("/other.flac", SECONDS);
    await vi.advanceTimersByTimeAsync(900);
    expect([calls, useClock.getState().ready]).toEqual([1, false]);
    await vi.advanceTimersByTimeAsync(3000);
    await loading;
    expect([calls, useClock.getState().ready]).toEqual([3, true]);
    clock.play();
    expect(started.length).toBeGreaterThan(0);
  });

  it("is left when another is asked for", async () => {
    vi.useFakeTimers({ toFake: ["setTimeout"] });
    const asked: string[] = [];
    vi.stubGlobal("fetch", async (url: string) => {
      asked.push(url);
      return { ok: url === "/here.flac", status: 404, arrayBuffer: async () => new ArrayBuffer(1) };
    });
    const gone = clock.load("/gone.flac", SECONDS);
    await vi.advanceTimersByTimeAsync(10);
    await clock.load("/here.flac", SECONDS);
    await vi.advanceTimersByTimeAsync(60_000);
    await gone;
    expect(asked).toEqual(["/gone.flac", "/here.flac"]);
    expect(useClock.getState().ready).toBe(true);
  });
});
