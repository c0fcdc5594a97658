import { describe, expect, it } from "vitest";
import type { MediaView, PassView, SpanView, TakeView } from "../../api/client";
import { clockWords, listed, rise, type Sieve, snapped, spots, sureness, takeSpans } from "./lineup";

function pass(more: Partial<PassView>): PassView {
  return {
    id: 1,
    media: "a",
    take_start_s: 2,
    take_end_s: 12,
    song_start_s: 30,
    song_end_s: 40,
    rate: 1,
    status: "locked",
    places: [],
    pitch_kept: false,
    ...more,
  } as PassView;
}

function take(media: string, status: string, passes: PassView[] = []): TakeView {
  return { media, status, confidence: 1, passes, slate: "", moments: [], joints: [] };
}

const files = new Map(["a", "b", "c"].map((id, i) => [id, { camera: ["Wide", "Close", "Wide"][i] } as MediaView]));
const everything: Sieve = { status: "", camera: "", span: null };

describe("how sure a place is", () => {
  it.each([
    [1, "> 99 %"],
    [0.99, "> 99 %"],
    [0.9899, "98 %"],
    [0.5, "50 %"],
    [0, "0 %"],
  ])("%d is said as %s", (confidence, words) => {
    expect(sureness(confidence)).toBe(words);
  });
});

describe("the list", () => {
  const takes = [
    take("a", "locked", [pass({ song_start_s: 50, song_end_s: 60 })]),
    take("b", "choose", [
      pass({ status: "choose", places: [{ song_start_s: 10 }, { song_start_s: 70 }] as PassView["places"] }),
    ]),
    take("c", "silent"),
  ];

  it("puts doubt first, and sorts by camera and by song", () => {
    expect(listed(takes, files, "doubtful", everything).map((t) => t.media)).toEqual(["b", "c", "a"]);
    expect(listed(takes, files, "camera", everything).map((t) => t.media)).toEqual(["b", "a", "c"]);
    expect(listed(takes, files, "place", everything).map((t) => t.media)).toEqual(["b", "a", "c"]);
  });

  it("sifts by status, camera and part of the song; an open take counts where it may lie", () => {
    const names = (sieve: Partial<Sieve>) =>
      listed(takes, files, "doubtful", { ...everything, ...sieve }).map((t) => t.media);
    expect(names({ status: "open" })).toEqual(["b", "c"]);
    expect(names({ camera: "Wide" })).toEqual(["c", "a"]);
    expect(names({ span: [72, 75] })).toEqual(["b"]);
    expect(names({ span: [55, 58] })).toEqual(["a"]);
    expect(spots(takes[1] as TakeView).map((s) => [s.start, s.end])).toEqual([
      [10, 20],
      [70, 80],
    ]);
  });
});

describe("points", () => {
  it("jump to the nearest stroke within reach", () => {
    expect(snapped(10.02, [9.5, 10, 10.3], 0.08)).toBe(10);
    expect(snapped(10.15, [10, 10.3], 0.08)).toBe(10.15);
  });

  it("jump to the sharpest rise of the sound", () => {
    const rate = 16000;
    const samples = new Float32Array(rate).map((_, i) => 0.01 * Math.sin(i));
    for (let i = 8000; i < 9600; i++) samples[i] = 0.5 * Math.sin(i) * Math.exp(-(i - 8000) / 600);
    expect(rise(samples, 100, 1, 100.46, 0.08)).toBeCloseTo(100.5, 2);
    expect(rise(new Float32Array(rate), 100, 1, 100.46, 0.08)).toBe(100.46);
  });
});

describe("a pass", () => {
  it("says its clock in words", () => {
    expect(clockWords(pass({}), 24)).toBe("clocks agree");
    expect(clockWords(pass({ rate: 1.00012, song_end_s: 130 }), 24)).toBe(
      "camera clock slow by 120 ppm: 0.3 f over the pass, followed",
    );
    expect(clockWords(pass({ rate: 0.5, pitch_kept: true }), 24)).toContain("0.5000 times its speed, pitch kept");
  });

  it("shows the frames that the server says, in order, of all passes or of the locked ones", () => {
    const at = (start: number) => ({ start, end: start + 10 }) as SpanView;
    const passes = [pass({ span: at(70) }), pass({ span: at(20), status: "choose" }), pass({ span: null })];
    expect(takeSpans(take("a", "locked", passes)).map((s) => s.start)).toEqual([20, 70]);
    expect(takeSpans(take("a", "locked", passes), "locked").map((s) => s.start)).toEqual([70]);
  });
});
