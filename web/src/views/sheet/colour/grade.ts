/** A grade's controls as they are shown, typed and dragged, and what a grade does in words. Pure. */

import { CURVES, GRADE, TREATMENTS } from "../../../api/facts";
import type { Treatment } from "../treating/kinds";

export type Grade = Extract<Treatment, { kind: "grade" }>;
export type Table = Extract<Treatment, { kind: "table" }>;
export type Values = Readonly<Record<string, number>>;

export interface Control {
  name: string;
  word: string;
  /** Shown as so many per cent; else as it is. */
  percent?: true;
  unit?: string;
}

/** In two columns, as light and as colour. */
export const CONTROLS: readonly (readonly Control[])[] = [
  [
    { name: "exposure", word: "exposure", unit: "stops" },
    { name: "contrast", word: "contrast", unit: "×" },
    { name: "whites", word: "whites" },
    { name: "highlights", word: "highlights" },
    { name: "shadows", word: "shadows" },
    { name: "blacks", word: "blacks" },
  ],
  [
    { name: "temperature", word: "warmer" },
    { name: "tint", word: "redder" },
    { name: "saturation", word: "saturation", percent: true },
    { name: "low_saturation", word: "of what is dark", percent: true },
    { name: "high_saturation", word: "of what is bright", percent: true },
    { name: "strength", word: "strength", percent: true },
  ],
];

/** Values of the controls at rest. */
export const REST = Object.fromEntries(
  Object.keys(GRADE).map((name) => [name, (TREATMENTS.grade?.begins as Values | undefined)?.[name] ?? 0]),
) as Values;

/** Controls of a grade that are not at rest. */
export function changed(grade: Values | Grade): Record<string, number> {
  const values = grade as unknown as Values;
  return Object.fromEntries(
    Object.keys(GRADE).flatMap((name) => {
      const value = values[name];
      return value === undefined || value === REST[name] ? [] : [[name, value]];
    }),
  );
}

/** A control's value kept in its range, to three places. */
export function inRange(name: string, value: number): number {
  const [least, most] = GRADE[name] ?? [0, 1];
  return Math.round(Math.min(most, Math.max(least, value)) * 1000) / 1000;
}

/** How much a control's value changes with a pixel that it is dragged, and with a press of an arrow. */
export function stepOf(name: string): number {
  const [least, most] = GRADE[name] ?? [0, 1];
  return most - least > 4 ? 0.05 : 0.02;
}

/** Where a value lies along a control's track, 0 to 1: its rest in the middle, its ends at the ends. */
export function along(name: string, value: number): number {
  const [least, most] = GRADE[name] ?? [0, 1];
  const rest = REST[name] ?? 0;
  if (rest >= most) return (value - least) / (most - least);
  return value < rest ? (0.5 * (value - least)) / (rest - least) : 0.5 + (0.5 * (value - rest)) / (most - rest);
}

/** What values do, in words: "exposure +1.2, warmer 0.38, contrast 1.14". */
export function inWords(values: Values): string {
  const words = CONTROLS.flat().flatMap(({ name, word, percent }) => {
    const value = values[name];
    if (value === undefined || value === REST[name]) return [];
    if (percent) return [`${word} ${Math.round(100 * value)} %`];
    const named = name === "temperature" && value < 0 ? "cooler" : name === "tint" && value < 0 ? "greener" : word;
    const size = named === word ? value : -value;
    const sign = name === "exposure" && size > 0 ? "+" : "";
    return [`${named} ${sign}${String(Number(size.toFixed(2))).replace("-", "−")}`];
  });
  const bent = CURVES.of.filter((of) => CURVES.at.some((at) => values[`${of}_${at}`]));
  if (bent.length) words.push(`a curve of ${bent.join(" and ")}`);
  return words.join(", ") || "nothing";
}

/** Values of one colour along the greys of a table, 0 to 1: how its curve runs. */
export function diagonal({ size, points }: { size: number; points: Uint16Array }, channel: number): number[] {
  return Array.from({ length: size }, (_, n) => fromHalf(points[4 * n * (1 + size + size * size) + channel] ?? 0));
}

/** A half float from 0 to below 2 as a number. */
function fromHalf(bits: number): number {
  const exponent = (bits >> 10) & 31;
  const part = (bits & 1023) / 1024;
  return exponent ? (1 + part) * 2 ** (exponent - 15) : part * 2 ** -14;
}

/** The name of the look that a grade is, at whatever strength; null where it is none of them. */
export function lookOf(grade: Values | Grade, looks: readonly { name: string; values: Values }[]): string | null {
  const { strength: _, ...own } = changed(grade);
  const same = (values: Values) =>
    Object.keys(values).length === Object.keys(own).length &&
    Object.entries(values).every(([name, value]) => Math.abs((own[name] ?? Number.NaN) - value) < 1e-9);
  return looks.find((look) => same(look.values))?.name ?? null;
}
