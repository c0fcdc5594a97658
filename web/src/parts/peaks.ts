import { useQuery } from "@tanstack/react-query";
import { useAddresses } from "../api/project";

/** Least, greatest and RMS of short blocks, in levels each four times coarser. */
export interface Peaks {
  perSecond: number;
  levels: Int16Array[];
}

const SHRINK = 4;

/** Build the coarser levels of a peaks table (rows of least, greatest, RMS). */
export function pyramid(base: Int16Array, perSecond: number): Peaks {
  const levels = [base];
  let now = base;
  while (now.length > 3 * 400) {
    const count = Math.ceil(now.length / 3 / SHRINK);
    const next = new Int16Array(count * 3);
    for (let i = 0; i < count; i++) {
      let low = 32767;
      let high = -32768;
      let power = 0;
      let n = 0;
      for (let k = i * SHRINK; k < Math.min((i + 1) * SHRINK, now.length / 3); k++, n++) {
        low = Math.min(low, now[3 * k] as number);
        high = Math.max(high, now[3 * k + 1] as number);
        power += (now[3 * k + 2] as number) ** 2;
      }
      next.set([low, high, Math.sqrt(power / Math.max(1, n))], 3 * i);
    }
    levels.push(next);
    now = next;
  }
  return { perSecond, levels };
}

/** Least, greatest and RMS (all -1..1) of a stretch of seconds, from the level that fits the zoom. */
export function peakOf(peaks: Peaks, from: number, to: number): [number, number, number] {
  const blocks = (to - from) * peaks.perSecond;
  const level = Math.min(
    peaks.levels.length - 1,
    Math.max(0, Math.floor(Math.log(Math.max(1, blocks)) / Math.log(SHRINK))),
  );
  const table = peaks.levels[level] as Int16Array;
  const scale = peaks.perSecond / SHRINK ** level;
  const first = Math.max(0, Math.floor(from * scale));
  const last = Math.min(table.length / 3 - 1, Math.max(first, Math.ceil(to * scale) - 1));
  let [low, high, power, n] = [0, 0, 0, 0];
  for (let i = first; i <= last; i++, n++) {
    low = Math.min(low, table[3 * i] as number);
    high = Math.max(high, table[3 * i + 1] as number);
    power += (table[3 * i + 2] as number) ** 2;
  }
  return n ? [low / 32767, high / 32767, Math.sqrt(power / n) / 32767] : [0, 0, 0];
}

/** A file's peaks, once they are made. */
export function usePeaks(media: string | undefined): Peaks | undefined {
  const addressOf = useAddresses();
  const [bytesAt, factsAt] = [addressOf(media ?? "", "peaks.bin"), addressOf(media ?? "", "facts.json")];
  return useQuery({
    queryKey: ["peaks", bytesAt],
    enabled: Boolean(bytesAt),
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: async () => {
      const [bytes, facts] = await Promise.all([
        fetch(bytesAt).then((a) => a.arrayBuffer()),
        fetch(factsAt).then((a) => a.json() as Promise<{ peaks_per_s: number }>),
      ]);
      return pyramid(new Int16Array(bytes), facts.peaks_per_s);
    },
  }).data;
}
