import { useEffect, useRef } from "react";
import { clock, useClock } from "../../../player/clock";

/** Milliseconds between two measurements: what is drawn as it plays can be followed, and leaves the picture its time. */
const EVERY = 80;

/** Points of the programme's picture, at a width, as often as can be followed while it plays and once it stands. */
export function useMeasured(width: number, measure: (points: ImageData) => void, changed: unknown): void {
  const latest = useRef(measure);
  useEffect(() => {
    latest.current = measure;
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is shown changed, if not the clock
  useEffect(() => {
    const small = document.createElement("canvas");
    const paper = small.getContext("2d", { willReadFrequently: true });
    let last = 0;
    let later = 0;
    const look = () => {
      const from = document.getElementById("programme") as HTMLCanvasElement | null;
      if (!from?.width || !paper) return;
      last = performance.now();
      small.width = width;
      small.height = Math.max(1, Math.round((width * from.height) / from.width));
      paper.drawImage(from, 0, 0, small.width, small.height);
      latest.current(paper.getImageData(0, 0, small.width, small.height));
    };
    const stop = clock.subscribe(() => {
      clearTimeout(later);
      if (performance.now() - last > EVERY) look();
      // What the last tick drew may have come after it.
      if (!useClock.getState().playing) later = window.setTimeout(look, 150);
    });
    const slow = window.setInterval(() => !useClock.getState().playing && look(), 500);
    look();
    return () => {
      stop();
      clearTimeout(later);
      clearInterval(slow);
    };
  }, [width, changed]);
}
