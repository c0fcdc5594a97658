import { useEffect, useRef } from "react";
import { derivedUrl } from "../api/client";
import { useProject } from "../api/project";
import { frameOnDisplay } from "../player/timemap";
import { FrameSource } from "../player/proxy";

/** The exact frame of a file at a media time. */
export function ClipFrame({ media, at }: { media: string; at: number }) {
  const { id } = useProject();
  const canvas = useRef<HTMLCanvasElement>(null);
  const wanted = useRef(at);
  const draw = useRef<() => void>(() => undefined);
  useEffect(() => {
    const proxy = new FrameSource(derivedUrl(id, media, "programme"), () => draw.current());
    draw.current = () => {
      const paper = canvas.current?.getContext("2d");
      if (!proxy.index || !paper || !canvas.current) return;
      const picture = proxy.get(frameOnDisplay(proxy.index.times, wanted.current + 1e-4), 0);
      if (picture) paper.drawImage(picture, 0, 0, canvas.current.width, canvas.current.height);
    };
    return () => {
      draw.current = () => undefined;
      proxy.close();
    };
  }, [id, media]);
  useEffect(() => {
    wanted.current = at;
    draw.current();
  }, [at]);
  return <canvas ref={canvas} className="picture" width={480} height={270} role="img" aria-label="Frame of the clip" />;
}
