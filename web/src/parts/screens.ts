/** The playhead told to other windows of this browser, where the programme is shown alone. */

import { useEffect } from "react";
import type { EditView } from "../api/client";
import { clock, useClock } from "../player/clock";

interface Told {
  kind: "playhead";
  at: number;
  /** Song seconds a second; 0 while it stands. */
  speed: number;
  /** When it was there, in milliseconds of the computer's clock. */
  time: number;
}
type Message = Told | { kind: "edit" } | { kind: "hello" };

/** Seconds between two words while it plays. */
const OFTEN = 0.2;
const channel = (project: string) => new BroadcastChannel(`zembi ${project}`);

/** Present position of a playhead that was told a moment ago. */
export function placeOf(told: Pick<Told, "at" | "speed" | "time">, now: number): number {
  return told.at + (told.speed * Math.max(0, now - told.time)) / 1000;
}

/** Tell other windows where the playhead is, and that the edit changed. */
export function useTellScreens(project: string, edit: EditView | undefined): void {
  useEffect(() => {
    const to = channel(project);
    let last: Told | null = null;
    const tell = (at: number) => {
      const { playing, speed } = useClock.getState();
      const now: Told = { kind: "playhead", at, speed: playing ? speed : 0, time: Date.now() };
      const asBefore = last && last.speed === now.speed && Math.abs(placeOf(last, now.time) - at) < 0.02;
      if (asBefore && (!playing || now.time - (last?.time ?? 0) < 1000 * OFTEN)) return;
      last = now;
      to.postMessage(now);
    };
    to.onmessage = ({ data }: MessageEvent<Message>) => {
      if (data.kind !== "hello") return;
      last = null;
      tell(clock.position());
    };
    const stop = clock.subscribe(tell);
    return () => {
      stop();
      to.close();
    };
  }, [project]);
  useEffect(() => {
    if (!edit) return;
    const to = channel(project);
    to.postMessage({ kind: "edit" });
    to.close();
  }, [project, edit]);
}

/** Follow the playhead of the window that is worked in. */
export function useFollow(project: string, changed: () => void): void {
  useEffect(() => {
    const from = channel(project);
    let told: Told | null = null;
    let frame = 0;
    const draw = () => {
      if (!told) return;
      clock.seek(placeOf(told, Date.now()));
      if (told.speed) frame = requestAnimationFrame(draw);
    };
    from.onmessage = ({ data }: MessageEvent<Message>) => {
      if (data.kind === "edit") changed();
      if (data.kind !== "playhead") return;
      told = data;
      cancelAnimationFrame(frame);
      draw();
    };
    from.postMessage({ kind: "hello" });
    return () => {
      cancelAnimationFrame(frame);
      from.close();
    };
  }, [project, changed]);
}
