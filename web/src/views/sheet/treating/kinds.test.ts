import { describe, expect, it } from "vitest";
import cases from "../../../../../tests/cases/places.json";
import type { ItemView, SongView } from "../../../api/client";
import {
  dragged,
  filled,
  frameOf,
  inWords,
  OFFERED,
  offered,
  offeredFor,
  othersFor,
  placeAt,
  placeFrom,
  placeText,
  reordered,
  songFades,
  begun,
  ofClip,
  choicesOf,
} from "./kinds";
import { TREATMENTS } from "../../../api/facts";
import { bounds, leaps, line, runs, speedAt, speedOf } from "./speed";

const song = {
  beats: Array.from({ length: 41 }, (_, i) => (i - 4) * 0.5),
  beat_frames: Array.from({ length: 41 }, (_, i) => Math.max(0, (i - 4) * 12)),
  bars: Array.from({ length: 11 }, (_, i) => i * 4),
  first_bar: 0,
  metre: 4,
  bpm: 120,
  sections: [
    { name: "Verse 1", group: 0 },
    { name: "Chorus 1", group: 1 },
    { name: "Chorus 2", group: 1 },
  ],
  phrases: [
    { section: 0, end_frame: 96 },
    { section: 1, end_frame: 192 },
    { section: 2, end_frame: 288 },
  ],
} as unknown as SongView;
const shot = (start: number, end: number, angle: number | null, more: Partial<ItemView> = {}) =>
  ({
    id: start,
    start,
    end,
    source: { kind: angle ? "angle" : "clip", angle, media: angle ? null : "rope" },
    treated: null,
    ...more,
  }) as ItemView;

describe("dragging a value", () => {
  const pulse = begun("pulse", { bar: 1, beat: 1 }, 0);
  const field = (kind: "pulse" | "stutter" | "speed", name: string, type: string) =>
    offered(kind).fields.find((f) => f.name === name && f.type === type) as Parameters<typeof dragged>[1];

  it("goes by steps of its own kind, small ones with Shift, and keeps the rest", () => {
    const amount = field("pulse", "amount", "percent");
    expect(dragged(pulse, amount, 3, false)).toEqual({ ...pulse, amount: 0.09 });
    expect(dragged(pulse, amount, -3, true)).toEqual({ ...pulse, amount: 0.054 });
    const fall = field("pulse", "fall", "length");
    expect(dragged(pulse, fall, 2, false)).toMatchObject({ fall: { value: 1, unit: "beats" } });
    expect(dragged(pulse, fall, -9, false)).toMatchObject({ fall: { value: 0, unit: "beats" } });
  });

  it("keeps counts whole and at least one, and lets alone what is no number", () => {
    const stutter = begun("stutter", { bar: 1, beat: 1 }, 0);
    expect(dragged(stutter, field("stutter", "times", "count"), -9, true)).toMatchObject({ times: 1 });
    const again = { ...stutter, times: null } as typeof stutter;
    expect(dragged(again, field("stutter", "times", "count"), 2, false)).toBe(again);
    expect(dragged(pulse, field("pulse", "what", "choice"), 2, false)).toBe(pulse);
  });
});

