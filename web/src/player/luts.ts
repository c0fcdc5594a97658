/** Tables of grades, fetched from the server, which alone works them out; the same values have the same address. */

import { LUT_SIZE } from "../api/facts";
import type { Values } from "./steps/step";

/** Most tables that are kept: while a control is dragged each value has one. */
const KEPT = 48;

export interface Lut {
  /** Points along each colour. */
  size: number;
  /** Red, green, blue and 1 as half floats, red changing first. */
  points: Uint16Array;
}

class Luts {
  private readonly known = new Map<string, Lut | null | undefined>();
  private readonly waiting = new Set<() => void>();

  /** The table of a grade; undefined while it is still to come, null where it cannot be had. */
  get(values: Values): Lut | null | undefined {
    const key = JSON.stringify(values);
    if (!this.known.has(key)) this.fetch(key);
    const found = this.known.get(key);
    if (found) {
      // Used last, thrown out last.
      this.known.delete(key);
      this.known.set(key, found);
    }
    return found;
  }

  /** Be told when a table has come; returns how to stop. */
  subscribe(ready: () => void): () => void {
    this.waiting.add(ready);
    return () => this.waiting.delete(ready);
  }

  private fetch(key: string): void {
    this.known.set(key, undefined);
    fetch(`/api/v1/grade.lut?values=${encodeURIComponent(key)}`)
      .then((answer) => (answer.ok ? answer.arrayBuffer() : Promise.reject(new Error(key))))
      .then((bytes): Lut => ({ size: LUT_SIZE, points: new Uint16Array(bytes) }))
      .catch(() => null)
      .then((lut) => {
        this.known.set(key, lut);
        for (const old of [...this.known.keys()].slice(0, Math.max(0, this.known.size - KEPT))) this.known.delete(old);
        for (const ready of this.waiting) ready();
      });
  }
}

export const luts = new Luts();
