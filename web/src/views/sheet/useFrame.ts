import { useEffect, useState } from "react";
import { clock, useClock } from "../../player/clock";
import { frameAt } from "../../player/timemap";

/** The programme frame at the playhead, told no oftener than the page can use. */
export function useFrame(rate: number): number {
  const [frame, setFrame] = useState(() => frameAt(clock.position(), rate));
  useEffect(() => {
    let last = 0;
    return clock.subscribe((at) => {
      const now = performance.now();
      if (useClock.getState().playing && now - last < 80) return;
      last = now;
      setFrame(frameAt(at, rate));
    });
  }, [rate]);
  return frame;
}
