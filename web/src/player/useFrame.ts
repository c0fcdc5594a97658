import { useEffect, useState } from "react";
import { clock, useClock } from "./clock";
import { frameAt } from "./timemap";

/** The programme frame at the playhead, told no oftener than every so many milliseconds while it plays. */
export function useFrame(rate: number, every = 80): number {
  const [frame, setFrame] = useState(() => frameAt(clock.position(), rate));
  useEffect(() => {
    let last = 0;
    return clock.subscribe((at) => {
      const now = performance.now();
      if (useClock.getState().playing && now - last < every) return;
      last = now;
      setFrame(frameAt(at, rate));
    });
  }, [rate, every]);
  return frame;
}
