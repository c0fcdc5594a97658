import { useRef } from "react";
import { classes } from "../../../parts/classes";
import styles from "./Colour.module.css";
import { clippedAt } from "./scope";
import { useMeasured } from "./useMeasured";

const cx = classes(styles);
/** Width at which the picture is looked through. */
const WIDE = 320;
/** What is too dark is marked in one colour, what is too bright in another. */
const MARKS = { dark: [47, 111, 237, 255], bright: [226, 40, 40, 255] } as const;

/** Marks on the picture where a colour is at the end of its scale. */
export function Clipped({ changed }: { changed: unknown }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useMeasured(
    WIDE,
    ({ data, width, height }) => {
      const on = canvas.current;
      const paper = on?.getContext("2d");
      if (!on || !paper) return;
      if (on.width !== width || on.height !== height) [on.width, on.height] = [width, height];
      const marks = paper.createImageData(width, height);
      for (let n = 0; n < width * height; n++) {
        const end = clippedAt(data, n);
        if (end) marks.data.set(MARKS[end], 4 * n);
      }
      paper.putImageData(marks, 0, 0);
    },
    changed,
  );
  return (
    <canvas
      ref={canvas}
      className={cx("clipped")}
      role="img"
      aria-label="Where the picture is clipped"
      data-testid="clipped"
    />
  );
}
