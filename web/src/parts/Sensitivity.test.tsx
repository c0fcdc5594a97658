// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Sensitivity } from "./Sensitivity";

const sent: number[] = [];
const project = { state: { sensitivities: { kick: 0.5 } }, path: { path: { project_id: "p" } } };

vi.mock("../api/project", () => ({
  useProject: () => ({ ...project, act: async (work: () => Promise<unknown>) => work() }),
}));
vi.mock("../api/client", () => ({
  api: {
    PATCH: (_path: string, { body }: { body: { sensitivities: { kick: number } } }) =>
      sent.push(body.sensitivities.kick),
  },
  data: async (answer: unknown) => answer,
}));

beforeEach(() => {
  vi.useFakeTimers();
  sent.length = 0;
  project.state = { sensitivities: { kick: 0.5 } };
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const slider = () => screen.getByRole("slider");
const press = (times: number) => {
  for (let n = 0; n < times; n++) {
    fireEvent.keyDown(slider(), { key: "ArrowRight", keyCode: 39 });
    fireEvent.keyUp(slider(), { key: "ArrowRight", keyCode: 39 });
  }
};
const shown = () => Number(slider().getAttribute("aria-valuenow"));

describe("the sensitivity of a kind of hits", () => {
  it("is kept once the hand rests, and not at each step", async () => {
    render(<Sensitivity kind="kick" />);
    press(6);
    expect(sent).toEqual([]);
    await act(() => vi.advanceTimersByTimeAsync(300));
    expect(sent).toEqual([0.56]);
  });

  it("is not moved back by an answer to an earlier step", async () => {
    const { rerender } = render(<Sensitivity kind="kick" />);
    press(3);
    project.state = { sensitivities: { kick: 0.51 } };
    rerender(<Sensitivity kind="kick" />);
    expect(shown()).toBeCloseTo(0.53);
    press(1);
    expect(shown()).toBeCloseTo(0.54);
    await act(() => vi.advanceTimersByTimeAsync(300));
    expect(sent.at(-1)).toBeCloseTo(0.54);
  });

  it("follows what somebody else chose, and keeps the last step when one leaves", async () => {
    const { rerender, unmount } = render(<Sensitivity kind="kick" />);
    project.state = { sensitivities: { kick: 0.7 } };
    rerender(<Sensitivity kind="kick" />);
    expect(shown()).toBe(0.7);
    press(2);
    unmount();
    expect(sent).toEqual([0.72]);
  });
});
