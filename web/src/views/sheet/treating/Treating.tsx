import { App, Button, Dropdown, Input, type MenuProps, Popover } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, data, type EditView, type Operation, type ShotView } from "../../../api/client";
import { useEdit, useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { barBeat } from "../../../parts/format";
import { clock } from "../../../player/clock";
import { frameAt } from "../../../player/timemap";
import { useChoice } from "../choice";
import { shotAt } from "../falls";
import { lengthOf } from "../passage";
import { Fields } from "./Fields";
import {
  filled,
  offered,
  offeredFor,
  othersFor,
  placeAt,
  reordered,
  songFades,
  type Subject,
  type Treatment,
  type Treatments,
} from "./kinds";
import { Glyph } from "./Sign";
import { SpeedGraph } from "./SpeedGraph";
import styles from "./Treating.module.css";

const cx = classes(styles);

/** Treatments of the shot or cutaway at the playhead, or of a passage: in their order, each with its numbers and its music. */
export function Treating() {
  const { state, rate, operate, ahead } = useProject();
  const edit = useEdit();
  const { message } = App.useApp();
  const treating = useChoice((c) => c.treating);
  const chosenShot = useChoice((c) => c.shot);
  const cutaway = useChoice((c) => c.cutaway);
  const [number, setNumber] = useState(0);
  const trial = useTrial(ahead, edit);
  const song = state.song;
  const subject = edit && treating ? subjectOf(edit, treating, cutaway, chosenShot, rate) : null;
  const key = subject ? `${subject.kind} ${subject.kind === "passage" ? subject.number : subject.start}` : "";
  useEffect(() => setNumber(0), [key]);
  if (!edit || !song || !treating || !subject) return null;
  const item = itemOf(edit, subject);
  const told = item?.treated ?? null;
  const list = filled(told);
  const at = Math.min(number, Math.max(0, list.length - 1));
  const chosen = list[at];
  const source = item && "source" in item ? item.source : null;
  const angle = state.angles.find((a) => a.id === source?.angle);
  const clip = state.media.find((m) => m.id === source?.media);
  const name = angle?.name ?? clip?.name ?? (subject.kind === "passage" ? subject.name : (source?.kind ?? ""));
  const [first, end] = subject.kind === "passage" ? [subject.first, subject.end] : [subject.start, subject.end];
  const position = frameAt(clock.position(), rate);
  const here = placeAt(song, position >= first && position < end ? position : first, rate);
  const write = (treatments: Treatment[]) => operate(operationOf(subject, treatments));
  const replaced = (t: Treatment) => list.map((o, i) => (i === at ? t : o));
  const seen = trial.would ? (itemOf(trial.would, subject)?.treated ?? null) : null;
  const look = (t: Treatment | null) => trial.look(t && operationOf(subject, replaced(t)));
  const add = async (treatments: Treatment[]) => {
    if (await write([...list, ...treatments])) setNumber(list.length);
    if (subject.kind === "passage" && subject.number === null)
      useChoice.setState({ treating: { ...subject, number: edit.treated.length } });
  };
  const more: MenuProps["items"] = (["time", "colour", "picture"] as const).map((group) => ({
    key: group,
    type: "group",
    label: { time: "time", colour: "light and colour", picture: "picture" }[group],
    children: offeredFor(subject, Boolean(angle))
      .filter((o) => o.group === group)
      .map((o) => ({
        key: o.kind,
        label: (
          <span title={o.says} data-testid={`add-${o.kind}`}>
            <Glyph kind={o.kind} /> {o.word}
          </span>
        ),
      })),
  }));
  const fades = songFades(subject, edit.length, state.level, rate);
  if (fades.length)
    more.unshift({
      key: "as the song",
      label: (
        <span data-testid="fade-as-song">
          fade as the song{" "}
          {fades.length > 1 ? "does" : subject.kind === "shot" && subject.start === 0 ? "begins" : "ends"}
        </span>
      ),
    });
  const offer: MenuProps["onClick"] = ({ key: kind }) => {
    if (kind === "as the song") return void add(fades);
    const found = offered(kind as Treatment["kind"]);
    void add([found.first(here, source?.in_s ?? 0)]);
  };
  const others = subject.kind === "shot" ? othersFor(item as ShotView, edit.shots, song, angle) : [];
  const layOn: MenuProps["items"] = others.map((o) => ({ key: o.key, label: `${o.label} (${o.starts.length})` }));
  const lay: MenuProps["onClick"] = async ({ key: which }) => {
    const found = others.find((o) => o.key === which);
    if (found && (await operate({ op: "treat", starts: found.starts, treatments: list, over: false })))
      void message.success(`${found.starts.length} shots are treated alike; Undo takes it back.`, 3);
  };
  const timed = told?.pieces || (chosen && offered(chosen.kind).group === "time");
  const lips =
    Boolean(angle) ||
    (subject.kind === "passage" &&
      edit.shots.some((s) => s.source.kind === "angle" && s.start < subject.end && s.end > subject.first));
  const own = source?.kind === "clip" ? source.speed : 1;
  return (
    <section className={cx("panel")} data-testid="treating" aria-label="Treatments">
      <div className={cx("head")}>
        <h3>
          {name}, bars {barBeat(song, (first + 0.5) / rate)} to {barBeat(song, (end - 0.5) / rate)}
        </h3>
        <span className="soft">
          {lengthOf(song, { start: first, end }, rate)} ·{" "}
          {list.length === 1 ? "1 treatment" : `${list.length || "no"} treatments`}
        </span>
        <span className="grow" />
        {list.length > 0 && <KeepRecipe treatments={list} />}
        {list.length > 0 && others.length > 0 && (
          <Dropdown menu={{ items: layOn, onClick: (info) => void lay(info) }} trigger={["click"]}>
            <Button size="small" data-testid="lay-on-others">
              Lay on other shots…
            </Button>
          </Dropdown>
        )}
        <Button
          size="small"
          onClick={() => useChoice.setState({ treating: null })}
          aria-label="Close treatments"
          title="Esc"
        >
          Close
        </Button>
      </div>
      <div>
        <ol className={cx("list")}>
          {list.map((t, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: treatments are known by their order
            <li key={i} className={cx("entry")} data-on={i === at} data-off={t.off} data-testid={`treatment-${i}`}>
              <Glyph kind={t.kind} />
              <button type="button" className={cx("word")} onClick={() => setNumber(i)} title={told?.said[i]}>
                {offered(t.kind).word}
              </button>
              <Button
                type="text"
                size="small"
                className={cx("small")}
                disabled={i === 0}
                onClick={() => void write(reordered(list, i, i - 1)).then(() => setNumber(i - 1))}
                aria-label={`${t.kind} earlier in the order`}
                title="Earlier: nearer to the picture"
              >
                ↑
              </Button>
              <Button
                type="text"
                size="small"
                className={cx("small")}
                onClick={() => void write(list.map((o, k) => (k === i ? { ...o, off: !o.off } : o)))}
                aria-label={t.off ? `${t.kind} on` : `${t.kind} off`}
                title={t.off ? "Switch on" : "Switch off; it is kept"}
              >
                {t.off ? "○" : "●"}
              </Button>
              <Button
                type="text"
                size="small"
                className={cx("small")}
                onClick={() => void write(list.filter((_, k) => k !== i))}
                aria-label={`Take ${t.kind} away`}
                title="Take it away"
              >
                ×
              </Button>
            </li>
          ))}
        </ol>
        <Dropdown
          menu={{ items: more, onClick: offer, style: { maxHeight: 380, overflowY: "auto" } }}
          trigger={["click"]}
        >
          <Button
            size="small"
            type={list.length ? "default" : "primary"}
            data-testid="add-treatment"
            style={{ marginTop: 6 }}
          >
            + {list.length ? "another" : "a treatment"}
          </Button>
        </Dropdown>
        <Recipes add={add} allowed={(t) => offeredFor(subject, Boolean(angle)).some((o) => o.kind === t.kind)} />
      </div>
      <div className={cx("body")}>
        {timed && told && (
          <SpeedGraph
            song={song}
            rate={rate}
            treated={seen ?? told}
            treatment={chosen}
            own={own}
            media={source?.media ?? null}
            at={(frame) => mediaAt(seen ?? told, source?.in_s ?? 0, own, frame, rate)}
            change={(t) => void write(replaced(t))}
            look={look}
          />
        )}
        {chosen ? (
          <>
            <Fields treatment={chosen} change={(t) => write(replaced(t))} look={look} clip={clip} here={here} />
            <p className={cx("said")} data-testid="said">
              {told?.wrong[at] ? <span className="bad">{told.wrong[at]}</span> : (seen ?? told)?.said[at]}
              {lips && offered(chosen.kind).group === "time" && chosen.kind !== "blend" && !chosen.off && (
                <span className="bad"> · lips are off the song here</span>
              )}
            </p>
          </>
        ) : (
          <p className="soft">
            {subject.kind === "passage"
              ? "What is added lies over whatever is cut in this passage."
              : "What is added changes the picture of this shot; its cuts stay where they are."}
          </p>
        )}
      </div>
    </section>
  );
}

/** What an operation would make, asked for while a value is dragged: the last that is wanted, one question at a time. */
function useTrial(ahead: (operation: Operation) => Promise<EditView>, edit: EditView | undefined) {
  const [would, setWould] = useState<EditView | null>(null);
  const wanted = useRef<Operation | null>(null);
  const asking = useRef(false);
  const show = useCallback((edit: EditView | null) => {
    setWould(edit);
    useChoice.setState({ trial: edit?.programme.layers ?? null });
  }, []);
  const look = useCallback(
    async (operation: Operation | null) => {
      wanted.current = operation;
      if (!operation) return show(null);
      if (asking.current) return;
      asking.current = true;
      for (let next = wanted.current; next; next = wanted.current === next ? null : wanted.current) {
        const found = await ahead(next).catch(() => null);
        // Let go of meanwhile: what is there now is shown.
        if (wanted.current && found) show(found);
      }
      asking.current = false;
    },
    [ahead, show],
  );
  useEffect(() => {
    wanted.current = null;
    show(null);
    return () => show(null);
  }, [edit, show]);
  return { would, look: (operation: Operation | null) => void look(operation) };
}

function subjectOf(
  edit: EditView,
  treating: NonNullable<ReturnType<typeof useChoice.getState>["treating"]>,
  cutaway: number | null,
  shot: number | null,
  rate: number,
): Subject | null {
  if (treating !== "here") {
    const there = treating.number === null ? undefined : edit.treated[treating.number];
    return there ? { ...treating, first: there.first, end: there.end } : { ...treating, number: null };
  }
  const over = cutaway === null ? undefined : edit.cutaways.find((c) => c.start === cutaway);
  if (over) return { kind: "cutaway", start: over.start, end: over.end };
  const found = edit.shots.find((s) => s.start === shot) ?? shotAt(edit, frameAt(clock.position(), rate));
  return found ? { kind: "shot", start: found.start, end: found.end } : null;
}

function itemOf(edit: EditView, subject: Subject) {
  if (subject.kind === "shot") return edit.shots.find((s) => s.start === subject.start);
  if (subject.kind === "cutaway") return edit.cutaways.find((c) => c.start === subject.start);
  return subject.number === null ? undefined : edit.treated[subject.number];
}

function operationOf(subject: Subject, treatments: Treatment[]) {
  return subject.kind === "passage"
    ? { op: "treat range" as const, first: subject.first, end: subject.end, number: subject.number, treatments }
    : { op: "treat" as const, starts: [subject.start], over: subject.kind === "cutaway", treatments };
}

/** The second of the clip that is seen in a frame counted from the shot's first. */
function mediaAt(treated: Treatments, inS: number, own: number, frame: number, rate: number): number {
  let at = 0;
  for (const p of treated.pieces ?? []) {
    if (frame < at + p.frames) {
      const t = (frame - at + 0.5) / rate;
      return inS + own * (p.at_s + p.speed * t + ((p.end_speed - p.speed) * t * t * rate) / (2 * p.frames));
    }
    at += p.frames;
  }
  return inS + (own * frame) / rate;
}

function KeepRecipe({ treatments }: { treatments: Treatment[] }) {
  const { path, act } = useProject();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const keep = () => {
    if (!name.trim()) return;
    setOpen(false);
    const body = { name: name.trim(), treatments };
    void act(
      () => data(api.POST("/api/projects/{project_id}/recipes", { params: path, body })),
      `Kept as ${name.trim()}`,
    );
  };
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      content={
        <Input
          size="small"
          autoFocus
          placeholder="name of the recipe"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={keep}
          aria-label="Name of the recipe"
        />
      }
    >
      <Button size="small" data-testid="keep-recipe">
        Keep as a recipe
      </Button>
    </Popover>
  );
}

