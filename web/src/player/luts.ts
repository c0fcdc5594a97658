/** Tables of colours, fetched from the server, which alone works them out; the same values have the same address. */

import { REST } from "../api/facts";
import type { Act, Values } from "./steps/step";

/** Most tables that are kept: while a control is dragged each value has one. */
const KEPT = 48;

export interface Lut {
  /** Points along each colour. */
  size: number;
  /** Red, green, blue and 1 as half floats, red changing first. */
  points: Uint16Array;
}

/** Address of the table of a step that changes colours alone; null for other steps, and where it does nothing. */
export function addressOfLut(step: string, values: Values, project: string): string | null {
  if (step === "grade") {
    // Only what is not at rest: an address has its limits.
    const moved = Object.entries(values).filter(([name, value]) => value !== REST.grade?.[name]);
    return `/api/v1/grade.lut?values=${encodeURIComponent(JSON.stringify(Object.fromEntries(moved)))}`;
  }
  if (step === "table" && values.number)
    return `/api/v1/projects/${project}/tables/${values.number}.lut?share=${values.share}`;
  return null;
}

class Luts {
  /** The project whose tables are meant. */
  project = "";
  private readonly known = new Map<string, Lut | null | undefined>();
  private readonly waiting = new Set<() => void>();

  /** The table of a step; undefined while it is still to come, null where there is none or it cannot be had. */
  get(step: string, values: Values): Lut | null | undefined {
    const address = addressOfLut(step, values, this.project);
    if (!address) return null;
    if (!this.known.has(address)) this.fetch(address);
    const found = this.known.get(address);
    if (found) {
      // Used last, thrown out last.
      this.known.delete(address);
      this.known.set(address, found);
    }
    return found;
  }

  /** True while a table that one of the steps needs is still to come. */
  waits(acts: readonly Act[]): boolean {
    return acts.some((a) => this.get(a.step, a.values) === undefined);
  }

  /** Be told when a table has come; returns how to stop. */
  subscribe(ready: () => void): () => void {
    this.waiting.add(ready);
    return () => this.waiting.delete(ready);
  }

  private fetch(address: string): void {
    this.known.set(address, undefined);
    fetch(address)
      .then((answer) => (answer.ok ? answer.arrayBuffer() : Promise.reject(new Error(address))))
      .then((bytes): Lut => ({ size: Math.round(Math.cbrt(bytes.byteLength / 8)), points: new Uint16Array(bytes) }))
      .catch(() => null)
      .then((lut) => {
        this.known.set(address, lut);
        for (const old of [...this.known.keys()].slice(0, Math.max(0, this.known.size - KEPT))) this.known.delete(old);
        for (const ready of this.waiting) ready();
      });
  }
}

export const luts = new Luts();
