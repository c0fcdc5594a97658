// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { matching } from "./CommandList";
import { changeKey, type Command, keyShown, keysOf, placesNow, useCommandKeys } from "./keys";

const command = (words: string, keys = ""): Command => ({ words, keys, run: () => undefined });

function Place({ commands, first = false }: { commands: readonly Command[]; first?: boolean }) {
  useCommandKeys("Here", commands, first);
  return (
    <>
      <button type="button">a button</button>
      <input aria-label="a field" />
    </>
  );
}

beforeAll(() => localStorage.clear());
afterEach(() => {
  cleanup();
  localStorage.clear();
});

describe("commands by their keys", () => {
  it("are done at their key, and not while one types", () => {
    const run = vi.fn();
    render(<Place commands={[{ words: "Cut here", keys: "/ Ctrl+x", run }]} />);
    fireEvent.keyDown(document.body, { key: "/" });
    fireEvent.keyDown(document.body, { key: "x", ctrlKey: true });
    expect(run).toHaveBeenCalledTimes(2);
    fireEvent.keyDown(screen.getByLabelText("a field"), { key: "/" });
    expect(run).toHaveBeenCalledTimes(2);
  });

  it("leave the key to what is around where they do not want it", () => {
    const [outer, inner] = [vi.fn(), vi.fn(() => false)];
    render(<Place commands={[{ words: "Outer", keys: "a", run: outer }]} />);
    render(<Place commands={[{ words: "Inner", keys: "a", run: inner }]} first />);
    fireEvent.keyDown(document.body, { key: "a" });
    expect([inner.mock.calls.length, outer.mock.calls.length]).toEqual([1, 1]);
    inner.mockReturnValue(true as never);
    fireEvent.keyDown(document.body, { key: "a" });
    expect([inner.mock.calls.length, outer.mock.calls.length]).toEqual([2, 1]);
  });

  it("take another key, keep it, and give it back", () => {
    const run = vi.fn();
    const cut = { words: "Cut here", keys: "/", run };
    render(<Place commands={[cut]} />);
    changeKey(cut, "y");
    fireEvent.keyDown(document.body, { key: "/" });
    expect(run).not.toHaveBeenCalled();
    fireEvent.keyDown(document.body, { key: "y" });
    expect(run).toHaveBeenCalledOnce();
    changeKey(cut, null);
    expect(keysOf(cut)).toEqual(["/"]);
  });

  it("are listed as long as their part of the page is shown", () => {
    const { unmount } = render(<Place commands={[command("Cut here", "/")]} />);
    expect(placesNow().map((p) => p.commands.map((c) => c.words))).toEqual([["Cut here"]]);
    unmount();
    expect(placesNow()).toEqual([]);
  });
});

describe("commands by their words", () => {
  const all = [
    { ...command("Cut a beat later", "Alt+Shift+ArrowRight"), where: "Cutting" },
    { ...command("Next cut", "n"), where: "Cutting" },
    { ...command("Play or pause", "Space"), where: "The song" },
  ];

  it("are found by every word typed, in any order, by their place and their keys", () => {
    const found = (typed: string) => matching(all, typed).map((c) => c.words);
    expect(found("")).toHaveLength(3);
    expect(found("beat cut")).toEqual(["Cut a beat later"]);
    expect(found("SONG")).toEqual(["Play or pause"]);
    expect(found("alt+shift")).toEqual(["Cut a beat later"]);
    expect(found("cut render")).toEqual([]);
  });

  it("show their keys as they stand on the keyboard", () => {
    expect(["Alt+Shift+ArrowRight", "Ctrl+z", "Space", "+", "Ctrl++"].map(keyShown)).toEqual([
      "Alt+Shift+→",
      "Ctrl+Z",
      "space",
      "+",
      "Ctrl++",
    ]);
  });
});
