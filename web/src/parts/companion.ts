import { useEffect } from "react";
import type { PassView } from "../api/client";
import { useAddresses, useProject } from "../api/project";
import { clock, type Listening } from "../player/clock";

/** While listening, a take sounds beside the song from its place. */
export function useCompanion(media: string | undefined, pass: PassView | undefined, how: Listening | null): void {
  const { state } = useProject();
  const sound = useAddresses()(media ?? "", "sound.wav");
  const beats = state.song?.beats;
  useEffect(() => {
    if (!how || !pass || !media) {
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
            takeStart: pass.take_start_s,
            songStart: pass.song_start_s,
            rate: pass.rate,
            how,
            beats: beats ?? [],
          });
      })
      .catch(() => undefined);
    return () => {
      wanted = false;
      clock.accompany(null);
    };
  }, [sound, media, pass?.song_start_s, pass?.take_start_s, pass?.rate, how, beats]);
}
