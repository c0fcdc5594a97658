import { beforeEach, describe, expect, it } from "vitest";
import { layOnceTaken, layWhatIsReady, tookIn, useTaken } from "./taken";

const file = (id: string, state: string, seconds = 3) => ({ id, state, seconds });

describe("a file dropped on a place", () => {
  beforeEach(() => useTaken.setState({ lay: null, waiting: null }));

  it("is laid once, as soon as it is ready, and not before", () => {
    const laid: string[] = [];
    layOnceTaken((media) => laid.push(media));
    tookIn(["rope", "sea"]);
    layWhatIsReady([file("rope", "new"), file("sea", "ready")]);
    expect(laid).toEqual([]);
    layWhatIsReady([file("rope", "ready")]);
    layWhatIsReady([file("rope", "ready")]);
    expect(laid).toEqual(["rope"]);
  });

  it("is waited for no longer where it cannot be read, and files dropped beside are laid nowhere", () => {
    const laid: string[] = [];
    layOnceTaken((media) => laid.push(media));
    tookIn(["rope"]);
    layWhatIsReady([file("rope", "failed", 0)]);
    expect(useTaken.getState().waiting).toBeNull();
    tookIn(["sea"]);
    layWhatIsReady([file("sea", "ready")]);
    expect(laid).toEqual([]);
  });
});
