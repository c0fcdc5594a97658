// @vitest-environment jsdom
import { act, renderHook } from "@testing-library/react";
import { expect, test } from "vitest";
import { useStepped } from "./stepped";

test("each press goes on from the one before it, also while that is still being written", async () => {
  const written: number[] = [];
  const ends: (() => void)[] = [];
  const change = (value: number) => {
    written.push(value);
    return new Promise<boolean>((end) => ends.push(() => end(true)));
  };
  const { result, rerender } = renderHook(({ value }) => useStepped(value, change), { initialProps: { value: 10 } });
  void result.current((from) => from + 1);
  void result.current((from) => from + 1);
  expect(written).toEqual([11, 12]);
  // The first is known now: what is pressed next still goes on from the last.
  await act(async () => ends[0]?.());
  rerender({ value: 11 });
  void result.current((from) => from + 1);
  expect(written).toEqual([11, 12, 13]);
  await act(async () => {
    for (const end of ends) end();
  });
  rerender({ value: 20 });
  void result.current((from) => from + 1);
  expect(written.at(-1)).toBe(21);
});

test("a step that is refused counts no more", async () => {
  const { result } = renderHook(() => useStepped(10, async () => undefined));
  await act(() => result.current((from) => from + 1));
  let from = 0;
  void result.current((now) => {
    from = now;
    return now;
  });
  expect(from).toBe(10);
});
