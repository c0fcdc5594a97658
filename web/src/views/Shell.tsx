import { Alert, Button, Spin } from "antd";
import {
  type ComponentType,
  lazy,
  memo,
  type ReactNode,
  Suspense,
  useCallback,
  useEffect,
  useMemo,
  useState,
} from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { ProjectProvider, useAddresses, useEdit, useProject, WholeSong } from "../api/project";
import { nearestBeat } from "../parts/format";
import { JobsMenu } from "../parts/JobsMenu";
import { endProject } from "../parts/ending";
import { Told } from "../parts/Told";
import { Guard } from "../parts/Guard";
import { CommandList } from "../parts/CommandList";
import { useCommandKeys } from "../parts/keys";
import { PageDrop } from "../parts/PageDrop";
import { useTellScreens } from "../parts/screens";
import { SongStrip } from "../parts/SongStrip";
import { clock, useClock } from "../player/clock";
import { tappedAt } from "../player/latency";
import { keptClicks, planOf, WHOLE } from "../player/plan";
import { ProjectCell } from "./ProjectCell";
import { tapHandler, tapSet } from "./song/taps";
import styles from "./Shell.module.css";
import { classes } from "../parts/classes";

const cx = classes(styles);

const VIEWS = [
  { key: "song", name: "Song", load: () => import("./song/SongPage").then((m) => m.SongPage) },
  { key: "lineup", name: "Line-up", load: () => import("./lineup/LineupView").then((m) => m.LineupView) },
  { key: "coverage", name: "Coverage", load: () => import("./coverage/CoverageView").then((m) => m.CoverageView) },
  { key: "sheet", name: "Sheet", load: () => import("./sheet/SheetView").then((m) => m.SheetView) },
  { key: "handoff", name: "Hand-off", load: () => import("./handoff/HandoffView").then((m) => m.HandoffView) },
] as const;
const PAGES = Object.fromEntries(
  VIEWS.map((v) => [v.key, lazy(async () => ({ default: (await v.load()) as () => ReactNode }))]),
);

/** Have every view at hand once the first is drawn, so that none is waited for. */
function useAllViews(): void {
  useEffect(() => {
    const soon = setTimeout(() => VIEWS.forEach((v) => void v.load()), 300);
    return () => clearTimeout(soon);
  }, []);
}

/** The frame of an open project: the bar, the song strip, and one of the five views. */
export function Shell() {
  const { id = "", view } = useParams();
  const waiting = (error: string | null) => (
    <div className={cx("waiting")}>
      {error ? (
        <Alert type="error" showIcon message={error} action={<Link to="/">Back to projects</Link>} />
      ) : (
        <Spin description="Opening the project" />
      )}
    </div>
  );
  return (
    <ProjectProvider key={id} id={id} waiting={waiting}>
      <WholeSong on={onWholeSong(view)}>
        <Frame view={view ?? "song"} />
      </WholeSong>
    </ProjectProvider>
  );
}

/** Views that show the whole song; the others show what the cutdown keeps of it. */
function onWholeSong(view: string | undefined): boolean {
  return view === undefined || view === "song" || view === "lineup";
}

/** Keep the clock on what is kept of the song, in the time of the view, with the grid's clicks. */
export function useWorkingSong(view: string): void {
  const { state, rate } = useProject();
  const edit = useEdit();
  const sound = edit?.programme.sound;
  const [before, after] = onWholeSong(view) ? [0, 0] : [(edit?.lead ?? 0) / rate, (edit?.tail ?? 0) / rate];
  const { song, whole, kept } = state;
  const lineup = view === "lineup";
  const cut = whole !== null && whole !== undefined;
  useEffect(() => {
    const ranges = kept.map(([a = 0, b = 0]) => [a, b] as const);
    clock.follow(sound && !lineup ? planOf(sound, cut ? ranges : [], [before, after]) : WHOLE, onWholeSong(view));
  }, [view, lineup, cut, kept, sound, before, after]);
  useEffect(() => {
    if (!song) return;
    const downs = new Set(song.bars);
    const shown = song.beats.map((at, i) => ({ at, down: downs.has(i) }));
    const inside = cut && onWholeSong(view) && !lineup;
    clock.setClicks(keptClicks(shown, inside ? kept : null));
  }, [song, kept, cut, lineup, view]);
}

