import { itemBy, shotsOf } from "../../api/lanes";
import { Button, Checkbox, InputNumber, Popover, Segmented, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type HitKind, type Schemas, type SectionView, type SongView } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { HIT_KINDS, HITS, within } from "../../api/facts";
import { classes } from "../../parts/classes";
import { kept } from "../../parts/kept";
import { clock, useClock } from "../../player/clock";
import { useChoice } from "./choice";
import styles from "./PassageMenu.module.css";
import { rulesOff } from "./plan";
import { SendOut } from "./SendOut";
import { WithTakes } from "./WithTakes";
import { modelsFor, type Passage as PassageOf, passageOf, summary, wholeShots } from "./passage";

const cx = classes(styles);

type Every = NonNullable<Schemas["MakeSlots"]["every"]>;

const SLOTS: { value: Every; label: string }[] = [
  ...(["beat", "2 beats", "bar", "2 bars", "phrase", "second"] as const).map((value) => ({
    value,
    label: `every ${value}`,
  })),
  { value: "mark", label: "on each mark" },
  { value: "hit", label: "on hits" },
  { value: "line", label: "on each line" },
];

/** Reasons that are shown at once. */
const MOST_REASONS = 3;

/** Actions on a whole passage: the loop where there is one, else the section at the playhead. */
export function PassageMenu() {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      trigger="click"
      placement="bottom"
      open={open}
      onOpenChange={setOpen}
      destroyOnHidden
      content={<Passage done={() => setOpen(false)} />}
    >
      <Button size="small" data-testid="passage">
        Passage…
      </Button>
    </Popover>
  );
}

/** The passage that each line of the menu works on. */
interface On {
  passage: PassageOf;
  /** Closes the menu. */
  done: () => void;
}

function Passage({ done }: { done: () => void }) {
  const { state, rate } = useProject();
  const edit = useEdit();
  const loop = useClock((c) => c.loop);
  const range = useChoice((c) => c.range);
  const song = state.song;
  if (!song || !edit) return null;
  const at = clock.position();
  const passage = passageOf(song, range ? wholeShots(range, shotsOf(edit)) : loop, at, {
    rate,
    length: state.length,
  });
  const section = song.sections.find((s) => at < s.end_s) ?? song.sections[0];
  const on = { passage, done };
  return (
    <div className={cx("passage")} data-testid="passage-menu">
      <div>
        <b>{passage.name}</b> <span className="soft">{summary(song, edit, passage, rate)}</span>
      </div>
      <p className="soft">
        {range
          ? "The shots that are chosen together are worked on."
          : loop
            ? "The loop (I and O) is worked on."
            : "Set a loop with I and O, or Shift-click a second shot, to work on another passage."}{" "}
        Held shots stay.
      </p>
      <Treat {...on} />
      <Push {...on} />
      <Loosen {...on} />
      <RoughCut {...on} />
      {section && <CutAs song={song} section={section} done={done} />}
      <Slots {...on} />
      <TapSlots />
      <FillInOrder {...on} />
      <FillByRules {...on} />
      <SendPassage {...on} />
    </div>
  );
}

/** The cuts inside a passage, as operations name them. */
function cutsOf({ first, end }: PassageOf) {
  return { first: Math.max(1, first), last: end - 1 };
}

function Treat({ passage, done }: On) {
  return (
    <div className={cx("line")}>
      <span className={cx("what")}>Treat it, whatever is cut there</span>
      <Button
        size="small"
        onClick={() => {
          useChoice.setState({ treating: { kind: "passage", item: null, ...passage } });
          done();
        }}
        data-testid="treat-passage"
      >
        Treatments…
      </Button>
    </div>
  );
}

/** The passage as it is seen, cuts within and all, for work in another program. */
function SendPassage({ passage: { first, end }, done }: On) {
  const [open, setOpen] = useState(false);
  if (open) return <SendOut what={{ first, end }} done={done} />;
  return (
    <div className={cx("line")}>
      <span className={cx("what")}>Send it out, cuts within and all</span>
      <Button size="small" onClick={() => setOpen(true)} data-testid="send-passage">
        To another program…
      </Button>
    </div>
  );
}

function Push({ passage }: On) {
  const { operate } = useProject();
  const [frames, setFrames] = useState(2);
  const push = (by: number) => void operate({ op: "push", ...cutsOf(passage), frames: by });
  return (
    <div className={cx("line")}>
      <span className={cx("what")}>Push its cuts</span>
      <InputNumber
        size="small"
        value={frames}
        onChange={(v) => setFrames(v ?? 1)}
        {...within("push")}
        suffix="f"
        aria-label="Frames to push"
      />
      <Button size="small" onClick={() => push(-frames)} data-testid="push-early">
        early
      </Button>
      <Button size="small" onClick={() => push(frames)} data-testid="push-late">
        late
      </Button>
    </div>
  );
}

