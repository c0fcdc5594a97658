import { useEffect, useRef, useState } from "react";

type Paint = (paper: CanvasRenderingContext2D, width: number, height: number) => void;

interface Props {
  paint: Paint;
  height: number;
  className?: string;
  label?: string;
}

/** The width of an element, kept up to date. */
export function useWidth<T extends HTMLElement>(): [React.RefObject<T | null>, number] {
  const element = useRef<T>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const target = element.current;
    if (!target) return;
    const watch = new ResizeObserver(([entry]) => setWidth(Math.floor(entry?.contentRect.width ?? 0)));
    watch.observe(target);
    return () => watch.disconnect();
  }, []);
  return [element, width];
}

/** Pixels left below an element's top after what follows it, at least some; kept up to date with the window. */
export function useRoom(element: React.RefObject<HTMLElement | null>, least: number, others: number): number {
  const [room, setRoom] = useState(least);
  useEffect(() => {
    const measure = () =>
      setRoom(Math.max(least, window.innerHeight - (element.current?.getBoundingClientRect().top ?? 0) - others));
    measure();
    window.addEventListener("resize", measure);
    return () => window.removeEventListener("resize", measure);
  }, [element, least, others]);
  return room;
}

/** A canvas as wide as its place, sharp on every screen, painted again when what it shows changes. */
export function Canvas({ paint, height, className, label }: Props) {
  const [place, width] = useWidth<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const target = canvas.current;
    const paper = target?.getContext("2d");
    if (!target || !paper || !width) return;
    const ratio = window.devicePixelRatio || 1;
    target.width = width * ratio;
    target.height = height * ratio;
    paper.setTransform(ratio, 0, 0, ratio, 0, 0);
    paper.clearRect(0, 0, width, height);
    paint(paper, width, height);
  }, [paint, width, height]);
  return (
    <div ref={place} className={className} style={{ height, width: "100%" }}>
      <canvas
        ref={canvas}
        style={{ width, height, display: "block" }}
        role={label ? "img" : undefined}
        aria-label={label}
      />
    </div>
  );
}
