import { Alert, Button, Modal, Spin } from "antd";
import { memo, useCallback, useEffect, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { ProjectProvider, useAddresses, useEdit, useProject, WholeSong } from "../api/project";
import { nearestBeat } from "../parts/format";
import { JobsMenu } from "../parts/JobsMenu";
import { KEY_HELP, useKeys } from "../parts/keys";
import { PageDrop } from "../parts/PageDrop";
import { useTellScreens } from "../parts/screens";
import { SongStrip } from "../parts/SongStrip";
import { clock, useClock } from "../player/clock";
import { tappedAt } from "../player/latency";
import { keptClicks, planOf, WHOLE } from "../player/plan";
import { ProjectCell } from "./ProjectCell";
import { tapHandler, tapSet } from "./song/taps";
import { CoverageView } from "./coverage/CoverageView";
import { HandoffView } from "./handoff/HandoffView";
import { LineupView } from "./lineup/LineupView";
import { SheetView } from "./sheet/SheetView";
import { SongPage } from "./song/SongPage";
import styles from "./Shell.module.css";
import { classes } from "../parts/classes";

const cx = classes(styles);

const VIEWS = [
  { key: "song", name: "Song", page: SongPage },
  { key: "lineup", name: "Line-up", page: LineupView },
  { key: "coverage", name: "Coverage", page: CoverageView },
  { key: "sheet", name: "Sheet", page: SheetView },
  { key: "handoff", name: "Hand-off", page: HandoffView },
] as const;

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
  const { state } = useProject();
  const sound = useEdit()?.programme.sound;
  const { song, whole, kept } = state;
  const lineup = view === "lineup";
  const cut = whole !== null && whole !== undefined;
  useEffect(() => {
    const ranges = kept.map(([a = 0, b = 0]) => [a, b] as const);
    clock.follow(sound && !lineup ? planOf(sound, cut ? ranges : []) : WHOLE, onWholeSong(view));
  }, [view, lineup, cut, kept, sound]);
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
  const Page = current.page;
  const song = state.song;
  const sound = useAddresses()(song?.media ?? "", "song.flac");
  useEffect(() => {
    if (sound && song) void clock.load(sound, song.seconds);
  }, [sound, song?.seconds]);
  useWorkingSong(current.key);
  useTellScreens(id, edit);
  useEffect(() => () => clock.pause(), []);
  // The badges of the edit come with every answer of it.
  const { sheet, handoff } = edit?.badges ?? state.badges;
  const badges = useMemo(() => ({ ...state.badges, sheet, handoff }), [state.badges, sheet, handoff]);
  const undo = useCallback(() => turn("undo"), [turn]);
  const redo = useCallback(() => turn("redo"), [turn]);
  useTransportKeys(view, undo, redo, () => setHelp(true));
  const closeHelp = useCallback(() => setHelp(false), []);
  return (
    <div className={cx("frame")}>
      <header className="bar">
        <Link to="/" className="word" aria-label="All projects">
          zembi
        </Link>
        <ProjectCell />
        <Views id={id} current={current.key} badges={badges} />
        <div className={cx("bar-tools")}>
          <JobsMenu />
          <Turn word="Undo" what={edit?.undo ?? state.undo} turn={undo} />
          <Turn word="Redo" what={edit?.redo ?? state.redo} turn={redo} />
          <Button type="text" size="small" onClick={() => setHelp(true)} aria-label="Keys">
            ?
          </Button>
        </div>
      </header>
      <SongStrip />
      <main className={cx("page")}>
        <PageDrop view={current.key}>
          <Page />
        </PageDrop>
      </main>
      <KeyHelp open={help} close={closeHelp} />
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

const KeyHelp = memo(function KeyHelp({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Modal title="Keys" open={open} onCancel={close} footer={null} width={560}>
      <dl className={cx("keys")}>
        {KEY_HELP.map(([key, what]) => (
          <div key={key}>
            <dt>{key}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Modal>
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
  useKeys({
    Space: () => clock.toggle(),
    k: () => shuttle(0),
    j: () => shuttle(-1),
    l: () => shuttle(1),
    ArrowLeft: () => step(-1),
    ArrowRight: () => step(1),
    "Shift+ArrowLeft": () => beat(-1),
    "Shift+ArrowRight": () => beat(1),
    ArrowUp: () => phrase(-1),
    ArrowDown: () => phrase(1),
    i: () => point(0),
    o: () => point(1),
    Escape: () => useClock.setState({ loop: null }),
    t: () => {
      if (tapHandler.current) {
        tapHandler.current(tappedAt());
        return;
      }
      const times_s = [tappedAt()];
      const body = { times_s, set_id: tapSet.current, working: !onWholeSong(view) };
      void act(() => data(api.POST("/api/projects/{project_id}/song/marks", { params: path, body })));
    },
    "Ctrl+z": undo,
    "Ctrl+Shift+z": redo,
    "Ctrl+Shift+Z": redo,
    "Shift+?": help,
    "?": help,
    "Alt+1": () => navigate(`/p/${state.id}/song`),
    "Alt+2": () => navigate(`/p/${state.id}/lineup`),
    "Alt+3": () => navigate(`/p/${state.id}/coverage`),
    "Alt+4": () => navigate(`/p/${state.id}/sheet`),
    "Alt+5": () => navigate(`/p/${state.id}/handoff`),
  });
}