function Frame({ view }: { view: string }) {
  const { id, state, turn } = useProject();
  const edit = useEdit();
  const [help, setHelp] = useState(false);
  const current = VIEWS.find((v) => v.key === view) ?? VIEWS[0];
  const Page = PAGES[current.key] as ComponentType;
  const song = state.song;
  const sound = useAddresses()(song?.media ?? "", "song.flac");
  const seconds = song?.seconds;
  useEffect(() => {
    if (sound && seconds !== undefined) void clock.load(sound, seconds);
  }, [sound, seconds]);
  useWorkingSong(current.key);
  useTellScreens(id, edit);
  useEffect(
    () => () => {
      clock.pause();
      endProject();
    },
    [],
  );
  // The badges of the edit come with every answer of it.
  const { sheet, handoff } = edit?.badges ?? state.badges;
  const badges = useMemo(() => ({ ...state.badges, sheet, handoff }), [state.badges, sheet, handoff]);
  const undo = useCallback(() => turn("undo"), [turn]);
  const redo = useCallback(() => turn("redo"), [turn]);
  useAllViews();
  useTransportKeys(view, undo, redo, () => setHelp(true));
  const closeHelp = useCallback(() => setHelp(false), []);
  return (
    <div className={cx("frame")}>
      <header className="bar">
        <Link to="/" className="word" title="All projects">
          zembi
        </Link>
        <ProjectCell />
        <Views id={id} current={current.key} badges={badges} />
        <div className={cx("bar-tools")}>
          <JobsMenu />
          <Turn word="Undo" what={edit?.undo ?? state.undo} turn={undo} />
          <Turn word="Redo" what={edit?.redo ?? state.redo} turn={redo} />
          <Button
            type="text"
            size="small"
            onClick={() => setHelp(true)}
            aria-label="What can be done here, and its keys"
            data-testid="commands"
          >
            ?
          </Button>
        </div>
      </header>
      <SongStrip />
      <main className={cx("page")}>
        <h1 className="heard-only">
          {state.name}, {current.name}
        </h1>
        <PageDrop view={current.key}>
          <Guard key={current.key} name={`The ${current.name} view`}>
            <Suspense fallback={null}>
              <Page />
            </Suspense>
          </Guard>
        </PageDrop>
      </main>
      <Told />
      <CommandList open={help} close={closeHelp} />
    </div>
  );
}

// The parts of the frame that a cut does not change are not drawn again for it.

const Views = memo(function Views({ id, current, badges }: { id: string; current: string; badges: Schemas["Badges"] }) {
  return (
    <nav>
      {VIEWS.map((v) => (
        <Link
          key={v.key}
          to={`/p/${id}/${v.key}`}
          className={cx(v.key === current ? "bar-cell on" : "bar-cell")}
          aria-current={v.key === current ? "page" : undefined}
        >
          <b>{v.name}</b>
          <span data-testid={`badge-${v.key}`}>{badges[v.key]}</span>
        </Link>
      ))}
    </nav>
  );
});

const Turn = memo(function Turn({ word, what, turn }: { word: string; what: string | null; turn: () => unknown }) {
  return (
    <span title={what ? `${word}: ${what}` : `Nothing to ${word.toLowerCase()}`}>
      <TurnButton word={word} off={!what} turn={turn} />
    </span>
  );
});

const TurnButton = memo(function TurnButton({ word, off, turn }: { word: string; off: boolean; turn: () => unknown }) {
  return (
    <Button type="text" size="small" disabled={off} onClick={turn} data-testid={word.toLowerCase()}>
      {word}
    </Button>
  );
});

