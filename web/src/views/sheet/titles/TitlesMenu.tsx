import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Popover, Segmented, Select, Upload } from "antd";
import { useState } from "react";
import { api, data, type Operation } from "../../../api/client";
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
import { OwnStyles, useStyles } from "./styles";
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
      <ReadTitles close={close} />
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

interface Lines {
  lines: readonly { id: number; text: string }[];
  without: ReadonlySet<number>;
  change: (without: ReadonlySet<number>) => void;
  /** What would be laid; null where nothing is chosen. */
  operation: Operation | null;
}

/** Lines that are laid, each as its title would break it. */
function ChosenLines({ lines, without, change, operation }: Lines) {
  const { ahead, id } = useProject();
  const edit = useEdit();
  const { data: would } = useQuery({
    queryKey: ["lyric titles", id, edit?.version, JSON.stringify(operation)],
    queryFn: async () => {
      const before = new Set(itemsOn(edit, "titles").map((t) => t.id));
      const after = await ahead(operation as Operation);
      const made = itemsOn(after, "titles").filter((t) => !before.has(t.id));
      return Object.fromEntries(made.map((t) => [t.source.line, t.source.words]));
    },
    enabled: operation !== null,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const toggle = (line: number, on: boolean) => {
    const next = new Set(without);
    if (on) next.delete(line);
    else next.add(line);
    change(next);
  };
  return (
    <div className={cx("chosen-lines")} data-testid="chosen-lines">
      {lines.map((line) => (
        <Checkbox key={line.id} checked={!without.has(line.id)} onChange={(e) => toggle(line.id, e.target.checked)}>
          {(would?.[line.id] ?? line.text).replaceAll("\n", " / ")}
        </Checkbox>
      ))}
    </div>
  );
}

type Own = ReturnType<typeof useStyles>["styles"];

/** Styles in which words of the song are laid: those to begin with, and one's own. */
const styleOptions = (own: Own) => [
  ...TITLES.lyrics.styles.map((value) => ({ value, label: value })),
  ...own.map(({ name }) => ({ value: `own ${name}`, label: name })),
];

/** A style as an operation names it. */
function styled(style: string, own: Own): { style?: string; card?: Card } {
  const found = own.find(({ name }) => style === `own ${name}`);
  return found ? { card: found.card } : { style };
}

/** The words of a file of timed text as titles. */
function ReadTitles({ close }: { close: () => void }) {
  const { ofEdit, act } = useProject();
  const read = async (file: File) => {
    const text = await file.text();
    const done = await act(() =>
      data(
        api.POST("/api/v1/projects/{project_id}/edits/{edit_id}/titles", {
          params: ofEdit(),
          body: { text, name: file.name, style: TITLES.lyrics.style },
        }),
      ),
    );
    if (done) close();
  };
  return (
    <Upload
      accept=".srt,.vtt,.lrc"
      showUploadList={false}
      beforeUpload={(file) => {
        void read(file);
        return false;
      }}
    >
      <TextButton data-testid="read-titles">Read titles from a file (SubRip, WebVTT, LRC)…</TextButton>
    </Upload>
  );
}

/** The timed lines of the lyrics as titles, all of them or those of a section. */
function LyricTitles({ close }: { close: () => void }) {
  const { state, rate, operate } = useProject();
  const song = state.song;
  const [where, setWhere] = useState<number | "all">("all");
  const [style, setStyle] = useState<string>(TITLES.lyrics.style);
  const [bySection, setBySection] = useState<Record<string, string> | null>(null);
  const { styles: own } = useStyles();
  const [lines, setLines] = useState(TITLES.lyrics.lines);
  const [lead, setLead] = useState(TITLES.lyrics.lead);
  const [hold, setHold] = useState(TITLES.lyrics.hold);
  const timed = song?.lyrics.filter((l) => l.timed) ?? [];
  const section = where === "all" ? undefined : song?.sections.find((s) => s.id === where);
  const inside = timed.filter((l) => !section || (l.at_s >= section.start_s - 1e-3 && l.at_s < section.end_s - 1e-3));
  const [without, setWithout] = useState<ReadonlySet<number>>(new Set());
  const [listed, setListed] = useState(false);
  const count = Math.ceil(inside.filter((l) => !without.has(l.id)).length / lines);
  if (!song) return null;
  if (!timed.length)
    return (
      <p className="soft">
        The words of the song become titles once its lines are timed, under Lyrics on the Song view.
      </p>
    );
  const operation = () => {
    const range = section
      ? { first: Math.round(section.start_s * rate), end: Math.round(section.end_s * rate) }
      : { first: 0, end: null };
    const by_section = Object.entries(bySection ?? {}).map(([name, its]) => ({ section: name, style: its }));
    const only = without.size ? inside.filter((l) => !without.has(l.id)).map((l) => l.id) : null;
    return { op: "lay lyrics" as const, ...range, only, ...styled(style, own), by_section, lines, lead, hold };
  };
  const lay = async () => {
    if (await operate(operation())) close();
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
          options={styleOptions(own)}
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
      {listed ? (
        <ChosenLines lines={inside} without={without} change={setWithout} operation={count ? operation() : null} />
      ) : (
        <TextButton onClick={() => setListed(true)} data-testid="choose-lines">
          which lines, and how they are broken…
        </TextButton>
      )}
      {bySection ? (
        <div className={cx("by-section")} data-testid="by-section">
          {song.sections
            .filter((s) => inside.some((l) => l.at_s >= s.start_s - 1e-3 && l.at_s < s.end_s - 1e-3))
            .map((s) => (
              <span key={s.id} className={cx("fields")}>
                <span className="soft">{s.name}</span>
                <Select
                  size="small"
                  value={bySection[s.name] ?? TITLES.lyrics.style}
                  onChange={(its) => setBySection({ ...bySection, [s.name]: its })}
                  options={styleOptions([])}
                  aria-label={`Style of ${s.name}`}
                  popupMatchSelectWidth={false}
                  style={{ width: 110 }}
                />
              </span>
            ))}
          <TextButton onClick={() => setBySection(null)}>one style for all</TextButton>
        </div>
      ) : (
        <TextButton onClick={() => setBySection({})} data-testid="style-each">
          a style each section…
        </TextButton>
      )}
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
