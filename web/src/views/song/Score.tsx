import { Input, Modal } from "antd";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, data, type SectionView, type SongDetail, type SongView } from "../../api/client";
import { useProject } from "../../api/project";
import { Canvas, useRoom, useWidth } from "../../parts/Canvas";
import { barLines, lastAtOrBefore } from "../../parts/format";
import { useKeys } from "../../parts/keys";
import { peakOf, usePeaks } from "../../parts/peaks";
import { clock, useClock } from "../../player/clock";
import { colour } from "../../theme";
import type { Look } from "./SongPage";

const LANES = 210;
const BANDS = [
  ["low", "hits, low"],
  ["mid", "hits, middle"],
  ["high", "hits, high"],
] as const;

interface View {
  from: number;
  to: number;
}

/** The song as a zoomable score: sections and phrases above, waveform with the grid, lanes for hits, marks and loudness. */
export function Score({
  song,
  detail,
  look,
  choose,
}: {
  song: SongView;
  detail: SongDetail | undefined;
  look: Look;
  choose: (mark: number | null) => void;
}) {
  const { id } = useProject();
  const peaks = usePeaks(id, song.media);
  const [place, width] = useWidth<HTMLDivElement>();
  const wave = useRoom(place, 160, LANES + 100);
  const head = useRef<HTMLDivElement>(null);
  const [view, setView] = useState<View>({ from: 0, to: song.seconds });
  const latest = useRef(view);
  latest.current = view;

  useEffect(() => setView(windowFor(look.zoom, song, clock.position())), [look.zoom, song.seconds]);
  useEffect(
    () =>
      clock.subscribe((at) => {
        const { from, to } = latest.current;
        if (head.current) {
          head.current.style.left = `${(100 * (at - from)) / (to - from)}%`;
          head.current.style.display = at < from || at > to ? "none" : "block";
        }
        if (useClock.getState().playing && (at > to || at < from) && to - from < song.seconds - 0.1)
          setView(shifted(latest.current, at - 0.05 * (to - from), song.seconds));
      }),
    [song, view],
  );

  useEffect(() => {
    const target = place.current;
    if (!target) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const { from, to } = latest.current;
      const box = target.getBoundingClientRect();
      if (Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey) {
        setView(
          shifted(latest.current, from + ((event.deltaX || event.deltaY) / box.width) * (to - from), song.seconds),
        );
        return;
      }
      const at = from + ((event.clientX - box.left) / box.width) * (to - from);
      setView(zoomed(latest.current, at, Math.exp(event.deltaY * 0.0015), song.seconds));
    };
    target.addEventListener("wheel", wheel, { passive: false });
    return () => target.removeEventListener("wheel", wheel);
  }, [song.seconds, place]);

  useKeys({
    "+": () => setView(zoomed(latest.current, clock.position(), 0.6, song.seconds)),
    "=": () => setView(zoomed(latest.current, clock.position(), 0.6, song.seconds)),
    "-": () => setView(zoomed(latest.current, clock.position(), 1.6, song.seconds)),
  });

  const x = useCallback((at: number, w: number) => ((at - view.from) / (view.to - view.from)) * w, [view]);
  const paintWave = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      paintGrid(paper, w, h, song, view);
      if (!peaks) return;
      const step = (view.to - view.from) / w;
      const middle = h / 2;
      for (let px = 0; px < w; px++) {
        const [low, high, rms] = peakOf(peaks, view.from + px * step, view.from + (px + 1) * step);
        paper.fillStyle = colour.wave;
        paper.fillRect(px, middle - high * middle, 1, Math.max(1, (high - low) * middle));
        paper.fillStyle = colour.waveInner;
        paper.fillRect(px, middle - rms * middle, 1, Math.max(1, 2 * rms * middle));
      }
    },
    [song, peaks, view],
  );
  const paintLanes = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      paintGrid(paper, w, h, song, view);
      if (detail) paintHits(paper, w, detail, 1 - look.sensitivity, view);
      if (detail) paintLoudness(paper, w, detail, view);
    },
    [song, detail, view, look.sensitivity],
  );

  const seek = (event: React.PointerEvent) => {
    const box = place.current?.getBoundingClientRect();
    if (!box || event.button !== 0) return;
    choose(null);
    clock.seek(view.from + ((event.clientX - box.left) / box.width) * (view.to - view.from));
  };
  return (
    <div className="score" ref={place} data-testid="score">
      <Sections song={song} view={view} width={width} />
      <div className="phrase-lane">
        {song.phrases
          .filter((p) => p.end_s > view.from && p.start_s < view.to)
          .map((p) => (
            <div
              key={p.start_s}
              className="phrase"
              style={{
                left: Math.max(0, x(p.start_s, width)),
                width: Math.max(2, x(p.end_s, width) - Math.max(0, x(p.start_s, width)) - 2),
              }}
            >
              {x(p.end_s, width) - x(p.start_s, width) > 90 ? `phrase ${p.number} · ${p.bars} bars` : ""}
            </div>
          ))}
      </div>
      <BarNumbers song={song} view={view} width={width} />
      <div onPointerDown={seek}>
        <Canvas paint={paintWave} height={wave} label="Waveform with bars and beats" />
      </div>
      <div className="lanes" onPointerDown={seek}>
        <Canvas paint={paintLanes} height={LANES} label="Hits, marks and loudness" />
        {BANDS.map(([band, name], i) => (
          <span key={band} className="lane-name" style={{ top: 4 + i * 32 }}>
            {name}
          </span>
        ))}
        <span className="lane-name" style={{ top: 100 }}>
          marks
        </span>
        <span className="lane-name" style={{ top: 146 }}>
          loudness, LUFS momentary
        </span>
        <Marks song={song} view={view} width={width} chosen={look.mark} choose={choose} />
      </div>
      <div ref={head} className="score-head" />
    </div>
  );
}

