import { describe, expect, it } from "vitest";
import { Pace } from "./pace";

const wall = (pace: Pace, count: number) => {
  const members = Array.from({ length: count }, () => ({}));
  for (const one of members) pace.join(one);
  return members;
};
const drawn = (pace: Pace, members: object[], frame: number) => members.filter((one) => pace.draws(one, frame)).length;

describe("the pace of a wall", () => {
  it("draws all of it while the programme loses nothing", () => {
    const pace = new Pace();
    const members = wall(pace, 9);
    for (let frame = 0; frame < 200; frame++) pace.drew(frame);
    expect(drawn(pace, members, 200)).toBe(9);
  });

  it("draws them in turn once frames are lost, each at least in every fourth, and all again after a calm while", () => {
    const pace = new Pace();
    const members = wall(pace, 9);
    for (let frame = 0; frame < 100; frame += 2) pace.drew(frame);
    expect(pace.every).toBe(4);
    for (let frame = 100; frame < 108; frame++) expect([2, 3]).toContain(drawn(pace, members, frame));
    for (const one of members) expect([0, 1, 2, 3].filter((f) => pace.draws(one, 100 + f))).toHaveLength(1);
    for (let frame = 100; frame < 600; frame++) pace.drew(frame);
    expect(pace.every).toBe(1);
  });

  it("takes a jump of the playhead, or one frame that is lost, for no sign", () => {
    const pace = new Pace();
    for (const frame of [0, 1, 2, 500, 501, 3, 4, 6, 7, 8]) pace.drew(frame);
    expect(pace.every).toBe(1);
  });
});
