import { useRef } from "react";
import { classes } from "../../../parts/classes";
import { colour } from "../../../theme";
import styles from "./Colour.module.css";
import { HUES, LEVELS, measured, type Scope } from "./scope";
import { useMeasured } from "./useMeasured";

const cx = classes(styles);
/** The picture is measured at this width. */
const WIDE = 192;

/** What the programme's picture is made of: lightness across it, how much of each hue, and what is clipped. */
export function Scopes({ changed }: { changed: unknown }) {
  const wave = useRef<HTMLCanvasElement>(null);
  const hues = useRef<HTMLCanvasElement>(null);
  const said = useRef<HTMLParagraphElement>(null);
  useMeasured(
    WIDE,
    ({ data, width }) => {
      const scope = measured(data, width);
      if (wave.current) drawWave(wave.current, scope);
      if (hues.current) drawHues(hues.current, scope);
      const [dark, bright] = [scope.dark, scope.bright].map((s) => Math.round(1000 * s) / 10);
      if (said.current) said.current.textContent = `clipped: ${dark} % dark, ${bright} % bright`;
    },
    changed,
  );
  return (
    <div className={cx("scopes")} data-testid="scopes">
      <canvas ref={wave} width={WIDE} height={2 * LEVELS} role="img" aria-label="Lightness across the picture" />
      <canvas ref={hues} width={4 * HUES} height={90} role="img" aria-label="How much of each hue" />
      <p ref={said} className="soft" />
    </div>
  );
}

function drawWave(on: HTMLCanvasElement, { wave, columns }: Scope): void {
  const paper = on.getContext("2d") as CanvasRenderingContext2D;
  paper.fillStyle = colour.card;
  paper.fillRect(0, 0, on.width, on.height);
  paper.fillStyle = colour.rule;
  for (const part of [0.25, 0.5, 0.75]) paper.fillRect(0, Math.round(on.height * part), on.width, 1);
  const high = on.height / LEVELS;
  paper.fillStyle = colour.ink;
  for (let x = 0; x < columns; x++) {
    for (let level = 0; level < LEVELS; level++) {
      const count = wave[x * LEVELS + level] as number;
      if (!count) continue;
      paper.globalAlpha = Math.min(1, 0.18 + count / 12);
      paper.fillRect(x, on.height - (level + 1) * high, 1, Math.max(1, high));
    }
  }
  paper.globalAlpha = 1;
}

function drawHues(on: HTMLCanvasElement, { hues }: Scope): void {
  const paper = on.getContext("2d") as CanvasRenderingContext2D;
  paper.fillStyle = colour.card;
  paper.fillRect(0, 0, on.width, on.height);
  for (let n = 0; n < HUES; n++) {
    const high = (hues[n] as number) * (on.height - 8);
    paper.fillStyle = `hsl(${(n * 360) / HUES} 55% 45%)`;
    paper.fillRect(4 * n, on.height - 4 - high, 3, high);
    paper.fillRect(4 * n, on.height - 3, 4, 3);
  }
}
