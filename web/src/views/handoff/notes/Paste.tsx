import { Button, Input, Modal } from "antd";
import { useDeferredValue, useRef, useState } from "react";
import { NOTES } from "../../../api/facts";
import { type Understood, useNotes, useUnderstood } from "../../../api/notes";
import { useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { barBeat } from "../../../parts/format";
import { TextButton } from "../../../parts/TextButton";
import styles from "./Notes.module.css";

const cx = classes(styles);

/** A list of notes as it came in a message, or a file of them: what is understood is seen before it is taken. */
export function Paste({ close }: { close: () => void }) {
  const { take } = useNotes();
  const [text, setText] = useState("");
  const [who, setWho] = useState("");
  const [busy, setBusy] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const found = useUnderstood(useDeferredValue(text));
  const notes = text.trim() ? (found.data ?? []) : [];
  const done = async () => {
    setBusy(true);
    if (await take(text, who)) close();
    setBusy(false);
  };
  return (
    <Modal
      open
      width={760}
      title="Notes from a list"
      onCancel={close}
      footer={
        <Button
          type="primary"
          loading={busy}
          disabled={!notes.length}
          onClick={() => void done()}
          data-testid="take-notes"
        >
          {notes.length === 1 ? "Take the note" : `Take ${notes.length || ""} notes`}
        </Button>
      }
    >
      <div className={cx("paste")}>
        <p className="soft">
          One on each line, its time before it: 1:12, 0:48-0:52, bar 33, 33.2, chorus 2. A name before that says whose
          it is. <TextButton onClick={() => file.current?.click()}>or choose a CSV or WebVTT file</TextButton>
        </p>
        <input
          ref={file}
          type="file"
          accept=".csv,.vtt,.txt"
          hidden
          aria-label="A file of notes"
          data-testid="notes-file"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            if (chosen) void chosen.text().then(setText);
            event.target.value = "";
          }}
        />
        <Input.TextArea
          autoFocus
          value={text}
          rows={7}
          placeholder={"1:12 more of the guitar\nbar 33 - lips?"}
          aria-label="Notes, one on each line"
          onChange={(e) => setText(e.target.value)}
          data-testid="notes-text"
        />
        <Input
          size="small"
          value={who}
          maxLength={NOTES.who}
          placeholder="who wrote those that name nobody"
          aria-label="Who wrote those that name nobody"
          onChange={(e) => setWho(e.target.value)}
        />
        {found.error && text.trim() && (
          <p className="bad" role="alert">
            {found.error.message}
          </p>
        )}
        <ol className={cx("understood")} aria-label="As they are understood" data-testid="understood">
          {notes.map((n, k) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a note of a list is known by its number
            <One key={k} note={n} who={who} />
          ))}
        </ol>
      </div>
    </Modal>
  );
}

function One({ note: n, who }: { note: Understood; who: string }) {
  const { state, rate } = useProject();
  const place = (frame: number) => (state.song ? barBeat(state.song, (frame + 0.5) / rate) : "");
  return (
    <li>
      <span className="mono">
        {n.time ? (
          <>
            {place(n.first)}
            {n.end - n.first > 1 && ` – ${place(n.end - 1)}`}
          </>
        ) : (
          "the film"
        )}
      </span>
      <span className={cx("said")}>
        {(n.who || who) && <b>{n.who || who}: </b>}
        {n.text || <i>no words</i>}
      </span>
      <span className="soft">{n.time || "no time was found"}</span>
    </li>
  );
}