describe("kinds", () => {
  it("each has fields that it knows and begins as itself", () => {
    for (const o of OFFERED) {
      const first = begun(o.kind, { bar: 3, beat: 2 }, 1);
      expect(first.kind).toBe(o.kind);
      expect(first.off).toBe(false);
      for (const f of o.fields) expect(Object.keys(first)).toContain(f.name);
      expect(offered(o.kind)).toBe(o);
    }
    expect(new Set(OFFERED.map((o) => o.kind)).size).toBe(OFFERED.length);
    expect(OFFERED.map((o) => o.kind).sort()).toEqual(Object.keys(TREATMENTS).sort());
  });

  it("begin with the core's own values but for what lies at the playhead, and each time anew", () => {
    for (const { kind, here } of OFFERED) {
      const given = Object.keys(here?.({ bar: 3, beat: 2 }, 1) ?? {});
      for (const [name, value] of Object.entries(TREATMENTS[kind]?.begins ?? {}))
        if (!given.includes(name)) expect(begun(kind, { bar: 3, beat: 2 }, 1)).toMatchObject({ [name]: value });
    }
    expect(begun("moment", { bar: 3, beat: 2 }, 1)).toMatchObject({
      moment_s: 2,
      at: { bar: 3, beat: 2 },
      rest: "normal",
    });
    const one = begun("pulse", { bar: 1, beat: 1 }, 0) as { on: object };
    const other = begun("pulse", { bar: 1, beat: 1 }, 0) as { on: object };
    expect(one.on).not.toBe(other.on);
  });

  it("begin with what was said of the clip: its range, its moment, its slowest speed", () => {
    const clip = { range: [3, 5] as const, moment_s: 4.2, seen: { bar: 5, beat: 3 }, slowest: 0.5 };
    const made = (kind: Parameters<typeof begun>[0], of = clip) => begun(kind, { bar: 3, beat: 2 }, 1, of);
    expect(made("fit")).toMatchObject({ from_s: 3, to_s: 5 });
    expect(made("moment")).toMatchObject({ moment_s: 4.2, at: { bar: 3, beat: 2 } });
    expect(made("speed")).toMatchObject({ factor: 0.5 });
    expect(made("ramp")).toMatchObject({ at: [{ bar: 5, beat: 3 }] });
    const bare = { range: null, moment_s: null, seen: null, slowest: null };
    for (const kind of ["fit", "moment", "speed", "ramp"] as const)
      expect(begun(kind, { bar: 3, beat: 2 }, 1, bare)).toEqual(begun(kind, { bar: 3, beat: 2 }, 1));
  });

  it("tell where a clip's moment is seen, and no speed that shows frames twice", () => {
    const song = { beats: [0, 0.5, 1, 1.5, 2, 2.5], bars: [0, 4], first_bar: 1, beat_frames: [0, 12, 24, 36, 48, 60] };
    const item = { ...shot(0, 60, null), source: { kind: "clip", media: "rope", in_s: 2, speed: 0.5 } } as never;
    const file = (more: object) =>
      ({ select_in_s: 0, select_out_s: 8, seconds: 8, slowest: 0.5, said: { moment_s: 2.5 }, ...more }) as never;
    const told = (more: object) => ofClip(item, 60, file(more), song as never, 24);
    // Half a second of the clip at half speed is a second of the film.
    expect(told({})).toEqual({ range: null, moment_s: 2.5, seen: { bar: 1, beat: 3 }, slowest: null });
    expect(told({ select_out_s: 6, slowest: 0.25 })).toMatchObject({ range: [0, 6], slowest: 0.5 });
    expect(told({ said: { moment_s: 7 } })).toMatchObject({ seen: null });
    expect(told({ said: { moment_s: null } })).toMatchObject({ moment_s: null, seen: null });
  });

  it("have choices for every field that is chosen", () => {
    for (const o of OFFERED)
      for (const f of o.fields)
        if (f.type === "choice") expect(choicesOf(o.kind, f.name).length, `${o.kind} ${f.name}`).toBeGreaterThan(1);
    expect(choicesOf("fade", "shape")).not.toContain("hold");
  });

  it("offers only what can be given", () => {
    const kinds = (s: Parameters<typeof offeredFor>[0], angle = false) => offeredFor(s, angle).map((o) => o.kind);
    expect(kinds({ kind: "passage", item: null, first: 0, end: 9, name: "" })).not.toContain("moment");
    expect(kinds({ kind: "passage", item: null, first: 0, end: 9, name: "" })).toContain("rewind");
    expect(kinds({ kind: "cutaway", id: 7, start: 0, end: 9 })).not.toContain("dissolve");
    expect(kinds({ kind: "shot", id: 7, start: 0, end: 9 })).not.toContain("dissolve");
    expect(kinds({ kind: "shot", id: 7, start: 5, end: 9 })).toContain("dissolve");
    expect(kinds({ kind: "shot", id: 7, start: 5, end: 9 }, true)).not.toContain("fit");
  });
});

describe("places", () => {
  it.each([
    ["14.3", { bar: 14, beat: 3 }],
    ["14", { bar: 14, beat: 1 }],
    [" 2:4.5 ", { bar: 2, beat: 4.5 }],
    ["-1.2", { bar: -1, beat: 2 }],
    ["x", null],
    ["3.0", null],
    ["", null],
  ])("reads %s", (text, place) => expect(placeFrom(text)).toEqual(place));

  it("is written, read and found on the grid again", () => {
    expect(placeText({ bar: 3, beat: 2.5 })).toBe("3.2.5");
    for (const frame of [0, 12, 48, 60, 132]) {
      const place = placeAt(song, frame, 24);
      expect(placeFrom(placeText(place))).toEqual(place);
      expect(frameOf(song, place, 24)).toBe(frame);
    }
    expect(placeAt(song, 50, 24)).toEqual(placeAt(song, 48, 24));
    expect(frameOf(song, { bar: 99, beat: 1 }, 24)).toBeNull();
    expect(frameOf(song, { bar: 1, beat: 1.5 }, 24)).toBe(6);
  });
});

