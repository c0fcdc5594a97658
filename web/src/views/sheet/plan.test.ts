import { editOf } from "../../api/testEdit";
import { describe, expect, it } from "vitest";
import type { ItemView, ProjectState } from "../../api/client";
import { arithmetic, partsIn } from "./plan";
import { repeatsOf, rowsOf } from "./geometry";

const shot = (start: number, end: number, kind: string, more: object = {}): ItemView =>
  ({ start, end, held: false, source: { kind, angle: null, media: null, in_s: 0, ...more } }) as unknown as ItemView;
const shots = [
  shot(0, 96, "angle", { angle: 1 }),
  shot(96, 144, "clip", { media: "rope" }),
  { ...shot(144, 192, "angle", { angle: 2 }), held: true },
  shot(192, 480, "empty"),
];
const state = {
  length: 480,
  song: { beats: [0, 0.5] },
  media: [
    { id: "rope", kind: "broll" },
    { id: "sea", kind: "broll" },
    { id: "take", kind: "take" },
  ],
  selects: [
    { id: 1, media: "rope" },
    { id: 2, media: "rope" },
  ],
} as unknown as ProjectState;

describe("the arithmetic of a plan", () => {
  it("tells shots, their mean length, what is used, what stays and what is left empty", () => {
    expect(arithmetic(editOf(shots), state, 24, 2, 4)).toBe(
      "4 shots, 10.0 beats each · 1 of 3 selects and clips · 50 % on a bar · 1 held, they stay · 1 slot stays empty: nothing is long enough",
    );
    expect(arithmetic(editOf(shots.slice(0, 1)), state, 24, 0, 0)).toBe(
      "1 shot, 40.0 beats each · 0 of 3 selects and clips",
    );
  });

  it("lays the parts of shots into a passage as shares of it", () => {
    const parts = partsIn(shots, { first: 48, end: 148 });
    expect(parts.map((p) => [p.left, p.width])).toEqual([
      [0, 0.48],
      [0.48, 0.48],
      [0.96, 0.04],
    ]);
  });
});

const phrase = (section: number, number: number, start_s: number, end_s: number, lyric = "") => ({
  section,
  number,
  start_s,
  end_s,
  first_frame: start_s * 24,
  end_frame: end_s * 24,
  first_bar: 1 + start_s / 2,
  bars: (end_s - start_s) / 2,
  lyric,
});
const song = {
  sections: [
    { name: "Verse 1", group: 0 },
    { name: "Chorus 1", group: 1 },
    { name: "Verse 2", group: 0 },
    { name: "Outro", group: 2 },
  ],
  phrases: [
    phrase(0, 1, 0, 8, "one"),
    phrase(0, 2, 8, 16, "two"),
    phrase(0, 3, 16, 20),
    phrase(1, 1, 20, 28),
    phrase(2, 1, 28, 36),
    phrase(2, 2, 36, 44),
    phrase(3, 1, 44, 48),
  ],
} as unknown as Parameters<typeof repeatsOf>[0];

describe("rows", () => {
  it("hold a phrase, two of a section, or a section, and cover all of the song", () => {
    for (const [per, count] of [
      ["phrase", 7],
      ["two phrases", 5],
      ["section", 4],
    ] as const) {
      const rows = rowsOf(song, per).map((r) => r.phrase);
      expect(rows.length).toBe(count);
      expect(rows[0]?.start_s).toBe(0);
      expect(rows.at(-1)?.end_frame).toBe(48 * 24);
      rows.slice(1).forEach((p, i) => expect(p.start_s).toBe(rows[i]?.end_s));
    }
    expect(rowsOf(song, "two phrases")[0]?.phrase).toMatchObject({ lyric: "one / two", bars: 8, end_s: 16 });
  });

  it("of repeats lie under each other, first with first, and what comes once is left out", () => {
    const groups = repeatsOf(song);
    expect(groups.map((g) => g.rows.map((r) => [r.phrase.section, r.phrase.number]))).toEqual([
      [
        [0, 1],
        [2, 1],
      ],
      [
        [0, 2],
        [2, 2],
      ],
      [[0, 3]],
    ]);
    expect(groups[0]?.name).toBe("Verse 1, Verse 2: row 1 of 3");
    expect(repeatsOf(song, "section").map((g) => g.rows.length)).toEqual([2]);
  });
});