function useTransportKeys(view: string, undo: () => void, redo: () => void, help: () => void): void {
  const { state, rate, act, path } = useProject();
  const navigate = useNavigate();
  const song = state.song;
  const step = (frames: number) => {
    clock.pause();
    clock.seek((Math.floor(clock.position() * rate + 1e-6) + frames + 0.001) / rate);
  };
  const beat = (by: number) => {
    if (!song) return;
    const at = clock.position();
    const beats = song.beats.filter((b) => (by > 0 ? b > at + 0.01 : b < at - 0.01));
    const to = by > 0 ? beats[0] : beats[beats.length - 1];
    if (to !== undefined) clock.seek(to);
  };
  const phrase = (by: number) => {
    if (!song) return;
    const at = clock.position();
    const starts = song.phrases.map((p) => p.start_s).filter((s) => (by > 0 ? s > at + 0.05 : s < at - 0.5));
    const to = by > 0 ? starts[0] : starts[starts.length - 1];
    clock.seek(to ?? (by < 0 ? 0 : at));
  };
  const shuttle = (by: number) => {
    const { playing, speed } = useClock.getState();
    if (by === 0) clock.pause();
    else clock.play(playing && Math.sign(speed) === by ? Math.max(-8, Math.min(8, speed * 2)) : by);
  };
  const point = (which: 0 | 1) => {
    const { loop, duration } = useClock.getState();
    const at = song ? nearestBeat(song, clock.position()) : clock.position();
    const range: [number, number] =
      which === 0 ? [at, loop && loop[1] > at ? loop[1] : duration] : [loop && loop[0] < at ? loop[0] : 0, at];
    if (range[1] - range[0] > 0.1) useClock.setState({ loop: range });
  };
  const tap = () => {
    if (tapHandler.current) {
      tapHandler.current(tappedAt());
      return;
    }
    const times_s = [tappedAt()];
    const body = { times_s, set_id: tapSet.current, working: !onWholeSong(view) };
    void act(() => data(api.POST("/api/v1/projects/{project_id}/song/marks", { params: path, body })));
  };
  useCommandKeys("The song", [
    { keys: "Space", words: "Play or pause", run: () => clock.toggle() },
    { keys: "l", words: "Play on; again, faster", run: () => shuttle(1) },
    { keys: "j", words: "Play backwards; again, faster", run: () => shuttle(-1) },
    { keys: "k", words: "Stop", run: () => shuttle(0) },
    { keys: "ArrowLeft", words: "A frame back", run: () => step(-1) },
    { keys: "ArrowRight", words: "A frame on", run: () => step(1) },
    { keys: "Shift+ArrowLeft", words: "A beat back", run: () => beat(-1) },
    { keys: "Shift+ArrowRight", words: "A beat on", run: () => beat(1) },
    { keys: "ArrowUp", words: "A phrase back", run: () => phrase(-1) },
    { keys: "ArrowDown", words: "A phrase on", run: () => phrase(1) },
    { keys: "i", words: "Loop from here", run: () => point(0) },
    { keys: "o", words: "Loop to here", run: () => point(1) },
    { keys: "Home", words: "To the beginning", run: () => clock.seek(0) },
    { keys: "End", words: "To the end", run: () => clock.seek(useClock.getState().duration) },
    { keys: "Escape", words: "Take the loop off", run: () => useClock.setState({ loop: null }) },
    { keys: "t", words: "Tap: a mark, or what is being tapped", run: tap },
  ]);
  useCommandKeys("The project", [
    { keys: "Ctrl+z", words: "Undo", run: undo },
    { keys: "Ctrl+Shift+z Ctrl+Shift+Z", words: "Redo", run: redo },
    { keys: "? Shift+?", words: "What can be done here", run: help },
    ...VIEWS.map((v, i) => ({
      keys: `Alt+${i + 1}`,
      words: `Go to ${v.name}`,
      run: () => navigate(`/p/${state.id}/${v.key}`),
    })),
  ]);
}
