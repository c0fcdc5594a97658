import { DndContext, type DragEndEvent, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { Button } from "antd";
import { useState } from "react";
import { api, data } from "../../api/client";
import { isColoured, useAsWillBe } from "../../parts/Still";
import { useProject } from "../../api/project";
import { useLooking } from "../../parts/broll/looking";
import { classes } from "../../parts/classes";
import { EmptyPage, GoToSong } from "../../parts/EmptyPage";
import { FilePicker } from "../../parts/FilePicker";
import { GoneFiles } from "../../parts/GoneFiles";
import { useCommandKeys } from "../../parts/keys";
import { clock } from "../../player/clock";
import { Alternates } from "./Alternates";
import { Broll } from "./Broll";
import { beginOf, type Way, walk } from "./cells";
import { ClipLook } from "./ClipLook";
import styles from "./CoverageView.module.css";
import { Fillers } from "./Fillers";
import { Matrix } from "./Matrix";
import { ShotList, useTick, whatOfKey } from "./ShotList";
import { chooseCell, useChosen, usePassActions, useWorkingPasses } from "./useCells";

const cx = classes(styles);

/** Matrix of the material, section by section: angles, alternates, holes, B-roll, and what was planned. */
export function CoverageView() {
  const { on: asWillBe, set: setAsWillBe } = useAsWillBe();
  const { state, act, path } = useProject();
  const [picking, setPicking] = useState<"take" | "broll" | null>(null);
  const looking = useLooking((l) => l.clip);
  const { cell, hole } = useChosen();
  const { passes } = useWorkingPasses();
  const { move } = usePassActions();
  const tick = useTick();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const song = state.song;
  const clip = state.media.find((m) => m.id === looking);
  useCellKeys(clip === undefined);
  if (!song)
    return (
      <EmptyPage now="coverage" title="Coverage follows from the song and the takes. Add the song first.">
        <GoToSong />
      </EmptyPage>
    );
  const drop = (event: DragEndEvent) => {
    const [what, onto] = [String(event.active.id), event.over ? String(event.over.id) : ""];
    if (onto.startsWith("l")) void tick(Number(onto.slice(1)), whatOfKey(what));
    const [pass, angle] = [Number(what.slice(1)), Number(onto.slice(1))];
    if (what.startsWith("p") && onto.startsWith("a") && passes.find((p) => p.id === pass)?.angle !== angle)
      void move(pass, angle);
  };
  const add = () =>
    act(() => data(api.POST("/api/v1/projects/{project_id}/coverage/angles", { params: path, body: { name: "" } })));
  const group = () =>
    act(
      () => data(api.POST("/api/v1/projects/{project_id}/coverage/groupings", { params: path })),
      "Grouped again by camera and picture; undo brings yours back",
    );
  const angle = cell ? state.angles[cell.angle] : undefined;
  const section = cell ? song.sections[cell.section] : undefined;
  if (clip)
    return (
      <div className={cx("coverage")}>
        <ClipLook clip={clip} key={clip.id} />
      </div>
    );
  return (
    <div className={cx("coverage")}>
      <GoneFiles />
      <div className="tools">
        <b>Angles by section</b>
        <span className="soft grow">
          click a pass to let it feed its angle in that section, drag it to another angle; arrows walk the cells
        </span>
        {state.media.some(isColoured) && (
          <Button
            aria-pressed={asWillBe}
            onClick={() => setAsWillBe(!asWillBe)}
            title="Stills of files as their cameras filmed them, or through their tables and grades"
            data-testid="as-will-be"
          >
            {asWillBe ? "Stills as they will be" : "Stills as filmed"}
          </Button>
        )}
        <Button onClick={compareHere} disabled={!state.angles.length} data-testid="compare">
          Compare passes here
        </Button>
        <Button onClick={() => setPicking("take")}>Add takes…</Button>
        <Button onClick={group} disabled={!state.angles.length} data-testid="group-again">
          Group again
        </Button>
        <Button onClick={add}>Add angle</Button>
      </div>
      <DndContext sensors={sensors} onDragEnd={drop}>
        {state.angles.length ? (
          <Matrix />
        ) : (
          <EmptyPage
            now="coverage"
            title="No angle yet: a take becomes part of one when it is locked on the Line-up."
          />
        )}
        {hole && <Fillers hole={hole} />}
        {angle && section ? (
          <Alternates angle={angle} section={section} key={`${angle.id} ${section.id}`} />
        ) : (
          <div className={cx("desk")}>
            <Broll add={() => setPicking("broll")} />
            <ShotList />
          </div>
        )}
      </DndContext>
      <FilePicker kind={picking ?? "take"} open={picking !== null} close={() => setPicking(null)} />
    </div>
  );

  /** The cell of the section at the playhead whose angle has most passes there. */
  function compareHere(): void {
    const at = clock.position();
    const index = Math.max(0, song?.sections.findIndex((s) => at < s.end_s) ?? 0);
    const here = song?.sections[index];
    if (!here) return;
    const inside = (angle: number) =>
      passes.filter((p) => p.angle === angle && p.song_start_s < here.end_s && p.song_end_s > here.start_s);
    const counts = state.angles.map((a) => inside(a.id).length);
    const angle = counts.indexOf(Math.max(...counts));
    chooseCell({ angle, section: index }, beginOf(here, inside(state.angles[angle]?.id ?? 0)));
  }
}

/** Arrows walk the cells once one is chosen; Enter chooses one. */
function useCellKeys(on: boolean): void {
  const { state } = useProject();
  const { passes } = useWorkingPasses();
  const go = (way: Way) => {
    const { cell } = useChosen.getState();
    if (!on || !cell || !state.song) return false;
    const next = walk(cell, way, state.angles.length, state.song.sections.length);
    const section = state.song.sections[next.section];
    const angle = state.angles[next.angle]?.id;
    if (section)
      chooseCell(
        next,
        beginOf(
          section,
          passes.filter((p) => p.angle === angle),
        ),
      );
    return true;
  };
  const begin = () => {
    if (!on || useChosen.getState().cell || !state.angles.length) return false;
    const at = clock.position();
    chooseCell({ angle: 0, section: Math.max(0, state.song?.sections.findIndex((s) => at < s.end_s) ?? 0) });
    return true;
  };
  useCommandKeys(
    "The matrix",
    [
      { keys: "Enter", words: "Choose a cell", run: begin },
      { keys: "ArrowLeft", words: "The section before", run: () => go("left") },
      { keys: "ArrowRight", words: "The next section", run: () => go("right") },
      { keys: "ArrowUp", words: "The angle above", run: () => go("up") },
      { keys: "ArrowDown", words: "The angle below", run: () => go("down") },
    ],
    true,
  );
}
