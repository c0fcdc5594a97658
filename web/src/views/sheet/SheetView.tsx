import { itemBy, shotsOf } from "../../api/lanes";
import { App, Button, Select } from "antd";
import { NumberField } from "../../parts/NumberField";
import { memo, useEffect, useState } from "react";
import { api, data, type Unit } from "../../api/client";
import { useCommands, useEdit, useProject } from "../../api/project";
import { within } from "../../api/facts";
import { EmptyPage, GoToSong } from "../../parts/EmptyPage";
import { kept } from "../../parts/kept";
import { follow } from "../../parts/drag";
import { DIGITS, useCommandKeys } from "../../parts/keys";
import { clock, useClock } from "../../player/clock";
import { frameAt } from "../../player/timemap";
import { nextPlace } from "./pulls";
import { useSheetActions } from "./actions";
import { chooseWave, openBench, useChoice, WAVES } from "./choice";
import { ClipDrawer } from "./ClipDrawer";
import { ColourView } from "./colour/ColourView";
import { GhostSource } from "./Ghost";
import { WAYS } from "./laying";
import { tapHandler } from "../song/taps";
import { fallsNow, shotAt } from "./falls";
import { onKeys, sectionAt } from "./keys";
import type { Per } from "./geometry";
import { Judge } from "./Judge";
import { LayoutChoice } from "./LayoutChoice";
import { LanesMenu } from "./LanesMenu";
import { LiveView } from "./LiveView";
import { aroundCut } from "./passage";
import { PassageMenu } from "./PassageMenu";
import { Plan } from "./Plan";
import { rulesOff } from "./plan";
import { Rows } from "./Rows";
import { CardBench } from "./titles/CardBench";
import { TitlesMenu } from "./titles/TitlesMenu";
import { Treating } from "./treating/Treating";
import { UnitChoice } from "./UnitChoice";
import { Viewer } from "./Viewer";
import styles from "./SheetView.module.css";
import { classes } from "../../parts/classes";

const cx = classes(styles);

const PER = [
  { value: "bar", label: "a bar a row" },
  { value: "two bars", label: "two bars a row" },
  { value: "phrase", label: "a phrase a row" },
  { value: "two phrases", label: "two phrases a row" },
  { value: "section", label: "a section a row" },
];

/** Storage key of the viewer's width in this browser. */
const SIDE = "zembi.viewer";

