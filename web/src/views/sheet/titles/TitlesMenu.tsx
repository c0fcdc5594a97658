import { Button, Popover, Segmented, Select } from "antd";
import { useState } from "react";
import { itemsOn } from "../../../api/lanes";
import { TITLES, within } from "../../../api/facts";
import { useEdit, useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { barBeat } from "../../../parts/format";
import { NumberField } from "../../../parts/NumberField";
import { TextButton } from "../../../parts/TextButton";
import { clock } from "../../../player/clock";
import type { Card } from "../../../player/cards";
import { Around } from "../Around";
import { useChoice } from "../choice";
import { nameOf } from "./card";
import { OwnStyles } from "./styles";
import styles from "./Titles.module.css";

const cx = classes(styles);

/** Words of cards to begin with that stand for the name of the song. */
const SONG = new Set(["Title", "The song"]);

/** Titles: a new one at the playhead, the words of the song as titles, and those that are there. */
export function TitlesMenu() {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      placement="bottomLeft"
      destroyOnHidden
      content={<Titles close={() => setOpen(false)} />}
    >
      <Button size="small" data-testid="titles">
        Titles…
      </Button>
    </Popover>
  );
}

function Titles({ close }: { close: () => void }) {
  const { state, rate, operate } = useProject();
  const edit = useEdit();
  const song = state.song;
  const titles = itemsOn(edit, "titles");
  const lay = async (preset: Card) => {
    const before = new Set(titles.map((t) => t.id));
    const card = { ...preset, lines: preset.lines.map((l) => (SONG.has(l.text) ? { ...l, text: state.name } : l)) };
    const unit = state.unit as "beat";
    const after = await operate({ op: "lay card", card, working_s: clock.position(), unit });
    const made = itemsOn(after, "titles").find((t) => !before.has(t.id));
    if (!made) return;
    clock.seek((made.start + 0.001) / rate);
    useChoice.setState({ item: made.id, mark: null, treating: null, bench: false });
    close();
  };
  return (
    <div className={cx("menu")} data-testid="titles-menu">
      <h3>A title at the playhead</h3>
      <div className={cx("presets")}>
        {TITLES.presets.map(({ name, card }) => (
          <Button
            key={name}
            size="small"
            onClick={() => void lay(card)}
            data-testid={`preset-${name.replaceAll(" ", "-")}`}
          >
            {name}
          </Button>
        ))}
      </div>
      <OwnStyles lay={(card) => void lay(card)} />
      <LyricTitles close={close} />
      <Around />
      {titles.length > 0 && song && (
        <>
          <h3>{titles.length === 1 ? "One title" : `${titles.length} titles`} in the film</h3>
          <ul className={cx("list")}>
            {titles.map((t) => (
              <li key={t.id}>
                <span className="mono soft">{barBeat(song, (t.start + 0.5) / rate)}</span>
                <TextButton
                  onClick={() => {
                    clock.seek((t.start + 0.001) / rate);
                    useChoice.setState({ item: t.id, mark: null, treating: null });
                  }}
                >
                  {nameOf(t)}
                </TextButton>
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

/** The timed lines of the lyrics as titles, all of them or those of a section. */
function LyricTitles({ close }: { close: () => void }) {
  const { state, rate, operate } = useProject();
  const song = state.song;
  const [where, setWhere] = useState<number | "all">("all");
  const [style, setStyle] = useState(TITLES.lyrics.style);
  const [lines, setLines] = useState(TITLES.lyrics.lines);
  const [lead, setLead] = useState(TITLES.lyrics.lead);
  const [hold, setHold] = useState(TITLES.lyrics.hold);
  const timed = song?.lyrics.filter((l) => l.timed) ?? [];
  const section = where === "all" ? undefined : song?.sections.find((s) => s.id === where);
  const inside = timed.filter((l) => !section || (l.at_s >= section.start_s - 1e-3 && l.at_s < section.end_s - 1e-3));
  const count = Math.ceil(inside.length / lines);
  if (!song) return null;
  if (!timed.length)
    return (
      <p className="soft">
        The words of the song become titles once its lines are timed, under Lyrics on the Song view.
      </p>
    );
  const lay = async () => {
    const range = section
      ? { first: Math.round(section.start_s * rate), end: Math.round(section.end_s * rate) }
      : { first: 0, end: null };
    if (await operate({ op: "lay lyrics", ...range, style, lines, lead, hold })) close();
  };
  return (
    <>
      <h3>The words of the song</h3>
      <div className={cx("fields")}>
        <Select
          size="small"
          value={where}
          onChange={setWhere}
          options={[
            { value: "all" as const, label: "all of it" },
            ...song.sections.map((s) => ({ value: s.id, label: s.name })),
          ]}
          aria-label="Which lines"
          data-testid="lyrics-where"
          popupMatchSelectWidth={false}
          style={{ width: 110 }}
        />
        <Select
          size="small"
          value={style}
          onChange={setStyle}
          options={TITLES.lyrics.styles.map((value) => ({ value, label: value }))}
          aria-label="Style"
          popupMatchSelectWidth={false}
          style={{ width: 110 }}
        />
        <Segmented
          size="small"
          value={lines}
          onChange={(n) => setLines(n)}
          options={[
            { value: 1 as const, label: "a line" },
            { value: 2 as const, label: "two lines" },
          ]}
        />
      </div>
      <div className={cx("fields")}>
        <span className="soft">before the voice</span>
        <NumberField
          value={lead}
          {...within("title_lead")}
          suffix="f"
          change={setLead}
          aria-label="Frames before the voice"
          style={{ width: 72 }}
        />
        <span className="soft">after</span>
        <NumberField
          value={hold}
          {...within("title_lead")}
          suffix="f"
          change={setHold}
          aria-label="Frames after the line"
          style={{ width: 72 }}
        />
        <Button size="small" type="primary" disabled={!count} onClick={() => void lay()} data-testid="lay-lyrics">
          {count === 1 ? "Lay 1 title" : `Lay ${count} titles`}
        </Button>
      </div>
    </>
  );
}