function windowFor(zoom: Look["zoom"], song: SongView, at: number): View {
  if (zoom === "song") return { from: 0, to: song.seconds };
  if (zoom === "section") {
    const s = song.sections.find((k) => at < k.end_s) ?? song.sections[0];
    return s ? { from: s.start_s, to: s.end_s } : { from: 0, to: song.seconds };
  }
  const beat = 60 / song.bpm;
  const length = zoom === "8 bars" ? 8 * song.metre * beat : 1.5 * beat;
  const bar = [...barLines(song, 0, at + 0.01)].pop()?.at ?? 0;
  return shifted({ from: 0, to: length }, zoom === "beat" ? at - length / 2 : bar, song.seconds);
}

function shifted(view: View, from: number, seconds: number): View {
  const length = view.to - view.from;
  const start = Math.min(Math.max(0, from), Math.max(0, seconds - length));
  return { from: start, to: start + length };
}

function zoomed(view: View, at: number, factor: number, seconds: number): View {
  const length = Math.min(seconds, Math.max(0.02, (view.to - view.from) * factor));
  const share = (at - view.from) / (view.to - view.from);
  return shifted({ from: 0, to: length }, at - share * length, seconds);
}

function paintGrid(paper: CanvasRenderingContext2D, w: number, h: number, song: SongView, view: View): void {
  const perBeat = (w * 60) / song.bpm / (view.to - view.from);
  const bars = new Set(song.bars);
  song.beats.forEach((beat, i) => {
    const bar = bars.has(i);
    if (beat < view.from || beat > view.to || (!bar && perBeat < 6)) return;
    paper.fillStyle = bar ? (perBeat < 3 ? colour.ruleFaint : "#B9AD92") : colour.ruleFaint;
    paper.fillRect(Math.round(((beat - view.from) / (view.to - view.from)) * w), 0, 1, h);
  });
}

function paintHits(paper: CanvasRenderingContext2D, w: number, detail: SongDetail, least: number, view: View): void {
  paper.fillStyle = colour.ink;
  const size = Math.min(1, Math.max(0.28, (w * 0.5) / (view.to - view.from) / 40));
  BANDS.forEach(([band], i) => {
    for (const hit of detail.hits[band] ?? []) {
      if (hit.strength < least || hit.at_s < view.from || hit.at_s > view.to) continue;
      paper.globalAlpha = 0.35 + 0.65 * hit.strength;
      paper.beginPath();
      paper.arc(
        ((hit.at_s - view.from) / (view.to - view.from)) * w,
        24 + i * 32,
        size * (1.2 + 4.3 * hit.strength),
        0,
        7,
      );
      paper.fill();
    }
  });
  paper.globalAlpha = 1;
}