/** The heart: one row a phrase, the programme and the wall of angles beside it. */
export function SheetView() {
  const { id, state, operate } = useProject();
  const edit = useEdit();
  const layout = useChoice((c) => c.layout);
  const per = useChoice((c) => c.per);
  const treating = useChoice((c) => c.treating);
  const [side, setSide] = useState(() => Number(localStorage.getItem(SIDE)) || 0);
  const dense = layout === "whole song";
  const song = state.song;
  const item = useChoice((c) => c.item);
  const title = Boolean(itemBy(edit, item)?.source.card);
  useSheetKeys();
  if (!song || !edit)
    return (
      <EmptyPage now="sheet" title="The sheet is laid out by the song's phrases. Add the song first.">
        <GoToSong />
      </EmptyPage>
    );
  const uncut = shotsOf(edit).length === 1;
  if (layout === "live") return <LiveView />;
  if (layout === "colour") return <ColourView />;
  const resize = (to: number) => {
    const wide = Math.round(Math.min(window.innerWidth - 420, Math.max(380, to)));
    setSide(wide);
    localStorage.setItem(SIDE, String(wide));
  };
  const usual = () => {
    localStorage.removeItem(SIDE);
    setSide(0);
  };
  return (
    <div className={cx("sheet")} style={side ? { gridTemplateColumns: `minmax(0, 1fr) 6px ${side}px` } : undefined}>
      <section className={cx("sheet-side")}>
        <Tools unit={state.unit as Unit} lead={state.lead} />
        {uncut && (
          <p className={cx("hint")}>
            Nothing is cut yet. Play and press 1 to 9 to switch angles as the song runs, or begin with a{" "}
            <Button
              size="small"
              type="primary"
              onClick={() => operate({ op: "rough cut", seed: 1, without: kept<string[]>(rulesOff(id), []) })}
              data-testid="rough-cut"
              title="As the plan says, which “plan” shows and changes"
            >
              Rough cut
            </Button>
          </p>
        )}
        {layout !== "plan" && (
          <div className={cx("over-rows")}>
            <Judge />
            <LanesMenu />
            <TitlesMenu />
            {layout === "rows" && <WaveHeight />}
            {(layout === "rows" || layout === "compare") && <PerRow per={per} />}
          </div>
        )}
        {layout === "plan" ? (
          <Plan />
        ) : (
          <Rows song={song} edit={edit} dense={dense} compare={layout === "compare"} per={dense ? "phrase" : per} />
        )}
        {layout !== "plan" && <Treating />}
        {layout !== "plan" && <CardBench />}
        {layout !== "plan" && treating === null && !title && <ClipDrawer />}
        <GhostSource />
      </section>
      <div
        className={cx("border")}
        role="separator"
        aria-orientation="vertical"
        aria-label="Border between sheet and viewer"
        aria-valuenow={side}
        aria-valuetext={side ? `viewer ${side} points wide` : "viewer as wide as usual"}
        tabIndex={0}
        title="Drag to make the viewer larger, or by the arrow keys; double click or Home for the usual"
        onPointerDown={(down) =>
          follow(
            down,
            ({ event }) => resize(window.innerWidth - event.clientX),
            () => undefined,
          )
        }
        onKeyDown={(event) => {
          const by = { ArrowLeft: 20, ArrowRight: -20 }[event.key];
          if (by) resize(window.innerWidth - event.currentTarget.getBoundingClientRect().right + by);
          else if (event.key === "Home") usual();
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
        onDoubleClick={usual}
        data-testid="border"
      />
      <Viewer />
    </div>
  );
}

interface ToolsProps {
  unit: Unit;
  lead: number;
}

/** Toolbar above the rows; memoised, so it is not drawn again for every cut. */
const Tools = memo(function Tools({ unit, lead }: ToolsProps) {
  const { path, act } = useCommands();
  const settings = (body: { lead: number }) =>
    act(() => data(api.PATCH("/api/v1/projects/{project_id}/settings", { params: path, body })));
  return (
    <div className="tools">
      <UnitChoice unit={unit} />
      <span className={cx("lead")} title="Frames before the grid point at which cuts fall">
        <NumberField
          size="small"
          {...within("lead")}
          value={lead}
          change={(v) => void settings({ lead: v })}
          suffix="f lead"
          aria-label="Lead in frames"
        />
      </span>
      <PassageMenu />
      <span className="grow" />
      <LayoutChoice />
    </div>
  );
});

const PerRow = memo(function PerRow({ per }: { per: Per }) {
  return (
    <Select
      variant="borderless"
      size="small"
      value={per}
      onChange={(p) => useChoice.setState({ per: p })}
      options={PER}
      aria-label="What a row holds"
      data-testid="per"
      popupMatchSelectWidth={false}
    />
  );
});

/** How high the waveform under the rows is. */
function WaveHeight() {
  const wave = useChoice((c) => c.wave);
  return (
    <Select
      variant="borderless"
      size="small"
      value={wave}
      onChange={chooseWave}
      options={WAVES}
      aria-label="Height of the waveform"
      data-testid="wave"
      popupMatchSelectWidth={false}
    />
  );
}

function useSheetKeys(): void {
  const { state, rate, path, act, operate } = useProject();
  const { message } = App.useApp();
  const edit = useEdit();
  const choice = useChoice();
  const actions = useSheetActions();
  const shots = shotsOf(edit);
  const here = () => frameAt(clock.position(), rate);
  // The selected shot is the one under the playhead: choosing a shot goes there.
  const selected = () => shotAt(edit, here());
  const number = (n: number) => {
    const section = sectionAt(state.song, clock.position());
    const found = onKeys(state.angles, state.keys[section]).find((k) => k.key === n);
    if (found) void actions.switchTo(found.angle.id);
    else
      void message.info(
        `No angle has picture on key ${n} in ${state.song?.sections[section]?.name ?? "this section"}.`,
        2,
      );
  };
  const go = (by: number) => {
    const frame = here();
    const list = by > 0 ? shots.filter((s) => s.start > frame) : shots.filter((s) => s.start < frame).reverse();
    const next = list[0];
    if (!next) return;
    clock.seek((next.start + 0.001) / rate);
    useChoice.setState({ item: null });
  };
  const place = (by: 1 | -1) => {
    if (!state.song) return;
    const to = nextPlace(here(), state.song, state.unit as Unit, by);
    if (to !== undefined) clock.seek((to + 0.001) / rate);
  };
  const slip = (frames: number) => {
    const over = useChoice.getState().item;
    const shot = selected();
    if (over !== null) void operate({ op: "slip", item: over, frames });
    else if (shot) void operate({ op: "slip", item: shot.id, frames });
  };
  /** Frames of the beat at the playhead. */
  const beatHere = () => {
    const frames = state.song?.beat_frames ?? [];
    const at = Math.max(
      1,
      frames.findIndex((f) => f > here()),
    );
    return Math.max(1, (frames[at] ?? 0) - (frames[at - 1] ?? 0));
  };
  /** Plays over the cut again and again: a bar before it to a bar after. */
  const loopCut = () => {
    const frame = here();
    const cuts = shots.map((s) => s.start).filter((s) => s > 0);
    const cut = cuts.reduce((a, b) => (Math.abs(b - frame) < Math.abs(a - frame) ? b : a), cuts[0] ?? 0);
    if (!cut || !state.song) return;
    const loop = aroundCut(state.song, cut, rate);
    useClock.setState({ loop });
    clock.seek(loop[0]);
    if (!useClock.getState().playing) clock.toggle();
  };
  const shift = async (frames: number, beats: number) => {
    const shot = selected();
    if (!shot || shot.start === 0) return;
    const item = shot.id;
    const after = await operate(beats ? { op: "move", item, beats } : { op: "move", item, to: shot.start + frames });
    const moved = itemBy(after, item);
    if (!moved) return;
    const { loop, playing } = useClock.getState();
    // A cut that is played over is heard in its new place; its loop goes with it.
    if (playing && loop && state.song) useClock.setState({ loop: aroundCut(state.song, moved.start, rate) });
    else clock.seek((moved.start + 0.001) / rate);
  };
  useEffect(
    () =>
      clock.subscribe((at) => {
        if (useClock.getState().playing) return;
        const frame = frameAt(at, rate);
        const shot = shotsOf(edit).find((s) => frame >= s.start && frame < s.end)?.id ?? null;
        if (useChoice.getState().shot !== shot) useChoice.setState({ shot });
      }),
    [edit, rate],
  );

  const slots = useChoice((c) => c.slots);
  useEffect(() => {
    if (!slots) return;
    tapHandler.current = (at) => void operate({ op: "slot", ...fallsNow(state, useClock.getState().playing, at) });
    return () => {
      tapHandler.current = null;
    };
  }, [slots, state, operate]);

  const deleteChosen = () => {
    const { mark } = useChoice.getState();
    if (mark !== null && state.song?.marks.some((m) => m.id === mark)) {
      void act(() =>
        data(
          api.PATCH("/api/v1/projects/{project_id}/song/marks", {
            params: path,
            body: { action: "delete", ids: [mark] },
          }),
        ),
      );
      useChoice.setState({ mark: null });
      return;
    }
    if (choice.item === null) return;
    void operate({ op: "take off", item: choice.item });
    useChoice.setState({ item: null });
  };
  const letGo = () => {
    const { carrying, treating, bench } = useChoice.getState();
    if (!carrying && !treating && !bench) return false;
    useChoice.setState(carrying ? { carrying: null } : treating ? { treating: null } : { bench: false });
    return true;
  };
  const bench = () => {
    const { clip, select } = useChoice.getState();
    if (!clip) return false;
    openBench({ media: clip, select });
    return true;
  };
  const second = Math.round(rate);
  useCommandKeys("Cutting", [
    {
      keys: DIGITS,
      words: "Switch to an angle; paused: give it to the shot",
      run: (e) => number(Number(e?.key)),
      row: true,
    },
    { keys: "/", words: "Cut here", run: () => void actions.cutHere() },
    { keys: "\\", words: "Join: take the cut away", run: () => void actions.join() },
    { keys: "n", words: "Next cut", run: () => go(1) },
    { keys: "p", words: "Cut before", run: () => go(-1) },
    { keys: "Ctrl+ArrowRight", words: "Next place of what cuts fall on", run: () => place(1) },
    { keys: "Ctrl+ArrowLeft", words: "Place before of what cuts fall on", run: () => place(-1) },
    { keys: "Alt+ArrowLeft", words: "Cut a frame earlier", run: () => void shift(-1, 0) },
    { keys: "Alt+ArrowRight", words: "Cut a frame later", run: () => void shift(1, 0) },
    { keys: "Alt+Shift+ArrowLeft", words: "Cut a beat earlier", run: () => void shift(0, -1) },
    { keys: "Alt+Shift+ArrowRight", words: "Cut a beat later", run: () => void shift(0, 1) },
    { keys: "g", words: "Play over the nearest cut, again and again", run: () => loopCut() },
    { keys: "h", words: "Hold the shot, or let it go", run: () => void actions.hold() },
    { keys: "[", words: "Slip the picture a frame earlier", run: () => slip(-1) },
    { keys: "]", words: "Slip the picture a frame later", run: () => slip(1) },
    { keys: "{", words: "Slip the picture a beat earlier", run: () => slip(-beatHere()) },
    { keys: "}", words: "Slip the picture a beat later", run: () => slip(beatHere()) },
    { keys: "Alt+[", words: "Slip the picture a second earlier", run: () => slip(-second) },
    { keys: "Alt+]", words: "Slip the picture a second later", run: () => slip(second) },
    {
      keys: "e",
      words: "Treatments of the shot or cutaway",
      run: () => useChoice.setState(({ treating }) => ({ treating: treating ? null : "here" })),
    },
    { keys: "Delete", words: "Take off the chosen cutaway or mark", run: deleteChosen },
    {
      keys: "f",
      words: "The programme full screen",
      run: () => void document.getElementById("programme")?.requestFullscreen(),
    },
    { keys: "Escape", words: "Put down what is carried, close what is open", run: letGo },
  ]);
  useCommandKeys("The chosen clip", [
    ...WAYS.map(({ way, key, words }) => ({
      keys: key,
      words: `Lay the chosen clip ${words}`,
      run: () => void actions.lay(way),
    })),
    { keys: "Enter", words: "Open the chosen clip on the bench", run: bench },
  ]);
}
