import { useQuery } from "@tanstack/react-query";
import { useProject } from "../../api/project";

/** A stretch of a file's sound; undefined until it is there. */
export function useSamples(media: string | undefined, start: number, seconds: number): Float32Array | undefined {
  const { id } = useProject();
  return useQuery({
    queryKey: ["samples", id, media, start.toFixed(5), seconds],
    enabled: Boolean(media),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 30_000,
    placeholderData: (old) => old,
    queryFn: async () => {
      const answer = await fetch(`/api/v1/projects/${id}/samples/${media}?start_s=${start}&seconds=${seconds}`);
      if (!answer.ok) return new Float32Array(0);
      return Float32Array.from(new Int16Array(await answer.arrayBuffer()), (v) => v / 32767);
    },
  }).data;
}

/** Half a waveform: the song grows upward from the middle, the take downward, each to its own loudest. */
export function half(
  paper: CanvasRenderingContext2D,
  w: number,
  h: number,
  samples: Float32Array | undefined,
  ink: string,
  side: 1 | -1,
): void {
  if (!samples?.length) return;
  const per = samples.length / w;
  const heights = Array.from({ length: Math.ceil(w / 2) }, (_, i) => {
    let top = 0;
    for (let k = Math.floor(i * 2 * per); k < (i + 1) * 2 * per; k++) top = Math.max(top, Math.abs(samples[k] ?? 0));
    return top;
  });
  const loudest = Math.max(0.003, ...heights);
  paper.fillStyle = ink;
  heights.forEach((v, i) => {
    const tall = (v / loudest) * (h / 2 - 4);
    paper.fillRect(i * 2, side < 0 ? h / 2 - tall : h / 2 + 1, 1.4, tall);
  });
}