function paintLoudness(paper: CanvasRenderingContext2D, w: number, detail: SongDetail, view: View): void {
  paper.strokeStyle = colour.ink;
  paper.lineWidth = 1.2;
  paper.beginPath();
  for (let px = 0; px <= w; px += 2) {
    const at = view.from + (px / w) * (view.to - view.from);
    const lufs = detail.lufs[Math.min(detail.lufs.length - 1, Math.floor(at / detail.lufs_hop_s))] ?? -70;
    const y = 204 - (Math.max(0, lufs + 45) / 45) * 42;
    if (px) paper.lineTo(px, y);
    else paper.moveTo(px, y);
  }
  paper.stroke();
}

function BarNumbers({ song, view, width }: { song: SongView; view: View; width: number }) {
  const perBar = (width * 60 * song.metre) / song.bpm / (view.to - view.from);
  const every = [1, 2, 4, 8, 16].find((n) => n * perBar > 30) ?? 32;
  return (
    <div className="bar-numbers">
      {barLines(song, view.from, view.to)
        .filter((l) => (l.bar - 1) % every === 0)
        .map((l) => (
          <span key={l.bar} style={{ left: (width * (l.at - view.from)) / (view.to - view.from) + 3 }}>
            {l.bar}
          </span>
        ))}
    </div>
  );
}

function Sections({ song, view, width }: { song: SongView; view: View; width: number }) {
  const { act, id, path } = useProject();
  const [naming, setNaming] = useState<SectionView | null>(null);
  const [name, setName] = useState("");
  const [drag, setDrag] = useState<{ id: number; at: number } | null>(null);
  const scale = width / (view.to - view.from);
  const change = (section: number, body: { name?: string; start_s?: number; phrase_bars?: number }) =>
    act(() =>
      data(
        api.PATCH("/api/projects/{project_id}/song/sections/{section_id}", {
          params: { path: { project_id: id, section_id: section } },
          body: { snap: true, ...body },
        }),
      ),
    );
  const repeats = useMemo(
    () => (s: SectionView) => song.sections.filter((o) => o.group === s.group && o.id !== s.id).map((o) => o.name),
    [song.sections],
  );
  const grab = (event: React.PointerEvent, s: SectionView) => {
    event.stopPropagation();
    const target = event.currentTarget as HTMLElement;
    target.setPointerCapture(event.pointerId);
    const origin = event.clientX;
    let at = s.start_s;
    const move = (e: PointerEvent) => {
      const free = s.start_s + (e.clientX - origin) / scale;
      const lines = song.bars.map((b) => song.beats[b] as number);
      const i = Math.max(0, lastAtOrBefore(lines, free));
      at = [lines[i], lines[i + 1]].reduce<number>(
        (best, l) => (l !== undefined && Math.abs(l - free) < Math.abs(best - free) ? l : best),
        lines[i] ?? free,
      );
      setDrag({ id: s.id, at });
    };
    target.addEventListener("pointermove", move);
    target.addEventListener(
      "pointerup",
      () => {
        target.removeEventListener("pointermove", move);
        setDrag(null);
        if (Math.abs(at - s.start_s) > 1e-3) void change(s.id, { start_s: at });
      },
      { once: true },
    );
  };
  const save = () => {
    if (naming) void change(naming.id, { name });
    setNaming(null);
  };
  return (
    <div className="section-lane">
      {song.sections
        .filter((s) => s.end_s > view.from && s.start_s < view.to)
        .map((s, i) => {
          const start = drag?.id === s.id ? drag.at : s.start_s;
          const left = Math.max(0, (start - view.from) * scale);
          const wide = Math.max(2, (s.end_s - view.from) * scale - left - 2);
          const same = repeats(s);
          return (
            <div
              key={s.id}
              className={i % 2 ? "section alt" : "section"}
              style={{ left, width: wide }}
              data-testid={`section-${s.id}`}
              onPointerDown={() => clock.seek(s.start_s)}
              onDoubleClick={() => {
                setNaming(s);
                setName(s.name);
              }}
              title={`${s.name}: bars ${s.first_bar} to ${s.first_bar + s.bars - 1}${same.length ? `, same music as ${same.join(", ")}` : ""}. Double-click to rename.`}
            >
              {i > 0 && (
                <span
                  className="section-edge"
                  onPointerDown={(e) => grab(e, s)}
                  title="Drag the border to another bar"
                />
              )}
              <b>{s.name}</b>
              {wide > 190 && same.length ? ` · same music as ${same.join(", ")}` : ""}
            </div>
          );
        })}
      <Modal
        title="Section"
        open={naming !== null}
        onCancel={() => setNaming(null)}
        onOk={save}
        okText="Rename"
        width={380}
      >
        <Input
          value={name}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={save}
          aria-label="Section name"
          autoFocus
        />
        <div className="buttons" style={{ marginTop: 12 }}>
          <button
            type="button"
            className="link"
            onClick={() => {
              void act(() =>
                data(
                  api.POST("/api/projects/{project_id}/song/sections", {
                    params: path,
                    body: { at_s: clock.position() },
                  }),
                ),
              );
              setNaming(null);
            }}
          >
            Split at the playhead's bar
          </button>
          {naming && (
            <button
              type="button"
              className="link"
              onClick={() => {
                void act(() =>
                  data(
                    api.DELETE("/api/projects/{project_id}/song/sections/{section_id}", {
                      params: { path: { project_id: id, section_id: naming.id } },
                    }),
                  ),
                );
                setNaming(null);
              }}
            >
              Join to the one before
            </button>
          )}
          {naming &&
            [2, 4, 8].map((n) => (
              <button
                type="button"
                className="link"
                key={n}
                onClick={() => {
                  void change(naming.id, { phrase_bars: n });
                  setNaming(null);
                }}
              >
                phrases of {n} bars
              </button>
            ))}
        </div>
      </Modal>
    </div>
  );
}

