import type { SongView } from "../../api/client";

export interface Span {
  start_s: number;
  end_s: number;
}

export type Listed = Span & ({ kind: "doubtful"; reason: string } | { kind: "tapped"; bpm: number } | { kind: "loop" });

/** True where two passages are the same to a few milliseconds. */
export function same(a: Span, b: Span): boolean {
  return Math.abs(a.start_s - b.start_s) < 0.02 && Math.abs(a.end_s - b.end_s) < 0.02;
}

/** Passages that can be tapped by themselves, in the order of the song; the loop range where it is none of them. */
export function spansOf(song: Pick<SongView, "doubtful" | "tapped">, loop: readonly [number, number] | null): Listed[] {
  const known: Listed[] = [
    ...song.doubtful.map((d) => ({ ...d, kind: "doubtful" as const })),
    ...song.tapped.map((t) => ({ ...t, kind: "tapped" as const })),
  ];
  if (loop) {
    const range = { start_s: loop[0], end_s: loop[1], kind: "loop" as const };
    if (!known.some((k) => same(k, range))) known.push(range);
  }
  return known.sort((a, b) => a.start_s - b.start_s);
}
