import { Button } from "antd";
import { useEffect, useState } from "react";
import { tapHandler } from "./taps";

/** A button that gathers taps of the key T along with the song, and gives them when there are four or more. */
export function Taps({
  name,
  use,
  begin,
  small = false,
}: {
  name: string;
  use: (taps: number[]) => void;
  begin?: () => void;
  small?: boolean;
}) {
  const [taps, setTaps] = useState<number[] | null>(null);
  const on = taps !== null;
  const size = small ? "small" : "middle";
  useEffect(() => {
    if (!on) return;
    const mine = (at: number) => setTaps((now) => [...(now ?? []), at]);
    tapHandler.current = mine;
    return () => {
      if (tapHandler.current === mine) tapHandler.current = null;
    };
  }, [on]);
  if (!taps)
    return (
      <Button
        size={size}
        onClick={() => {
          begin?.();
          setTaps([]);
        }}
      >
        {name}
      </Button>
    );
  const steps = taps.slice(1).map((t, i) => t - (taps[i] as number));
  const middle = [...steps].sort((a, b) => a - b)[steps.length >> 1];
  return (
    <span className="buttons">
      <span className="soft">
        {taps.length < 4 || !middle ? `play, tap T: ${taps.length}` : `about ${(60 / middle).toFixed(1)}`}
      </span>
      <Button
        type="primary"
        size={size}
        disabled={taps.length < 4}
        onClick={() => {
          use(taps);
          setTaps(null);
        }}
      >
        Use
      </Button>
      <Button size={size} onClick={() => setTaps(null)} aria-label="Stop tapping">
        ✕
      </Button>
    </span>
  );
}
