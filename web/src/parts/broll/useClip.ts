import { useCallback, useEffect, useEffectEvent, useRef, useState } from "react";
import { useAddresses } from "../../api/project";
import { clock, useClock } from "../../player/clock";
import { compose } from "../../player/compositor";
import type { MediaView } from "../../api/client";
import { placedBy } from "../../player/chain";
import { frameOnDisplay } from "../../player/timemap";
import { FrameSource, partOf, proxyAddress } from "../../player/proxy";

/**
 * A clip being looked at: its own small clock, its sound where it has one, and the picture that belongs to it.
 * It begins at a time of its own, and again where another part of it is opened; the song is silent while it plays.
 */
export function useClip({ id: media, placed, has_sound }: MediaView, from: number, part: number | undefined) {
  const addresses = useAddresses();
  const { index, frames } = proxyAddress(addresses, media, "programme");
  const sound = useSound(has_sound ? addresses(media, "sound.wav") : "");
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
    compose(paper, target.width, target.height, [{ acts: placedBy(lies.current), ...partOf(proxy.index, picture) }]);
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

  const begin = useEffectEvent(() => {
    go(from);
    setSpeed(0);
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: it begins again where another clip or part is opened
  useEffect(() => begin(), [media, part]);

  useEffect(() => {
    const proxy = new FrameSource({ index, frames }, () => {
      if (proxy.index) setTimes(proxy.index.times);
      draw();
    });
    source.current = proxy;
    return () => {
      source.current = null;
      proxy.close();
    };
  }, [index, frames, draw]);

  useEffect(() => {
    now.current.speed = speed;
    if (!speed) return;
    clock.pause();
    const heard = sound(now.current.at, speed);
    let [frame, last] = [0, performance.now()];
    const tick = (time: number) => {
      const end = source.current?.index?.times.at(-1) ?? 0;
      const next = heard?.() ?? now.current.at + (speed * (time - last)) / 1000;
      last = time;
      go(next);
      // A screen refresh may be of a time before the key that began it.
      if (speed < 0 ? next <= 0 : next >= end) setSpeed(0);
      else frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => {
      cancelAnimationFrame(frame);
      sound(0, 0);
    };
  }, [speed, go, sound]);
  // The song that begins to play silences the clip.
  useEffect(() => useClock.subscribe((song) => song.playing && setSpeed(0)), []);

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

/** Plays a sound from a time at a speed above 0, and gives the time that is heard; silent at others, or without a sound. */
function useSound(address: string) {
  const element = useRef<HTMLAudioElement | null>(null);
  useEffect(() => {
    if (!address) return;
    const audio = new Audio(address);
    audio.preload = "auto";
    element.current = audio;
    return () => {
      audio.pause();
      audio.removeAttribute("src");
      audio.load();
      element.current = null;
    };
  }, [address]);
  return useCallback((at: number, speed: number) => {
    const audio = element.current;
    if (!audio) return undefined;
    if (speed <= 0) {
      audio.pause();
      return undefined;
    }
    audio.currentTime = at;
    audio.playbackRate = speed;
    audio.volume = useClock.getState().gain;
    void audio.play().catch(() => undefined);
    // Until it sounds, and after its end, the picture goes by the wall clock.
    return () => (audio.paused || audio.ended || audio.readyState < 3 || audio.seeking ? undefined : audio.currentTime);
  }, []);
}
