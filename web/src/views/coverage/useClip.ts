import { useCallback, useEffect, useRef, useState } from "react";
import { useAddresses } from "../../api/project";
import { compose } from "../../player/compositor";
import type { MediaView } from "../../api/client";
import { placedBy } from "../../player/chain";
import { frameOnDisplay } from "../../player/timemap";
import { FrameSource, proxyAddress } from "../../player/proxy";

/** A clip being looked at: its own small clock, silent, and the picture that belongs to it. */
export function useClip(media: string, from: number, placed: MediaView["placed"]) {
  const { index, frames } = proxyAddress(useAddresses(), media, "programme");
  const canvas = useRef<HTMLCanvasElement>(null);
  const source = useRef<FrameSource | null>(null);
  const now = useRef({ at: from, speed: 0 });
  const lies = useRef(placed);
  const [at, setAt] = useState(from);
  const [speed, setSpeed] = useState(0);
  const [times, setTimes] = useState<readonly number[]>([]);

  const draw = useCallback(() => {
    const [proxy, target] = [source.current, canvas.current];
    const paper = target?.getContext("2d");
    if (!proxy?.index || !paper || !target) return;
    const frame = frameOnDisplay(proxy.index.times, now.current.at + 1e-4);
    const picture = proxy.get(frame, now.current.speed > 0 ? 4 : 0);
    if (!picture) return;
    const size: [number, number] = [picture.displayWidth, picture.displayHeight];
    compose(paper, target.width, target.height, [{ acts: placedBy(lies.current), image: picture, size }]);
    target.dataset.frame = String(frame);
  }, []);

  useEffect(() => {
    lies.current = placed;
    draw();
  }, [placed, draw]);

  const go = useCallback(
    (to: number) => {
      const last = source.current?.index?.times.at(-1) ?? to;
      now.current.at = Math.min(Math.max(0, to), Math.max(0, last));
      setAt(now.current.at);
      draw();
    },
    [draw],
  );

  useEffect(() => {
    now.current = { at: from, speed: 0 };
    setAt(from);
    setSpeed(0);
    const proxy = new FrameSource({ index, frames }, () => {
      if (proxy.index) setTimes(proxy.index.times);
      draw();
    });
    source.current = proxy;
    return () => {
      source.current = null;
      proxy.close();
    };
  }, [index, frames, from, draw]);

  useEffect(() => {
    now.current.speed = speed;
    if (!speed) return;
    let [frame, last] = [0, performance.now()];
    const tick = (time: number) => {
      const end = source.current?.index?.times.at(-1) ?? 0;
      const next = now.current.at + (speed * (time - last)) / 1000;
      last = time;
      go(next);
      if (next <= 0 || next >= end) setSpeed(0);
      else frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [speed, go]);

  return {
    canvas,
    at,
    speed,
    times,
    go,
    play: setSpeed,
    /** The time of the frame on display. */
    shown: () => times[frameOnDisplay(times, now.current.at + 1e-4)] ?? now.current.at,
    /** One frame on or back. */
    step: (by: number) => {
      setSpeed(0);
      const frame = frameOnDisplay(times, now.current.at + 1e-4) + by;
      go(times[Math.min(Math.max(0, frame), times.length - 1)] ?? 0);
    },
    /** The end of the frame on display: where an out falls that still shows it. */
    end: (seconds: number) => times[frameOnDisplay(times, now.current.at + 1e-4) + 1] ?? seconds,
  };
}
