import { describe, expect, it } from "vitest";
import type { JobView } from "./client";
import { wasStopped } from "./jobs";

const job = (kind: string, state: string): JobView => ({
  id: 1,
  kind,
  state,
  title: "",
  message: "",
  error: "",
  progress: 0,
  edit: null,
  operations: null,
  result: {},
});

describe("listening that was stopped", () => {
  it("is told by the latest work on the song", () => {
    expect(wasStopped([job("prepare", "cancelled")])).toBe(true);
    expect(wasStopped([job("render", "running"), job("prepare", "failed")])).toBe(true);
    expect(wasStopped([job("prepare", "running"), job("prepare", "cancelled")])).toBe(false);
    expect(wasStopped([job("prepare", "done"), job("prepare", "cancelled")])).toBe(false);
  });
  it("is not said where nothing is known", () => {
    expect(wasStopped([])).toBe(false);
    expect(wasStopped([job("render", "cancelled")])).toBe(false);
  });
});
