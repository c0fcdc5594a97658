import { Link } from "react-router";
import { hueOf } from "../theme";
import { classes } from "./classes";
import styles from "./Way.module.css";

const cx = classes(styles);

export type Step = "song" | "lineup" | "coverage" | "sheet" | "handoff";

/** The steps in their order. */
export const WAY: readonly { key: Step; name: string; words: string; drawing: () => React.ReactNode }[] = [
  {
    key: "song",
    name: "Song",
    words: "The master is listened to: beats, bars, sections, hits. Correct what it heard, tap marks, paste the words.",
    drawing: Listened,
  },
  {
    key: "lineup",
    name: "Line-up",
    words: "Every take finds its place on the song by its own sound. Settle the doubtful ones by ear and eye.",
    drawing: LinedUp,
  },
  {
    key: "coverage",
    name: "Coverage",
    words: "Takes become numbered angles. See what each section has, circle the better pass, pick from the B‑roll.",
    drawing: Covered,
  },
  {
    key: "sheet",
    name: "Sheet",
    words: "One row a phrase. Play, and press 1 to 9: cuts fall on the beat. Lay B‑roll over, bar by bar.",
    drawing: CutUp,
  },
  {
    key: "handoff",
    name: "Hand-off",
    words: "Checks find holes and slips. Render the film, or give the edit to another program.",
    drawing: HandedOff,
  },
];

/** The way to a film, step by step; in a project also how far each step is, and the way there. */
export function Way({ project, state, now }: { project?: string; state?: Partial<Record<Step, string>>; now?: Step }) {
  return (
    <section className={cx("way")} aria-label="The way to a film">
      {WAY.map(({ key, name, words, drawing: Drawing }) => {
        const inside = (
          <>
            <svg viewBox="0 0 200 120" aria-hidden="true">
              <Drawing />
            </svg>
            <b>{name}</b>
            {state && <span className={cx("state")}>{state[key]}</span>}
            <span className={cx("words")}>{words}</span>
          </>
        );
        const shown = cx(key === now ? "step now" : "step");
        return project ? (
          <Link key={key} to={`/p/${project}/${key}`} className={shown} aria-current={key === now ? "step" : undefined}>
            {inside}
          </Link>
        ) : (
          <div key={key} className={shown}>
            {inside}
          </div>
        );
      })}
    </section>
  );
}

/** Loudness of the drawn song at a place, 0 to 1: quiet, then two choruses. */
function loud(k: number): number {
  const part = k < 8 ? 0.35 : k < 16 ? 0.55 : k < 26 ? 0.95 : k < 32 ? 0.5 : 1;
  return part * (0.55 + 0.45 * Math.abs(Math.sin(k * 1.9) * Math.cos(k * 0.7)));
}

/** A stretch of the drawn song as upright strokes round a line. */
function waveform(from: number, length: number, middle: number, high: number): string {
  const strokes = Array.from({ length }, (_, k) => {
    const half = high * loud(from + k);
    return `M${10 + 5 * (from + k)} ${(middle - half).toFixed(1)}v${(2 * half).toFixed(1)}`;
  });
  return strokes.join("");
}

function Listened() {
  const ticks = Array.from({ length: 17 }, (_, k) => 8 + 11.5 * k);
  return (
    <>
      {[8, 56, 104, 152].map((x, i) => (
        <rect key={x} x={x} y={14} width={44} height={12} className={cx(i % 2 ? "strong" : "pale")} />
      ))}
      {ticks.map((x, k) => (
        <path key={x} d={`M${x} 32v${k % 4 ? 4 : 72}`} className={cx(k % 4 ? "ink" : "rule")} />
      ))}
      <path d={waveform(0, 37, 70, 30)} className={cx("wave")} />
    </>
  );
}

/** Places of the takes in the drawn song: from which stroke on, and how many. */
const TAKES = [
  { from: 0, length: 24 },
  { from: 15, length: 13 },
  { from: 24, length: 13 },
];

function LinedUp() {
  return (
    <>
      <path d={waveform(0, 37, 24, 12)} className={cx("wave")} />
      {TAKES.map(({ from, length }, i) => (
        <g key={from}>
          <rect x={8 + 5 * from} y={44 + 24 * i} width={5 * length} height={18} fill={hueOf(i + 1)} />
          <path d={waveform(from, length - 1, 53 + 24 * i, 7)} className={cx("heard")} />
        </g>
      ))}
      <rect x={8} y={92} width={65} height={18} className={cx("was")} />
      <path d="M80 101h38" className={cx("move")} />
      <path d="M118 96l9 5-9 5z" className={cx("tip")} />
    </>
  );
}

/** Sections that each angle covers. */
const COVERED = ["1111", "1010", "0110", "0011"];

function Covered() {
  return COVERED.map((row, y) => (
    <g key={row} transform={`translate(0 ${12 + 25 * y})`}>
      <text x={8} y={16}>
        {y + 1}
      </text>
      {[24, 67, 110, 153].map((x, k) =>
        row[k] === "1" ? (
          <rect key={x} x={x} width={40} height={22} fill={hueOf(y + 1)} />
        ) : (
          <g key={x}>
            <rect x={x} width={40} height={22} className={cx("hole")} />
            <path d={`M${x + 2} 20l36 -18`} className={cx("rule")} />
          </g>
        ),
      )}
    </g>
  ));
}

/** A phrase a row: where each shot begins, in sixteenths of it, and its angle; what is laid over. */
const CUT: readonly { shots: readonly (readonly [number, number])[]; over: number | null }[] = [
  {
    shots: [
      [0, 1],
      [8, 2],
    ],
    over: null,
  },
  {
    shots: [
      [0, 3],
      [3, 1],
      [6, 4],
    ],
    over: 5,
  },
  {
    shots: [
      [0, 2],
      [6, 1],
      [12, 3],
    ],
    over: null,
  },
  {
    shots: [
      [0, 4],
      [4, 2],
      [8, 1],
      [10, 3],
    ],
    over: 9,
  },
];

function CutUp() {
  const x = (sixteenth: number) => 8 + 11.5 * sixteenth;
  return CUT.map(({ shots, over }, y) => (
    <g key={shots.join(" ")} transform={`translate(0 ${12 + 26 * y})`}>
      {shots.map(([at, angle], k) => (
        <g key={at}>
          <rect x={x(at)} width={x(shots[k + 1]?.[0] ?? 16) - x(at) - 2} height={20} fill={hueOf(angle)} />
          <text x={x(at) + 5} y={15} className={cx("on-hue")}>
            {angle}
          </text>
        </g>
      ))}
      {over !== null && <rect x={x(over)} y={-3} width={44} height={8} className={cx("over")} />}
    </g>
  ));
}

function HandedOff() {
  return (
    <>
      <rect x={8} y={14} width={118} height={66} className={cx("sky")} />
      <path d="M8 62h118v18H8z" className={cx("sea")} />
      <path d="M92 62l5-30h6l5 30z" className={cx("tower")} />
      <path d="M97 30L20 18v22z" className={cx("beam")} />
      <path d="M8 92h118" className={cx("rule")} />
      <path d="M8 92h74" className={cx("move")} />
      {[22, 44, 66].map((y, i) => (
        <g key={y}>
          <path d={`M140 ${y}l4 5 8 -10`} className={cx(i < 2 ? "ticked" : "rule")} />
          <path d={`M160 ${y}h32`} className={cx("ink")} />
        </g>
      ))}
      <path d="M140 92h40" className={cx("move")} />
      <path d="M180 87l9 5-9 5z" className={cx("tip")} />
    </>
  );
}
