import { useEffect } from "react";
import type { PassView } from "../api/client";
import { useAddresses, useProject } from "../api/project";
import { clock, type Listening } from "../player/clock";

/** While listening, a take sounds beside the song from its place. */
export function useCompanion(media: string | undefined, pass: PassView | undefined, how: Listening | null): void {
  const { state } = useProject();
  const sound = useAddresses()(media ?? "", "sound.wav");
  const beats = state.song?.beats;
  const { take_start_s, song_start_s, rate } = pass ?? { take_start_s: 0, song_start_s: 0, rate: 1 };
  const there = Boolean(media && pass);
  useEffect(() => {
    if (!how || !there) {
      clock.accompany(null);
      return;
    }
    let wanted = true;
    void clock
      .decode(sound)
      .then((buffer) => {
        if (wanted)
          clock.accompany({
            buffer,
            takeStart: take_start_s,
            songStart: song_start_s,
            rate,
            how,
            beats: beats ?? [],
          });
      })
      .catch(() => undefined);
    return () => {
      wanted = false;
      clock.accompany(null);
    };
  }, [sound, there, song_start_s, take_start_s, rate, how, beats]);
}