describe("lists", () => {
  it("are put in another order", () => {
    expect(reordered(["a", "b", "c"], 0, 2)).toEqual(["b", "c", "a"]);
    expect(reordered(["a", "b", "c"], 2, 0)).toEqual(["c", "a", "b"]);
    expect(reordered(["a"], 5, 0)).toEqual(["a"]);
  });

  it("of other shots name those of the angle, of the repeats, and of the section", () => {
    const shots = [
      shot(0, 48, 1),
      shot(48, 96, 2),
      shot(96, 144, 1),
      shot(144, 192, 2),
      shot(192, 240, 1),
      shot(240, 288, null),
    ];
    const others = othersFor(shots[2] as ItemView, shots, song, { number: 1, name: "Gallery" });
    expect(others.map((o) => [o.label, o.items])).toEqual([
      ["all of angle 1", [0, 96, 192]],
      ["all of angle 1 in Chorus 1, Chorus 2", [96, 192]],
      ["every shot of Chorus 1", [96, 144]],
      ["every shot of Chorus 1, Chorus 2", [96, 144, 192, 240]],
    ]);
  });

  it("say in one line what a shot is treated with", () => {
    const treated = {
      treatments: [
        { kind: "reverse", off: false },
        { kind: "mirror", off: true },
      ],
      said: ["backwards", ""],
      wrong: ["", ""],
      pieces: null,
      whole: [0, 9],
    } as NonNullable<ItemView["treated"]>;
    expect(inWords({ treated })).toBe("reverse, backwards · off: mirror");
    expect(inWords({ treated: null })).toBe("");
    expect(filled(treated).map((t) => t.kind)).toEqual(["reverse", "mirror"]);
  });
});

describe("the graph of speed", () => {
  const ramp = [
    { frames: 10, at_s: 0, speed: 2, end_speed: 2 },
    { frames: 10, at_s: 20 / 24, speed: 2, end_speed: 0.5 },
    { frames: 10, at_s: 5, speed: -0.5, end_speed: -0.5 },
  ];
  it("draws what is there, at the clip's own speed", () => {
    expect(line(ramp, 1)).toEqual([
      [0, 2],
      [10, 2],
      [10, 2],
      [20, 0.5],
      [20, -0.5],
      [30, -0.5],
    ]);
    expect(line(ramp.slice(0, 1), 0.5)).toEqual([
      [0, 1],
      [10, 1],
    ]);
    expect(bounds([], 1)).toEqual([0, 1.12]);
    const [low, high] = bounds(ramp, 1);
    expect(low).toBeLessThan(-0.5);
    expect(high).toBeGreaterThan(2);
  });
  it("says over which frames each speed runs, and how fast the picture is in a frame", () => {
    expect(runs([120], 2, 100, 200)).toEqual([
      [100, 120],
      [120, 200],
    ]);
    expect(runs([], 2, 100, 200)).toEqual([
      [100, 150],
      [150, 200],
    ]);
    expect(runs([null, 170], 3, 100, 190).map(([a]) => a)).toEqual([100, 130, 170]);
    expect([0, 9, 15, 25, 99].map((f) => speedOf(ramp, f))).toEqual([2, 2, 1.25, -0.5, -0.5]);
    expect(speedOf([], 3)).toBe(1);
  });
  it("is dragged in steps of a twentieth, at the clip's own speed", () => {
    expect(speedAt(0, 100, 0, 2, 1)).toBe(2);
    expect(speedAt(51, 100, 0, 2, 1)).toBe(1);
    expect(speedAt(50, 100, 0, 2, 0.5)).toBe(2);
    expect(speedAt(400, 100, 0, 2, 1)).toBe(0.05);
    expect(speedAt(-4000, 100, 0, 2, 1)).toBe(20);
  });
  it("marks where the picture leaps", () => expect(leaps(ramp, 24)).toEqual([20]));
});

describe("fades as the song's own", () => {
  const level = { fade_in_s: 0, fade_out_s: 2.5, shape: "slow" };
  it("are offered where the song fades", () => {
    const at = (start: number, end: number) => ({ kind: "shot" as const, id: 7, start, end });
    expect(songFades(at(0, 90), 300, level, 24)).toEqual([]);
    const [out] = songFades(at(90, 300), 300, level, 24);
    expect(out).toMatchObject({ kind: "fade", side: "out", over: { value: 60, unit: "frames" }, shape: "slow start" });
    const both = songFades(at(0, 300), 300, { fade_in_s: 1, fade_out_s: 2, shape: "even" }, 25);
    expect(both.map((t) => t.kind === "fade" && [t.side, t.over.value, t.shape])).toEqual([
      ["in", 25, "straight"],
      ["out", 50, "straight"],
    ]);
    expect(songFades({ kind: "cutaway", id: 7, start: 0, end: 300 }, 300, level, 24)).toEqual([]);
  });
});

describe("places as they are written, by the table that the core is held to", () => {
  it.each(cases.map((c, i) => ({ ...c, name: `${i}: bars from ${c.first_bar}, ${c.rate.toFixed(2)} f/s` })))(
    "$name",
    ({ beats, bars, first_bar, rate, at }) => {
      for (const [text, frame] of at as [string, number | null][]) {
        const place = placeFrom(text);
        expect(place && frameOf({ beats, bars, first_bar }, place, rate), text).toBe(frame);
      }
    },
  );
});