function Marks({
  song,
  view,
  width,
  chosen,
  choose,
}: {
  song: SongView;
  view: View;
  width: number;
  chosen: number | null;
  choose: (id: number | null) => void;
}) {
  const { act, id, path } = useProject();
  const [drag, setDrag] = useState<{ id: number; at: number } | null>(null);
  const scale = width / (view.to - view.from);
  useKeys({
    Delete: () => {
      if (chosen === null) return;
      void act(() =>
        data(api.POST("/api/projects/{project_id}/song/marks/delete", { params: path, body: { ids: [chosen] } })),
      );
      choose(null);
    },
  });
  const grab = (event: React.PointerEvent, mark: { id: number; at_s: number }) => {
    event.stopPropagation();
    choose(mark.id);
    const target = event.currentTarget as HTMLElement;
    target.setPointerCapture(event.pointerId);
    const origin = event.clientX;
    let at = mark.at_s;
    const move = (e: PointerEvent) => {
      at = Math.min(song.seconds, Math.max(0, mark.at_s + (e.clientX - origin) / scale));
      setDrag({ id: mark.id, at });
    };
    target.addEventListener("pointermove", move);
    target.addEventListener(
      "pointerup",
      () => {
        target.removeEventListener("pointermove", move);
        if (Math.abs(at - mark.at_s) < 1e-4) return setDrag(null);
        void act(() =>
          data(
            api.PUT("/api/projects/{project_id}/song/marks/{mark_id}", {
              params: { path: { project_id: id, mark_id: mark.id } },
              body: { at_s: at },
            }),
          ),
        ).then(() => setDrag(null));
      },
      { once: true },
    );
  };
  return (
    <>
      {song.marks
        .filter((m) => m.at_s >= view.from && m.at_s <= view.to)
        .map((m) => (
          <button
            type="button"
            key={m.id}
            className={m.id === chosen ? "mark on" : "mark"}
            data-testid="mark"
            aria-label={`Mark at ${m.at_s.toFixed(3)} s`}
            style={{ left: ((drag?.id === m.id ? drag.at : m.at_s) - view.from) * scale }}
            onPointerDown={(e) => grab(e, m)}
          >
            ◆
          </button>
        ))}
    </>
  );
}