function Loosen({ passage }: On) {
  const { operate } = useProject();
  const [frames, setFrames] = useState(3);
  const [seed, setSeed] = useState(1);
  return (
    <div className={cx("line")}>
      <span className={cx("what")}>Loosen by up to</span>
      <InputNumber
        size="small"
        value={frames}
        onChange={(v) => setFrames(v ?? 1)}
        {...within("loosen")}
        suffix="f"
        aria-label="Frames to loosen"
      />
      <Button
        size="small"
        onClick={() => {
          void operate({ op: "loosen", ...cutsOf(passage), frames, seed });
          setSeed(seed + 1);
        }}
      >
        Loosen
      </Button>
      <Button size="small" onClick={() => void operate({ op: "tighten", ...cutsOf(passage) })}>
        Tighten to the beat
      </Button>
    </div>
  );
}

function RoughCut({ passage: { first, end } }: On) {
  const { id, operate } = useProject();
  const without = kept<string[]>(rulesOff(id), []);
  const [beats, setBeats] = useState(4);
  const [share, setShare] = useState(0);
  return (
    <div className={cx("line")}>
      <span className={cx("what")}>Rough cut it</span>
      <InputNumber
        size="small"
        value={beats}
        onChange={(v) => setBeats(v ?? 4)}
        {...within("beats")}
        suffix="beats"
        aria-label="Beats to a shot"
        style={{ width: 92 }}
      />
      <InputNumber
        size="small"
        value={share}
        onChange={(v) => setShare(v ?? 0)}
        {...within("share", 100)}
        step={5}
        suffix="% B-roll"
        aria-label="Share of B-roll"
        style={{ width: 104 }}
      />
      <Button
        size="small"
        onClick={() => void operate({ op: "rough cut", first, end, beats, broll: share / 100, seed: 1, without })}
        data-testid="rough-passage"
      >
        Rough cut
      </Button>
    </div>
  );
}

function CutAs({ song, section, done }: { song: SongView; section: SectionView; done: () => void }) {
  const { operate } = useProject();
  const [angles, setAngles] = useState<"same" | "next">("same");
  const cutAs = async (id: number | null) => {
    const model = song.sections.find((s) => s.id === id);
    if (!model) return;
    const times = { from_s: model.start_s, end_s: model.end_s, to_s: section.start_s, until_s: section.end_s };
    if (await operate({ op: "cut as", ...times, angles })) done();
  };
  return (
    <div className={cx("line")}>
      <span className={cx("what")}>Cut it as</span>
      <Select
        size="small"
        className={cx("grow")}
        placeholder="another section"
        value={null}
        onChange={cutAs}
        options={modelsFor(song, section).map((s) => ({
          value: s.id,
          label: s.group === section.group ? `${s.name}, the same music` : s.name,
        }))}
        aria-label={`Cut ${section.name} as`}
        data-testid="cut-as"
      />
      <Segmented
        size="small"
        value={angles}
        onChange={(v) => setAngles(v as typeof angles)}
        options={[
          { label: "same angles", value: "same" },
          { label: "turned by one", value: "next" },
        ]}
      />
    </div>
  );
}

const NTH = ["every one", "every second", "every third", "every fourth"].map((label, i) => ({ value: i + 1, label }));

function Slots({ passage: { first, end }, done }: On) {
  const { operate } = useProject();
  const [every, setEvery] = useState<Every>("bar");
  const [band, setBand] = useState<HitKind>("kick");
  const [strength, setStrength] = useState(50);
  const [nth, setNth] = useState(1);
  const act = async (operation: Parameters<typeof operate>[0]) => {
    if (await operate(operation)) done();
  };
  return (
    <div className={cx("line")}>
      <span className={cx("what")}>Empty slots</span>
      <Select size="small" value={every} onChange={setEvery} options={SLOTS} aria-label="Slots every" />
      {every === "hit" && (
        <>
          <Select
            size="small"
            value={band}
            onChange={setBand}
            options={HIT_KINDS.map((value) => ({ value, label: HITS[value].many }))}
            aria-label="Kind of the hits"
            popupMatchSelectWidth={false}
          />
          <Select
            size="small"
            value={nth}
            onChange={setNth}
            options={NTH}
            popupMatchSelectWidth={false}
            aria-label="Of the hits"
          />
          <InputNumber
            size="small"
            value={strength}
            onChange={(v) => v !== null && setStrength(v)}
            {...within("share", 100)}
            step={5}
            suffix="% strong"
            style={{ width: 104 }}
            aria-label="Least strength of the hits"
          />
        </>
      )}
      <Button
        size="small"
        onClick={() => void act({ op: "make slots", first, end, every, band, strength: strength / 100, nth })}
        data-testid="make-slots"
      >
        Make slots
      </Button>
      <Button size="small" onClick={() => void act({ op: "clear", first, end })}>
        Empty its shots
      </Button>
    </div>
  );
}

