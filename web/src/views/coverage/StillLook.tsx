import { type CSSProperties, useEffect, useEffectEvent, useRef, useState } from "react";
import { api, data, type MediaView } from "../../api/client";
import { useAddresses, useProject } from "../../api/project";
import { type Drag, follow } from "../../parts/drag";
import { classes } from "../../parts/classes";
import { useCommandKeys } from "../../parts/keys";
import { compose } from "../../player/compositor";
import { WHOLE } from "../../parts/Still";
import { placedBy } from "../../player/chain";
import { FrameSource, partOf, proxyAddress } from "../../player/proxy";
import { type Framing, moved, rectangle, resized, whole } from "../../parts/broll/framing";
import styles from "./StillLook.module.css";

const cx = classes(styles);
/** Seconds that a move is shown for; in the film it takes as long as its shot. */
const SHOWN_S = 4;

/** A still looked at large; a slow move over it is two frames laid on the picture, dragged and resized there. */
export function StillLook({ clip }: { clip: MediaView }) {
  const { id, state, act } = useProject();
  const { index, frames } = proxyAddress(useAddresses(), clip.id, "programme");
  const canvas = useRef<HTMLCanvasElement>(null);
  const [held, setHeld] = useState<[Framing, Framing] | null>(null);
  const [share, setShare] = useState<number | null>(null);
  const { fit } = clip;
  const shares = whole(clip, [state.width, state.height]);
  const kept: [Framing, Framing] | null = fit.to && [{ x: fit.x, y: fit.y, scale: fit.scale }, fit.to];
  const pair = held ?? kept;
  const from = pair?.[0];
  const to = pair?.[1];

  const placed: MediaView["placed"] =
    share !== null && from && to
      ? at(from, to, share, shares, fit.turn, upright(clip, shares, [state.width, state.height]))
      : to
        ? { ...WHOLE, turn: fit.turn, scale: upright(clip, shares, [state.width, state.height]) }
        : clip.placed;
  const source = useRef<FrameSource | null>(null);
  const draw = useEffectEvent(() => {
    const proxy = source.current;
    const [paper, picture] = [canvas.current?.getContext("2d"), proxy?.index && proxy.get(0, 0)];
    if (!paper || !picture || !canvas.current || !proxy?.index) return;
    const { width, height } = canvas.current;
    compose(paper, width, height, [{ acts: placedBy(placed), ...partOf(proxy.index, picture) }]);
    canvas.current.dataset.frame = "0";
  });
  useEffect(() => {
    const proxy = new FrameSource({ index, frames }, () => draw());
    source.current = proxy;
    return () => {
      source.current = null;
      proxy.close();
    };
  }, [index, frames]);
  const seen = JSON.stringify(placed);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn again where the picture lies elsewhere
  useEffect(() => draw(), [seen]);

  useEffect(() => {
    if (share === null) return;
    const frame = requestAnimationFrame(() => setShare(share >= 1 ? null : Math.min(1, share + 1 / (60 * SHOWN_S))));
    return () => cancelAnimationFrame(frame);
  }, [share]);
  useCommandKeys(
    "The still",
    [{ keys: "Space", words: "Show its movement", run: () => pair && setShare(share === null ? 0 : null) }],
    true,
  );

  const write = (next: [Framing, Framing]) =>
    act(() =>
      data(
        api.PUT("/api/v1/projects/{project_id}/media/{media_id}/fit", {
          params: { path: { project_id: id, media_id: clip.id } },
          body: { how: "own", ...next[0], turn: fit.turn as 0, to: next[1] },
        }),
      ),
    );
  const drag = (which: 0 | 1, corner: boolean) => (down: React.PointerEvent<HTMLElement>) => {
    if (!pair) return;
    down.preventDefault();
    down.stopPropagation();
    const box = canvas.current?.getBoundingClientRect() as DOMRect;
    const begun = pair[which];
    let next = pair;
    const move = ({ dx, dy }: Drag) => {
      const by: [number, number] = [dx / box.width, dy / box.height];
      const [, , w] = rectangle(begun, shares);
      const now = corner ? resized(begun, w + 2 * by[0], shares) : moved(begun, by, shares);
      next = which ? [pair[0], now] : [now, pair[1]];
      setHeld(next);
    };
    follow(down, move, (last) => {
      if (last && next !== pair) void write(next).finally(() => setHeld(null));
      else setHeld(null);
    });
  };

  return (
    <div className={cx("room")}>
      <div
        className={cx("paper")}
        style={
          { aspectRatio: `${state.width} / ${state.height}`, "--shape": state.width / state.height } as CSSProperties
        }
      >
        <canvas
          ref={canvas}
          width={960}
          height={Math.round((960 * state.height) / state.width / 2) * 2}
          role="img"
          aria-label={`${clip.name}, whole`}
          data-testid="look-picture"
          data-share={share === null ? "" : share.toFixed(3)}
        />
        {pair &&
          share === null &&
          ([0, 1] as const).map((which) => {
            const [left, top, w, h] = rectangle(pair[which], shares).map((v) => `${100 * v}%`);
            return (
              <div
                key={which}
                className={cx(which ? "frame end" : "frame")}
                style={{ left, top, width: w, height: h }}
                onPointerDown={drag(which, false)}
                data-testid={which ? "frame-end" : "frame-start"}
                title="Drag to move it, its corner to resize it"
              >
                <span>{which ? "ends here" : "begins here"}</span>
                <i onPointerDown={drag(which, true)} data-testid={which ? "corner-end" : "corner-start"} />
              </div>
            );
          })}
      </div>
    </div>
  );
}

/** Rectangle in which a framing puts the picture; the core's rule is the film's, this is its preview. */
function at(from: Framing, to: Framing, share: number, shares: [number, number], turn: number, drawn: number) {
  const way = share * share * (3 - 2 * share);
  const [a, b] = [from, to].map((f) => {
    const [left, top, w, h] = rectangle(f, shares);
    return { scale: f.scale, x: (0.5 - left - w / 2) * f.scale, y: (0.5 - top - h / 2) * f.scale };
  }) as [Framing, Framing];
  const mix = (one: number, other: number) => one + way * (other - one);
  return { turn, scale: drawn * mix(a.scale, b.scale), x: mix(a.x, b.x), y: mix(a.y, b.y) };
}

/** By how much a turned picture, drawn as the file has it, is scaled to lie whole. */
function upright(clip: MediaView, shares: [number, number], film: [number, number]): number {
  if (clip.fit.turn % 180 === 0) return 1;
  const drawn = Math.min(film[0] / clip.width, film[1] / clip.height);
  return (shares[0] * film[0]) / (clip.height * drawn);
}
