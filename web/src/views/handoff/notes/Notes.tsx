import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useRef, useState } from "react";
import { api, data } from "../../../api/client";
import { NOTES } from "../../../api/facts";
import { filmOf } from "../../../api/lanes";
import { isOfAll, type Note, useNotes } from "../../../api/notes";
import { editPath, useEdit, useProject } from "../../../api/project";
import { useVersions } from "../../../api/versions";
import { classes } from "../../../parts/classes";
import { barBeat } from "../../../parts/format";
import { useKept } from "../../../parts/kept";
import { useCommandKeys } from "../../../parts/keys";
import { useRoving } from "../../../parts/roving";
import { TextButton } from "../../../parts/TextButton";
import { clock } from "../../../player/clock";
import { Picture } from "../../../player/Picture";
import { useFrame } from "../../../player/useFrame";
import styles from "./Notes.module.css";
import { Paste } from "./Paste";

const cx = classes(styles);

/** Notes on the versions of the cut: those that are open first, walked by key, each answered. */
export function Notes() {
  const { id } = useProject();
  const edit = useEdit();
  const { all } = useNotes();
  const [pasting, setPasting] = useState(false);
  const list = useRef<HTMLOListElement>(null);
  const roving = useRoving(list, "button[data-note]");
  const walk = (by: number) => {
    const items = [...(list.current?.querySelectorAll<HTMLElement>("button[data-note]") ?? [])];
    const at = items.indexOf(document.activeElement as HTMLElement);
    items[at < 0 ? (by > 0 ? 0 : items.length - 1) : Math.min(items.length - 1, Math.max(0, at + by))]?.focus();
  };
  useCommandKeys("Notes", [
    { keys: "b", words: "The next note", run: () => walk(1) },
    { keys: "Shift+b", words: "The note before", run: () => walk(-1) },
  ]);
  if (!edit) return null;
  const open = all.filter((n) => n.state === "open");
  const answered = all.filter((n) => n.state !== "open");
  const file = (form: string) => `/api/v1/projects/${id}/edits/${edit.id}/notes.${form}`;
  return (
    <>
      <h2>Notes</h2>
      <ol className={cx("notes")} ref={list} {...roving} data-testid="notes">
        {[...open, ...answered].map((n) => (
          <Row key={n.id} note={n} />
        ))}
      </ol>
      <Write />
      <p className={cx("ways")}>
        <TextButton onClick={() => setPasting(true)} data-testid="paste-notes">
          paste a list…
        </TextButton>
        {all.some((n) => n.edit === edit.id) && (
          <>
            <TextButton href={file("csv")} download>
              as a table, CSV
            </TextButton>
            <TextButton href={file("vtt")} download>
              as WebVTT
            </TextButton>
          </>
        )}
      </p>
      {pasting && <Paste close={() => setPasting(false)} />}
    </>
  );
}

function Row({ note: n }: { note: Note }) {
  const { state, rate } = useProject();
  const edit = useEdit();
  const { answer, drop } = useNotes();
  const { all } = useVersions();
  const [why, setWhy] = useState<string | null>(null);
  const [looks, setLooks] = useState(false);
  const ofAll = edit !== undefined && isOfAll(n, filmOf(edit));
  const place = (frame: number) => (state.song ? barBeat(state.song, (frame + 0.5) / rate) : "");
  const other = n.edit === edit?.id ? undefined : all.find((v) => v.id === n.edit)?.name;
  const wont = async () => {
    if (await answer(n.id, { state: "will not do", why: why ?? "" })) setWhy(null);
  };
  return (
    <li className={n.state === "open" ? undefined : cx("answered")} data-state={n.state}>
      <button
        type="button"
        data-note
        tabIndex={-1}
        title="Go there"
        onClick={() => {
          clock.seek((n.first + 0.001) / rate);
          setLooks(other !== undefined && !looks);
        }}
      >
        <span className="mono">
          {ofAll ? "the film" : place(n.first)}
          {!ofAll && n.end - n.first > 1 && ` – ${place(n.end - 1)}`}
        </span>
        <span className={cx("said")}>
          {n.who && <b>{n.who}: </b>}
          {n.text}
          {other && <i> · on “{other}”</i>}
          {n.left_out && <i> · its music is left out of the song now</i>}
          {n.state !== "open" && <i> · {n.why ? `${n.state}: ${n.why}` : n.state}</i>}
        </span>
      </button>
      <span className={cx("doing")}>
        {n.state === "open" ? (
          <>
            <TextButton onClick={() => void answer(n.id, { state: "done", why: "" })} data-testid="note-done">
              done
            </TextButton>
            <TextButton onClick={() => setWhy("")} data-testid="note-wont">
              will not do…
            </TextButton>
          </>
        ) : (
          <>
            <TextButton onClick={() => void answer(n.id, { state: "open", why: "" })}>open again</TextButton>
            <TextButton onClick={() => void drop(n.id)} title="Undo brings it back">
              throw away
            </TextButton>
          </>
        )}
      </span>
      {why !== null && (
        <form
          className={cx("why")}
          onSubmit={(e) => {
            e.preventDefault();
            void wont();
          }}
        >
          <Input
            autoFocus
            size="small"
            value={why}
            maxLength={NOTES.why}
            placeholder="a word why"
            aria-label="Why not"
            onChange={(e) => setWhy(e.target.value)}
            onKeyDown={(e) => e.key === "Escape" && setWhy(null)}
          />
          <Button size="small" htmlType="submit">
            Will not do
          </Button>
        </form>
      )}
      {looks && <ThenAndNow note={n} then={other ?? ""} />}
    </li>
  );
}

/** The picture that the note was written on, and the one that is there now. */
function ThenAndNow({ note, then }: { note: Note; then: string }) {
  const { id } = useProject();
  const edit = useEdit();
  const seen = useQuery({
    queryKey: ["edit", id, note.edit],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/edits/{edit_id}", { params: editPath(id, note.edit) })),
  });
  return (
    <div className={cx("beside")} data-testid="then-and-now">
      {[[`then, “${then}”`, seen.data] as const, ["now", edit] as const].map(([words, of]) => (
        <figure key={words}>
          {of && <Picture layers={of.programme.layers} size="wall" label={words} at={note.first} />}
          <figcaption>{words}</figcaption>
        </figure>
      ))}
    </div>
  );
}

/** A note on the frame at the playhead. */
function Write() {
  const { state, rate } = useProject();
  const { write } = useNotes();
  const frame = useFrame(rate);
  const [text, setText] = useState("");
  const [who, setWho] = useKept("zembi-who", "");
  const done = async () => {
    if (text.trim() && (await write({ first: frame, end: frame + 1, text, who }))) setText("");
  };
  return (
    <form
      className={cx("write")}
      onSubmit={(e) => {
        e.preventDefault();
        void done();
      }}
    >
      <span className="mono">{state.song ? barBeat(state.song, (frame + 0.5) / rate) : ""}</span>
      <Input
        size="small"
        value={who}
        maxLength={NOTES.who}
        placeholder="who"
        aria-label="Who writes the note"
        className={cx("who")}
        onChange={(e) => setWho(e.target.value)}
      />
      <Input
        size="small"
        value={text}
        maxLength={NOTES.text}
        placeholder="a note at the playhead"
        aria-label="Note at the playhead"
        onChange={(e) => setText(e.target.value)}
        data-testid="note-text"
      />
      <Button size="small" htmlType="submit" disabled={!text.trim()} data-testid="note-write">
        Note it
      </Button>
    </form>
  );
}
