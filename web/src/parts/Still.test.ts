import { describe, expect, it } from "vitest";
import { tile, WHOLE } from "./Still";

const file = { stills: 25, width: 1920, height: 1080 };

describe("the part of a sheet that a still shows", () => {
  it("is the tile of the half second, as large as it lies in the frame", () => {
    expect(tile(file, "sheet", 6.2, 80, 45, WHOLE)).toMatchObject({
      left: 0,
      top: 0,
      width: 80,
      height: 45,
      backgroundSize: "800px auto",
      backgroundPosition: "-160px -45px",
    });
    expect(tile(file, "sheet", 99, 80, 45, WHOLE).backgroundPosition).toBe("-320px -90px");
  });

  it("leaves out the bars that a tile has beside an upright file", () => {
    const upright = { stills: 1, width: 1080, height: 1920 };
    const { left, width, height, backgroundPosition } = tile(upright, "sheet", 0, 90, 160, WHOLE);
    expect([left, width, height]).toEqual([0, 90, 160]);
    // The tile is 160 x 90, its picture 50.625 wide in the middle, and a still of 160 high is drawn 16/9 times as large.
    expect(Number.parseFloat(String(backgroundPosition).slice(1))).toBeCloseTo(((160 - 50.625) / 2) * (160 / 90), 6);
  });

  it("lies in an upright film as the file is fitted there", () => {
    const { top, width, height } = tile(file, "sheet", 0, 27, 48, WHOLE);
    expect([width, height, top].map((v) => Number(v).toFixed(4))).toEqual(["27.0000", "15.1875", "16.4063"]);
    const look = { scale: 3.2, x: 0.5, y: 0, turn: 90 };
    expect(tile(file, "sheet", 0, 27, 48, look).transform).toBe("translate(13.5px, 0px) rotate(90deg) scale(3.2)");
  });
});
