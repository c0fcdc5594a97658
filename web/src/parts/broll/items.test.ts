import { editOf } from "../../api/testEdit";
import { describe, expect, it } from "vitest";
import type { MediaView, SaidView, SelectView } from "../../api/client";
import { itemsOf, lengthOf, NO_SIFT, sifted, tagsOf } from "./items";

const said = (change: Partial<SaidView> = {}): SaidView => ({
  rating: 0,
  tags: [],
  hue: 0,
  note: "",
  speed: 1,
  light: null,
  motion: null,
  moment_s: null,
  sections: [],
  ...change,
});
const clip = (id: string, change: Partial<MediaView> = {}) =>
  ({
    id,
    kind: "broll",
    name: id,
    select_in_s: 0,
    select_out_s: 5,
    seconds: 5,
    created: "",
    still: false,
    rate: "24",
    width: 1920,
    height: 1080,
    variable: false,
    said: said(),
    ...change,
  }) as MediaView;
const select = (
  id: number,
  media: string,
  in_s: number,
  out_s: number,
  change: Partial<SaidView> = {},
): SelectView => ({
  id,
  media,
  name: `${media} ${id}`,
  in_s,
  out_s,
  said: said(change),
});
const edit = (...laid: [string, number][]) =>
  editOf(
    [],
    laid.map(([media, in_s]) => ({ source: { media, in_s } })),
  );

describe("what can be laid", () => {
  const media = [clip("rope"), clip("sea"), { ...clip("GAL"), kind: "take" } as MediaView];
  const selects = [select(2, "sea", 3, 4), select(1, "sea", 0, 1)];

  it("is each select in its clip's order, and each clip without one", () => {
    expect(itemsOf(media, selects, undefined).map((i) => i.key)).toEqual(["mrope", "s1", "s2"]);
    expect(itemsOf(media, selects, undefined, true).map((i) => i.key)).toEqual(["mrope", "msea", "s1", "s2"]);
  });

  it("is used where the edit shows that part of it", () => {
    const items = itemsOf(media, selects, edit(["sea", 3.2]), true);
    expect(items.filter((i) => i.uses.length).map((i) => i.key)).toEqual(["msea", "s2"]);
  });

  it("says how long it is; a still has no length", () => {
    const [a, b] = itemsOf([clip("rope"), clip("chart", { still: true })], [], undefined);
    expect([lengthOf(a as never), lengthOf(b as never)]).toEqual(["5.0 s", "still"]);
  });
});

describe("sifting", () => {
  const items = itemsOf(
    [
      clip("clip 10", { created: "2026-01-02", said: said({ rating: 3, tags: ["place: pier", "dusk"], light: 0.1 }) }),
      clip("clip 2", { created: "2026-01-03", select_out_s: 2, said: said({ motion: 0.03, light: 0.7 }) }),
      clip("clip 1", { created: "2026-01-01", said: said({ note: "Gulls over it", motion: 0.001, tags: ["dusk"] }) }),
    ],
    [],
    edit(["clip 2", 0]),
  );
  const names = (change: Partial<typeof NO_SIFT>) => sifted(items, { ...NO_SIFT, ...change }).map((i) => i.name);

  it("keeps all by name, as people count", () => expect(names({})).toEqual(["clip 1", "clip 2", "clip 10"]));
  it("finds every word, in names, tags and notes", () => {
    expect(names({ words: "dusk PIER" })).toEqual(["clip 10"]);
    expect(names({ words: "gulls" })).toEqual(["clip 1"]);
    expect(names({ words: "gulls pier" })).toEqual([]);
  });
  it("goes by rating, length, use, light and movement", () => {
    expect(names({ rating: 3 })).toEqual(["clip 10"]);
    expect(names({ least: 4 })).toEqual(["clip 1", "clip 10"]);
    expect(names({ only: "unused" })).toEqual(["clip 1", "clip 10"]);
    expect(names({ light: "dark" })).toEqual(["clip 10"]);
    expect(names({ light: "light" })).toEqual(["clip 2"]);
    expect(names({ motion: "moving" })).toEqual(["clip 2"]);
    expect(names({ motion: "still" })).toEqual(["clip 1"]);
  });
  it("orders by time shot, length, rating and colour", () => {
    expect(names({ sort: "shot" })).toEqual(["clip 1", "clip 10", "clip 2"]);
    expect(names({ sort: "longest" }).at(-1)).toBe("clip 2");
    expect(names({ sort: "rating" })[0]).toBe("clip 10");
    const near = new Map([
      ["clip 2", 0],
      ["clip 10", 0.4],
    ]);
    expect(names({ sort: "colour", near })).toEqual(["clip 2", "clip 10"]);
  });
  it("knows the tags that are used, most used first", () => expect(tagsOf(items)).toEqual(["dusk", "place: pier"]));
});
