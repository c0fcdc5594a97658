import { useState } from "react";
import { type Drag, follow } from "../../../parts/drag";
import { classes } from "../../../parts/classes";
import type { Treatment } from "./kinds";
import styles from "./Treating.module.css";

const cx = classes(styles);

/** Width and height of the drawing of the picture. */
const [WIDE, HIGH] = [160, 90];

interface Framed {
  /** Names of the fields of one framing: how much enlarged, and about which point. */
  scale: string;
  x: string;
  y: string;
  words: string;
}

/** Framings of each treatment that has them, the first one seen first. */
const FRAMINGS: Readonly<Record<string, readonly Framed[]>> = {
  "punch in": [{ scale: "scale", x: "x", y: "y", words: "seen" }],
  drift: [
    { scale: "scale", x: "x", y: "y", words: "from" },
    { scale: "to_scale", x: "to_x", y: "to_y", words: "to" },
  ],
};

export const isFramed = (treatment: Treatment): boolean => treatment.kind in FRAMINGS;

/** The part of the picture that is seen, in shares of it: enlarged about a point, which stays where it is. */
export function seenPart(scale: number, x: number, y: number): { left: number; top: number; size: number } {
  const room = 1 - 1 / scale;
  return { left: x * room, top: y * room, size: 1 / scale };
}

/** The point about which a picture has to be enlarged so that the part that is seen begins there. */
export function pointOf(scale: number, left: number, top: number): { x: number; y: number } {
  const room = 1 - 1 / scale;
  const share = (at: number) => (room > 0 ? Math.min(1, Math.max(0, at / room)) : 0.5);
  return { x: share(left), y: share(top) };
}

interface Props {
  treatment: Treatment;
  change: (treatment: Treatment) => Promise<unknown>;
  preview: (treatment: Treatment | null) => void;
}

/** The picture with what is seen of it, drawn small: frames are dragged to where they shall be. */
export function Frames({ treatment, change, preview }: Props) {
  const [trial, setTrial] = useState<Treatment | null>(null);
  const now = (trial ?? treatment) as unknown as Record<string, number>;
  const framings = FRAMINGS[treatment.kind] ?? [];
  const grab = (f: Framed) => (event: React.PointerEvent<SVGElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    const scale = now[f.scale] ?? 1;
    if (!box || scale <= 1) return;
    const from = seenPart(scale, now[f.x] ?? 0.5, now[f.y] ?? 0.5);
    let next: Treatment | null = null;
    const move = ({ dx, dy }: Drag) => {
      const { x, y } = pointOf(scale, from.left + dx / box.width, from.top + dy / box.height);
      next = { ...treatment, [f.x]: Number(x.toFixed(3)), [f.y]: Number(y.toFixed(3)) } as Treatment;
      setTrial(next);
      preview(next);
    };
    follow(event, move, (last) => {
      if (last && next) return void change(next).finally(() => setTrial(null));
      setTrial(null);
      preview(null);
    });
  };
  return (
    <svg
      className={cx("frames")}
      viewBox={`-1 -1 ${WIDE + 2} ${HIGH + 2}`}
      width={WIDE}
      height={HIGH}
      data-testid="frames"
      role="img"
      aria-label={framings
        .map((f) => `${f.words} ${Math.round(100 * (now[f.scale] ?? 1))} %, ${inShares(now, f)}`)
        .join("; ")}
    >
      <rect className={cx("whole")} width={WIDE} height={HIGH} />
      {framings.map((f, i) => {
        const part = seenPart(Math.max(1, now[f.scale] ?? 1), now[f.x] ?? 0.5, now[f.y] ?? 0.5);
        return (
          <g
            key={f.words}
            onPointerDown={grab(f)}
            className={cx(i ? "seen to" : "seen")}
            data-testid={`frame-${f.words}`}
          >
            <rect
              x={part.left * WIDE}
              y={part.top * HIGH}
              width={part.size * WIDE}
              height={part.size * HIGH}
              vectorEffect="non-scaling-stroke"
            />
            <text x={part.left * WIDE + 4} y={(part.top + part.size) * HIGH - (i ? 4 : 16)}>
              {f.words}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

const inShares = (now: Record<string, number>, f: Framed) =>
  `${Math.round(100 * (now[f.x] ?? 0.5))} % across, ${Math.round(100 * (now[f.y] ?? 0.5))} % down`;