function Recipes({ add, allowed }: { add: (t: Treatment[]) => Promise<void>; allowed: (t: Treatment) => boolean }) {
  const { id, state, path, act } = useProject();
  const take = (file: File) =>
    file.text().then((text) =>
      act(async () => {
        const done = await data(api.POST("/api/projects/{project_id}/recipes/file", { params: path, body: { text } }));
        return done;
      }, "Recipes taken over"),
    );
  const items: MenuProps["items"] = [
    ...state.recipes.map((r) => ({
      key: String(r.id),
      label: r.name,
      disabled: !(r.treatments as Treatment[]).every(allowed),
    })),
    ...(state.recipes.length ? [{ type: "divider" as const }] : []),
    { key: "save", label: "Save them all as a file", disabled: !state.recipes.length },
    { key: "open", label: "Take recipes over from a file…" },
  ];
  const choose: MenuProps["onClick"] = ({ key }) => {
    if (key === "save") window.location.assign(`/api/projects/${id}/recipes/file`);
    else if (key === "open") {
      const picker = Object.assign(document.createElement("input"), { type: "file", accept: ".json" });
      picker.onchange = () => picker.files?.[0] && void take(picker.files[0]);
      picker.click();
    } else {
      const found = state.recipes.find((r) => String(r.id) === key);
      if (found) void add(found.treatments as Treatment[]);
    }
  };
  return (
    <Dropdown menu={{ items, onClick: choose }} trigger={["click"]}>
      <Button size="small" data-testid="recipes" style={{ marginTop: 6, marginLeft: 4 }}>
        Recipes… {state.recipes.length || ""}
      </Button>
    </Dropdown>
  );
}
