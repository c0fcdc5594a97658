import { Input } from "antd";
import { useState } from "react";
import { useProject } from "../../api/project";
import { endOf, placeOf } from "../../parts/places";
import { TextButton } from "../../parts/TextButton";

interface Props {
  /** What is shown until something is typed. */
  shown: string;
  /** What is typed: a place in the song, or a length from the frame `from`. */
  from?: number;
  /** Take the frame that was typed. */
  take: (frame: number) => void;
  name: string;
}

/** A frame of the film that a click lets one type: as a bar, a time or a mark, or as a length in beats, bars, seconds, frames. */
export function Typed({ shown, from, take, name }: Props) {
  const { state, rate } = useProject();
  const [typing, setTyping] = useState(false);
  const [wrong, setWrong] = useState(false);
  const song = state.song;
  if (!song) return shown;
  const end = (text: string) => {
    const at = placeOf(text, song, rate);
    const frame =
      from !== undefined ? endOf(text, song, from, rate) : at === undefined ? undefined : Math.round(at * rate);
    if (frame === undefined) return setWrong(true);
    setTyping(false);
    take(frame);
  };
  if (!typing)
    return (
      <TextButton
        onClick={() => {
          setWrong(false);
          setTyping(true);
        }}
        title={from === undefined ? "Type a bar, a time or a mark" : "Type a length: 2 bars, 3 beats, 1.5 s, 36 f"}
        data-testid={`type-${name}`}
      >
        {shown}
      </TextButton>
    );
  return (
    <Input
      size="small"
      autoFocus
      status={wrong ? "error" : ""}
      style={{ width: 150 }}
      placeholder={from === undefined ? "17.3, 0:41, a mark" : "2 bars, 3 beats, 36 f"}
      onChange={() => setWrong(false)}
      onPressEnter={(e) => end(e.currentTarget.value)}
      onKeyDown={(e) => e.key === "Escape" && setTyping(false)}
      onBlur={() => setTyping(false)}
      aria-label={wrong ? `${name}: no such place` : name}
      data-testid={`typed-${name}`}
    />
  );
}
