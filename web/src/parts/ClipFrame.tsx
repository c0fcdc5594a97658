import { useEffect, useRef } from "react";
import { useAddresses } from "../api/project";
import { compose } from "../player/compositor";
import { PLAIN } from "../player/chain";
import { frameOnDisplay } from "../player/timemap";
import { FrameSource, partOf, pictureSize, proxyAddress } from "../player/proxy";

/** The exact frame of a file at a media time, in the file's own shape. */
export function ClipFrame({ media, at }: { media: string; at: number }) {
  const { index, frames } = proxyAddress(useAddresses(), media, "programme");
  const canvas = useRef<HTMLCanvasElement>(null);
  const wanted = useRef(at);
  const draw = useRef<() => void>(() => undefined);
  useEffect(() => {
    const proxy = new FrameSource({ index, frames }, () => draw.current());
    draw.current = () => {
      const paper = canvas.current?.getContext("2d");
      if (!proxy.index || !paper || !canvas.current) return;
      const picture = proxy.get(frameOnDisplay(proxy.index.times, wanted.current + 1e-4), 0);
      if (!picture) return;
      const part = partOf(proxy.index, picture);
      if (!part.size) return;
      [canvas.current.width, canvas.current.height] = pictureSize(part.size, "programme");
      compose(paper, canvas.current.width, canvas.current.height, [{ acts: PLAIN, ...part }]);
    };
    return () => {
      draw.current = () => undefined;
      proxy.close();
    };
  }, [index, frames]);
  useEffect(() => {
    wanted.current = at;
    draw.current();
  }, [at]);
  return <canvas ref={canvas} className="picture" width={480} height={270} role="img" aria-label="Frame of the clip" />;
}
