import { useState } from "react";
import { createPortal } from "react-dom";
import type { ItemView, MediaView } from "../../api/client";
import { useCommands } from "../../api/project";
import { ClipFrame } from "../../parts/ClipFrame";
import { follow } from "../../parts/drag";
import { classes } from "../../parts/classes";
import { clock } from "../../player/clock";
import styles from "./Slipping.module.css";

const cx = classes(styles);

/** Frames of the film by which a picture is slipped that is dragged so many pixels along: the hand moves what is shown. */
export const slipped = (pixels: number, perPixel: number): number => -Math.round(pixels * perPixel) || 0;

/** Frames by which a picture can be slipped and still lies in what may be used of its clip: least and most. */
export function roomOf(
  item: Pick<ItemView, "start" | "end" | "source">,
  clip: MediaView,
  rate: number,
): [number, number] {
  const { in_s, speed } = item.source;
  const perFrame = speed / rate;
  const last = in_s + (item.end - item.start) * perFrame;
  return [
    Math.min(0, Math.ceil(-in_s / perFrame - 1e-6)),
    Math.max(0, Math.floor((clip.select_out_s - last) / perFrame + 1e-6)),
  ];
}

/** A picture of a shot or cutaway dragged along its clip: gives what begins the drag, and how far it is by now. */
export function useSlip(item: ItemView, clip: MediaView | undefined, perPixel: number) {
  const { rate, operate } = useCommands();
  const [by, setBy] = useState<number | null>(null);
  const [place, setPlace] = useState({ left: 0, top: 0 });
  const grab = (event: React.PointerEvent<HTMLElement>) => {
    if (event.button !== 0 || !clip || clip.still || item.source.kind !== "clip") return;
    event.stopPropagation();
    // The programme shows what is slipped, and keys go on with it.
    clock.seek((item.start + 0.001) / rate);
    const [least, most] = roomOf(item, clip, rate);
    const box = event.currentTarget.getBoundingClientRect();
    setPlace(besideOf(box.left, box.bottom, box.top));
    let frames = 0;
    follow(
      event,
      ({ dx }) => {
        frames = Math.min(most, Math.max(least, slipped(dx, perPixel)));
        setBy(frames);
      },
      (last) => {
        if (last && frames) void operate({ op: "slip", item: item.id, frames }).then(() => setBy(null));
        else setBy(null);
      },
    );
  };
  return { by, grab, place };
}

/** Width and height of what is shown while a picture is slipped, in pixels. */
const [WIDE, HIGH] = [330, 140];

/** Where it is shown: below a picture, or above it where there is no room. */
function besideOf(left: number, below: number, above: number): { left: number; top: number } {
  return {
    left: Math.max(4, Math.min(left, window.innerWidth - WIDE)),
    top: below + HIGH < window.innerHeight ? below + 10 : above - HIGH,
  };
}

/** First and last frame of a slipped picture beside each other, and what is shown of its clip under them. */
export function SlipFrames({
  item,
  clip,
  by,
  place,
}: {
  item: ItemView;
  clip: MediaView;
  by: number;
  place: { left: number; top: number };
}) {
  const { rate } = useCommands();
  const perFrame = item.source.speed / rate;
  const first = item.source.in_s + by * perFrame;
  const last = first + (item.end - item.start - 1) * perFrame;
  const share = (at: number) => `${(100 * at) / Math.max(1e-6, clip.seconds)}%`;
  // Rows are drawn over each other: this lies over them all.
  return createPortal(
    <span className={cx("slip")} style={place} data-testid="slip-frames" data-by={by}>
      <span className={cx("pair")}>
        <ClipFrame media={clip.id} at={first + perFrame / 2} />
        <ClipFrame media={clip.id} at={last + perFrame / 2} />
      </span>
      <span className={cx("whole")}>
        <span className={cx("part")} style={{ left: share(first), right: `calc(100% - ${share(last + perFrame)})` }} />
      </span>
      <span className="mono">
        {by > 0 ? "+" : ""}
        {by} f · {first.toFixed(2)} to {(last + perFrame).toFixed(2)} s
      </span>
    </span>,
    document.body,
  );
}
