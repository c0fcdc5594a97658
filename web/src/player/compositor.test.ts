import { describe, expect, it } from "vitest";
import { type Act, PLAIN } from "./chain";
import { compose, deepSteps, fitted } from "./compositor";

/** A sheet that writes down what is drawn on it, with the opacity at that moment. */
function sheet() {
  const done: string[] = [];
  let alpha = 1;
  const kept: number[] = [];
  const paper = {
    set globalAlpha(value: number) {
      alpha = value;
    },
    fillStyle: "",
    save: () => kept.push(alpha),
    restore: () => {
      alpha = kept.pop() ?? 1;
    },
    translate: (x: number, y: number) => done.push(`move ${x} ${y}`),
    rotate: (angle: number) => done.push(`turn ${angle.toFixed(4)}`),
    scale: (k: number) => done.push(`scale ${k}`),
    fillRect(x: number, y: number, w: number, h: number) {
      done.push(`${this.fillStyle} ${[x, y, w, h].join(" ")} at ${alpha}`);
    },
    drawImage: (image: string, ...box: number[]) => done.push(`${image} ${box.join(" ")} at ${alpha}`),
  };
  return { done, paper: paper as unknown as CanvasRenderingContext2D };
}
const image = (name: string) => name as unknown as CanvasImageSource;
const seen = (amount: number): Act => ({ step: "opacity", values: { amount } });
const drawn = (done: string[]) => done.filter((d) => !/^(move|turn|scale)/.test(d));

describe("fitting a picture into the frame", () => {
  it("keeps its shape, with bars where it differs", () => {
    expect(fitted(320, 180, 480, 270)).toEqual([0, 0, 480, 270]);
    expect(fitted(180, 320, 640, 320)).toEqual([230, 0, 180, 320]);
    expect(fitted(400, 100, 400, 200)).toEqual([0, 50, 400, 100]);
  });
});

describe("composing", () => {
  it("draws one picture as it is, and nothing else", () => {
    const { done, paper } = sheet();
    compose(paper, 480, 270, [{ acts: PLAIN, image: image("a"), size: [320, 180] }]);
    expect(drawn(done)).toEqual(["a 0 0 480 270 at 1"]);
  });

  it("lays black beneath what does not fill the frame", () => {
    const { done, paper } = sheet();
    compose(paper, 640, 320, [{ acts: PLAIN, image: image("tall"), size: [180, 320] }]);
    expect(drawn(done)).toEqual(["#000 0 0 640 320 at 1", "tall 230 0 180 320 at 1"]);
  });

  it("mixes the later over the earlier by its opacity", () => {
    const { done, paper } = sheet();
    compose(paper, 480, 270, [
      { acts: PLAIN, image: image("a"), size: [480, 270] },
      { acts: [seen(0.25)], image: image("b"), size: [480, 270] },
      { acts: [seen(0)], image: image("c"), size: [480, 270] },
    ]);
    expect(drawn(done)).toEqual(["a 0 0 480 270 at 1", "b 0 0 480 270 at 0.25"]);
  });

  it("scales and turns about the middle, then shifts by shares of the frame", () => {
    const { done, paper } = sheet();
    const act = { step: "place", values: { scale: 2, x: 0.1, y: -0.5, turn: 90, mirror: 0 } };
    compose(paper, 400, 200, [{ acts: [act], image: image("a"), size: [400, 200] }]);
    const moves = done.filter((d) => /^(move|turn|scale)/.test(d));
    expect(moves).toEqual(["move 240 0", `turn ${(Math.PI / 2).toFixed(4)}`, "scale 2", "move -200 -100"]);
    expect(drawn(done)[0]).toBe("#000 0 0 400 200 at 1");
  });

  it("draws black on purpose, nothing at all as black, and a card over what lies beneath", () => {
    const { done, paper } = sheet();
    compose(paper, 40, 20, [{ acts: PLAIN }]);
    compose(paper, 40, 20, []);
    expect(drawn(done)).toEqual(["#000 0 0 40 20 at 1", "#000 0 0 40 20 at 1"]);
    done.length = 0;
    const beneath = { acts: PLAIN, image: image("a"), size: [240, 120] as [number, number] };
    compose(paper, 240, 120, [beneath, { acts: [seen(0.5)], card: { of: image("words"), left: 20, top: 60 } }]);
    expect(drawn(done)).toEqual(["a 0 0 240 120 at 1", "words 20 60 at 0.5"]);
  });

  it("leaves out and names the steps that need WebGL2 where there is none", () => {
    const { done, paper } = sheet();
    const blur = { step: "blur", values: { amount: 0.1 } };
    const parts = [{ acts: [blur, seen(0.5)], image: image("a"), size: [400, 200] as [number, number] }];
    expect(deepSteps(parts)).toEqual(["blur"]);
    expect(compose(paper, 400, 200, parts, 0, () => null)).toEqual(["blur"]);
    expect(drawn(done)).toEqual(["#000 0 0 400 200 at 1", "a 0 0 400 200 at 0.5"]);
    expect(compose(paper, 400, 200, [{ acts: [seen(0.5)] }], 0, () => null)).toEqual([]);
  });
});
