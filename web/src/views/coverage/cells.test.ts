import { describe, expect, it } from "vitest";
import type { AlternateView, AngleView, PassView, PhraseView, SectionView, SongView } from "../../api/client";
import { onKeys, sectionAt } from "../sheet/keys";
import { factsOf, feedsIn, rangesOf } from "./alternates";
import { across, beginOf, gaps, inBeats, keyNote, passName, stacked, walk, workingPasses } from "./cells";

const section = (start_s: number, end_s: number, name = "Chorus 1") => ({ id: 1, start_s, end_s, name }) as SectionView;
const angle = (number: number, holes: number[][] = []) =>
  ({ id: 10 * number, number, name: `A${number}`, holes }) as unknown as AngleView;
const pass = (id: number, from: number, to: number) =>
  ({ id, song_start_s: from, song_end_s: to, take_start_s: 1, take_end_s: 1 + to - from, rate: 1 }) as PassView;
const song = {
  beats: Array.from({ length: 81 }, (_, i) => i * 0.5),
  bars: Array.from({ length: 20 }, (_, i) => i * 4),
  first_bar: 1,
  metre: 4,
  sections: [section(0, 8, "Intro"), section(8, 16), section(16, 40, "Outro")],
} as unknown as SongView;

describe("cells", () => {
  it("are walked in four directions and end at the edges", () => {
    const cell = { angle: 1, section: 2 };
    expect(walk(cell, "left", 3, 4)).toEqual({ angle: 1, section: 1 });
    expect(walk(cell, "down", 3, 4)).toEqual({ angle: 2, section: 2 });
    expect(walk({ angle: 0, section: 3 }, "up", 3, 4)).toEqual({ angle: 0, section: 3 });
    expect(walk({ angle: 0, section: 3 }, "right", 3, 4)).toEqual({ angle: 0, section: 3 });
  });

  it("show what is missing where a section is covered in part, to the frame", () => {
    const holes = [
      [0, 48],
      [240, 300],
    ];
    expect(gaps(angle(1, holes), section(0, 8), 24)).toEqual([[0, 2]]);
    expect(gaps(angle(1, holes), section(8, 16), 24)).toEqual([[10, 12.5]]);
    expect(gaps(angle(1, [[0, 192]]), section(0, 8), 24)).toEqual([]);
    expect(gaps(angle(1), section(0, 8), 24)).toEqual([]);
  });

  it("count a hole in beats, and in bars where it is whole bars", () => {
    expect(inBeats(song, 2, 3.5)).toBe("3 beats");
    expect(inBeats(song, 2, 4)).toBe("1 bar");
    expect(inBeats(song, 2, 6)).toBe("2 bars");
    expect(inBeats(song, 2, 2.1)).toBe("1 beat");
  });

  it("name a key only where it is not the angle's number", () => {
    expect(keyNote(angle(2), [10, 20, null])).toBeNull();
    expect(keyNote(angle(12), [10, 120, null])).toBe("key 2");
    expect(keyNote(angle(12), [10, 20, null])).toBeNull();
    expect(keyNote(angle(2), undefined)).toBeNull();
  });

  it("begin where all passes of the first half are on", () => {
    expect(beginOf(section(8, 16), [pass(1, 0, 20), pass(2, 9, 20), pass(3, 14, 16)])).toBeCloseTo(9, 2);
    expect(beginOf(section(8, 16), [])).toBeCloseTo(8, 2);
  });
});

describe("passes", () => {
  it("lie on lanes of their own where they overlap", () => {
    const [a, b, c] = [pass(1, 0, 10), pass(2, 5, 12), pass(3, 10, 20)];
    const { of, count } = stacked([c, b, a]);
    expect(count).toBe(2);
    expect([of.get(a), of.get(b), of.get(c)]).toEqual([0, 1, 0]);
  });

  it("are cut into pieces by what is left out, each on the working clock and in its own take time", () => {
    const pieces = workingPasses(pass(1, 2, 12), [
      [0, 4],
      [8, 20],
    ]);
    expect(pieces.map((p) => [p.song_start_s, p.song_end_s, p.take_start_s, p.take_end_s])).toEqual([
      [2, 4, 1, 3],
      [4, 8, 7, 11],
    ]);
  });

  it("are numbered where a take has several", () => {
    expect(passName("DECK_04", 7, [{ id: 3 }, { id: 7 }])).toBe("DECK_04 p2");
    expect(passName("DECK_04", 7, [{ id: 7 }])).toBe("DECK_04");
  });

  it("are drawn in per cent of the lane and not beyond it", () => {
    expect(across(-2, 5, 10)).toEqual({ left: "0%", width: "50%" });
    expect(across(5, 20, 10)).toEqual({ left: "50%", width: "50%" });
  });
});

describe("alternates", () => {
  const alternate = (change: Partial<AlternateView>) =>
    ({
      feeds: [],
      covers: 1,
      sharp: 0.81,
      light: 0.4,
      burnt: 0,
      shaky_s: null,
      lips_ms: 0.4,
      ...change,
    }) as unknown as AlternateView;

  it("are chosen for the whole section or for its phrases, which are named by their line", () => {
    const phrases = [
      { start_s: 8, end_s: 12, lyric: "burn the fog away", first_bar: 5, bars: 2 },
      { start_s: 12, end_s: 16, lyric: "", first_bar: 7, bars: 2 },
      { start_s: 16, end_s: 20, lyric: "another section", first_bar: 9, bars: 2 },
    ] as PhraseView[];
    expect(rangesOf(section(8, 16), phrases).map((r) => r.name)).toEqual(["burn the fog away", "bars 7 to 8"]);
    expect(rangesOf(section(8, 16), [])).toEqual([{ start_s: 8, end_s: 16, name: "all of Chorus 1" }]);
  });

  it("feed all, some or nothing of a range", () => {
    const range = { start_s: 8, end_s: 12, name: "" };
    expect(feedsIn(alternate({ feeds: [[192, 288]] }), range, 24)).toBe("all");
    expect(feedsIn(alternate({ feeds: [[0, 240]] }), range, 24)).toBe("some");
    expect(feedsIn(alternate({ feeds: [[288, 400]] }), range, 24)).toBe("");
  });

  it("say their facts in words", () => {
    expect(factsOf(alternate({}), song)).toBe("sharp 0.81 · steady · lips within 1 ms");
    const poor = alternate({ shaky_s: 2.6, light: 0.05, burnt: 0.06, covers: 0.714, lips_ms: null });
    expect(factsOf(poor, song)).toBe("sharp 0.81 · shaky at 2.2 · dark · 6 % burnt out · placed by hand · covers 71 %");
    expect(factsOf(alternate({ sharp: null, light: null, burnt: null }), song)).toBe("lips within 1 ms");
  });
});

describe("keys of the sheet", () => {
  it("are those of the section at the playhead", () => {
    expect([0, 7.99, 8, 39, 100].map((at) => sectionAt(song, at))).toEqual([0, 0, 1, 2, 2]);
    expect(sectionAt(null, 3)).toBe(0);
  });

  it("reach angles in the order of the keys", () => {
    const angles = [angle(1), angle(2), angle(12)];
    const found = onKeys(angles, [null, 120, 10, null, null, null, null, null, null]);
    expect(found.map((k) => [k.key, k.angle.number])).toEqual([
      [2, 12],
      [3, 1],
    ]);
    expect(onKeys(angles, undefined).map((k) => k.key)).toEqual([1, 2, 12]);
  });
});
