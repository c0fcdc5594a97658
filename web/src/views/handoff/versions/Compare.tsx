import { useQuery } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { useRef, useState } from "react";
import { api, data, type EditView } from "../../../api/client";
import { filmOf } from "../../../api/lanes";
import { editPath, useEdit, useProject } from "../../../api/project";
import { type Difference, useDifferences, useVersions, type Version } from "../../../api/versions";
import { classes } from "../../../parts/classes";
import { useRoving } from "../../../parts/roving";
import { clock, useClock } from "../../../player/clock";
import { Picture } from "../../../player/Picture";
import { inside, placeOf, type Passage, sectionAt, WORDS } from "./differing";
import styles from "./Versions.module.css";

const cx = classes(styles);

interface Props {
  here: Version;
  there: Version;
  close: () => void;
}

/** Two versions beside each other: what differs over the length of the film and as a list, both pictures, and what is taken over. */
export function Compare({ here, there, close }: Props) {
  const { id, state, rate } = useProject();
  const edit = useEdit();
  const other = useQuery({
    queryKey: ["edit", id, there.id],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/edits/{edit_id}", { params: editPath(id, there.id) })),
  });
  const found = useDifferences(here.id, there.id, edit?.version ?? 0);
  const [at, setAt] = useState(0);
  const differ = found.data?.differ ?? [];
  const chosen = differ[Math.min(at, differ.length - 1)];
  const song = state.song;
  const choose = (n: number) => {
    setAt(n);
    const one = differ[n];
    if (one) clock.seek((one.first + 0.001) / rate);
  };
  return (
    <Modal open width={1080} title={`“${here.name}” beside “${there.name}”`} onCancel={close} footer={null}>
      {edit && song && found.data && (
        <div className={cx("compare")} data-testid="comparing">
          <p role="status" data-testid="differ-count">
            {differ.length
              ? `${differ.length} ${differ.length === 1 ? "place differs" : "places differ"}; ${found.data.same} of ${
                  edit.lead + edit.length + edit.tail
                } frames are the same.`
              : "They differ in nothing."}
            {found.data.moved.length === 1 && " One cut lies elsewhere."}
            {found.data.moved.length > 1 && ` ${found.data.moved.length} cuts lie elsewhere.`}
          </p>
          <Strip differ={differ} edit={edit} chosen={chosen} choose={choose} />
          <div className={cx("pictures")}>
            <Beside name={here.name} edit={edit} frame={chosen?.first} />
            <Beside name={there.name} edit={other.data} frame={chosen?.first} />
          </div>
          {chosen && other.data && (
            <Taking here={here} there={there} edit={edit} other={other.data} chosen={chosen} differ={differ} />
          )}
          <List differ={differ} edit={edit} chosen={chosen} choose={choose} />
        </div>
      )}
    </Modal>
  );
}

interface ListProps {
  differ: readonly Difference[];
  edit: EditView;
  chosen: Difference | undefined;
  choose: (n: number) => void;
}

/** What differs over the length of the film, a row for each lane that does. */
function Strip({ differ, edit, chosen, choose }: ListProps) {
  const lanes = [...new Set(differ.map((d) => d.lane))];
  const { state } = useProject();
  const long = edit.lead + edit.length + edit.tail;
  const high = 14 * Math.max(1, lanes.length);
  const across = (frame: number) => (1000 * (frame + edit.lead)) / long;
  return (
    <svg
      className={cx("strip")}
      viewBox={`0 0 1000 ${high}`}
      height={high}
      preserveAspectRatio="none"
      role="img"
      aria-label={`What differs: ${differ.length} places`}
    >
      {state.song?.sections.map((s) => (
        <line key={s.id} x1={across(s.first_frame)} x2={across(s.first_frame)} y1={0} y2={high} />
      ))}
      {differ.map((d, n) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the list below has the same by key
        <rect
          key={`${d.lane} ${d.first}`}
          className={d === chosen ? cx("chosen") : undefined}
          x={across(d.first)}
          y={14 * lanes.indexOf(d.lane) + 2}
          width={Math.max(2, across(d.end) - across(d.first))}
          height={10}
          onClick={() => choose(n)}
        >
          <title>{WORDS[d.what]}</title>
        </rect>
      ))}
    </svg>
  );
}

/** What differs, to be walked by key. */
function List({ differ, edit, chosen, choose }: ListProps) {
  const { state, rate } = useProject();
  const list = useRef<HTMLOListElement>(null);
  const roving = useRoving(list, "button");
  const song = state.song;
  if (!song) return null;
  const named = (lane: string) => edit.lanes.find((l) => l.kind === lane)?.name ?? lane;
  return (
    <ol ref={list} className={cx("differ")} data-testid="differ" {...roving}>
      {differ.map((d, n) => (
        <li key={`${d.lane} ${d.first}`}>
          <button
            type="button"
            tabIndex={-1}
            aria-pressed={d === chosen}
            onClick={() => choose(n)}
            onFocus={() => choose(n)}
          >
            <span className="mono">{placeOf(song, d, rate)}</span>
            <span>{named(d.lane)}</span>
            <b>{WORDS[d.what]}</b>
            <span className="soft">{d.end - d.first} frames</span>
          </button>
        </li>
      ))}
    </ol>
  );
}

/** The picture of a version: at a difference, and in step with the other while the song plays. */
function Beside({ name, edit, frame }: { name: string; edit: EditView | undefined; frame: number | undefined }) {
  const playing = useClock((c) => c.playing);
  return (
    <figure>
      {edit && (
        <Picture
          layers={edit.programme.layers}
          size="programme"
          label={name}
          {...(playing || frame === undefined ? {} : { at: frame })}
        />
      )}
      <figcaption>{name}</figcaption>
    </figure>
  );
}

interface TakingProps {
  here: Version;
  there: Version;
  edit: EditView;
  other: EditView;
  chosen: Difference;
  differ: readonly Difference[];
}

/** What the version that is worked on takes over from the other: what is chosen, its section, or all of it. */
function Taking({ here, there, edit, other, chosen, differ }: TakingProps) {
  const { state } = useProject();
  const { take } = useVersions();
  const playing = useClock((c) => c.playing);
  const song = state.song;
  if (!song) return null;
  const film = filmOf(edit);
  const section = sectionAt(song, chosen.first, film);
  const from = ({ first, end }: Passage) => void take(here.id, { other: there.id, first, end });
  const others = filmOf(other);
  const all = { first: Math.min(film.first, others.first), end: Math.max(film.end, others.end) };
  return (
    <div className={cx("taking")}>
      <Button size="small" onClick={() => clock.toggle()} data-testid="play-both">
        {playing ? "Stand" : "Play both"}
      </Button>
      <span className="soft">take over from “{there.name}”:</span>
      <Button size="small" type="primary" onClick={() => from(chosen)} data-testid="take-this">
        this place
      </Button>
      <Button size="small" onClick={() => from(section)} data-testid="take-section">
        {section.name} ({inside(differ, section).length})
      </Button>
      <Button size="small" onClick={() => from(all)} data-testid="take-all">
        all of it
      </Button>
    </div>
  );
}