function TapSlots() {
  const slots = useChoice((c) => c.slots);
  return (
    <Checkbox checked={slots} onChange={(e) => useChoice.setState({ slots: e.target.checked })} data-testid="tap-slots">
      T taps empty slots while it plays, where cuts fall
    </Checkbox>
  );
}

function FillInOrder({ passage: { first, end }, done }: On) {
  const { operate } = useProject();
  const many = useChoice((c) => c.many);
  const fill = async () => {
    const clips = many.map(({ media, select }) => ({ media, select }));
    if (!(await operate({ op: "fill", first, end, clips }))) return;
    useChoice.setState({ many: [] });
    done();
  };
  return (
    <div className={cx("line")}>
      <span className={cx("what")}>Fill in this order</span>
      <span className="soft grow">
        {many.length ? `${many.length} chosen` : "Ctrl-click B-roll in its order, Shift-click for a run"}
      </span>
      <Button size="small" disabled={!many.length} onClick={fill} data-testid="fill">
        Fill its slots
      </Button>
    </div>
  );
}

/** Empty slots filled by rules: what it would do is told before it is done, and can be shuffled. */
function FillByRules({ passage: { first, end }, done }: On) {
  const { id, state, ofEdit, ahead, operate } = useProject();
  const edit = useEdit();
  const many = useChoice((c) => c.many);
  const [seed, setSeed] = useState(1);
  const mixed = useChoice((c) => c.mixed);
  const slots = shotsOf(edit).filter((s) => s.source.kind === "empty" && s.start >= first && s.end <= end);
  const operation = {
    op: "fill by rules" as const,
    first,
    end,
    seed,
    mixed,
    clips: many.map(({ media, select }) => ({ media, select })),
  };
  const seen = useQuery({
    queryKey: ["filled", id, operation, shotsOf(edit)],
    queryFn: () => ahead(operation),
    enabled: slots.length > 0,
    retry: false,
  });
  const lacking = useQuery({
    queryKey: ["left empty", id, operation, shotsOf(edit)],
    queryFn: () =>
      data(api.POST("/api/v1/projects/{project_id}/edits/{edit_id}/left-empty", { params: ofEdit(), body: operation })),
    enabled: slots.length > 0,
    retry: false,
  });
  if (!slots.length) return null;
  const filled = slots.map((slot) => itemBy(seen.data, slot.id));
  const names = filled.map(
    (s) =>
      state.angles.find((a) => a.id === s?.source.angle)?.name ??
      state.media.find((m) => m.id === s?.source.media)?.name ??
      "empty",
  );
  const left = names.filter((n) => n === "empty").length;
  return (
    <>
      <div className={cx("line")}>
        <span className={cx("what")}>Fill for me</span>
        <span className="soft grow" data-testid="would-fill" title={names.join(", ")}>
          {seen.error
            ? seen.error.message
            : seen.data
              ? `${names.slice(0, 3).join(", ")}${names.length > 3 ? ", …" : ""}${left ? ` · ${left} of ${names.length} stay empty` : ""}`
              : "…"}
        </span>
        <WithTakes />
        <Button size="small" onClick={() => setSeed(seed + 1)}>
          Shuffle
        </Button>
        <Button
          size="small"
          disabled={!seen.data}
          onClick={async () => {
            if (await operate(operation)) {
              useChoice.setState({ many: [] });
              done();
            }
          }}
          data-testid="fill-by-rules"
        >
          Fill its slots
        </Button>
      </div>
      {lacking.data?.slice(0, MOST_REASONS).map((lack) => (
        <LeftEmpty key={lack.item} lack={lack} />
      ))}
    </>
  );
}

/** Why a slot would stay empty, with each way out a click. */
function LeftEmpty({ lack }: { lack: Schemas["Shortfall"] }) {
  const { state, rate, operate } = useProject();
  const edit = useEdit();
  const slot = itemBy(edit, lack.item);
  if (!slot) return null;
  const name = state.media.find((m) => m.id === lack.media)?.name;
  const middle = (slot.start + slot.end) / 2 / rate;
  return (
    <div className={cx("line lack")} data-testid="left-empty">
      <span className="soft grow">
        <b>Bar {slot.bar}</b> {lack.words}
      </span>
      {lack.speed !== null && (
        <Button
          size="small"
          onClick={() =>
            void operate({ op: "lay", item: lack.item, media: lack.media, in_s: lack.in_s, speed: lack.speed })
          }
        >
          Slow {name}
        </Button>
      )}
      <Button size="small" onClick={() => void operate({ op: "cut", working_s: middle, unit: "beat" })}>
        Cut it in two
      </Button>
    </div>
  );
}
