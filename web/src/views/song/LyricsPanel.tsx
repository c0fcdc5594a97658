import { Button, Input, Modal, Typography, Upload } from "antd";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import type { SongView } from "../../api/client";
import { useProject } from "../../api/project";
import { minutes } from "../../parts/format";
import { useCommandKeys } from "../../parts/keys";
import { clock } from "../../player/clock";
import type { SongActions } from "./actions";
import { tapHandler } from "./taps";
import view from "./song.module.css";
import own from "./LyricsPanel.module.css";
import { classes } from "../../parts/classes";
import { useRoving } from "../../parts/roving";
import { TextButton } from "../../parts/TextButton";

const cx = classes(view, own);

/** Pre-roll before a line that is timed again, in seconds. */
const RUN_UP = 3;

/** Lyrics: paste or read them, time a line a tap, go to a line by a click. */
export function LyricsPanel({ song, actions }: { song: SongView; actions: SongActions }) {
  const { id, state } = useProject();
  const [pasting, setPasting] = useState(false);
  const [timing, setTiming] = useState<number | null>(null);
  const lines = song.lyrics;
  const list = useRef<HTMLOListElement>(null);
  const roving = useRoving(list, "button[title]");
  const next = lines.findIndex((l) => !l.timed);
  return (
    <>
      <div className="buttons">
        <Button onClick={() => setPasting(true)} data-testid="paste-lyrics">
          {lines.length ? "Replace…" : "Paste lyrics…"}
        </Button>
        <Upload
          accept=".lrc,.srt,.vtt,.txt"
          showUploadList={false}
          beforeUpload={(file) => {
            void file.text().then((text) => actions.lyrics(text, file.name, state.tags.lyrics));
            return false;
          }}
        >
          <Button>Read a file…</Button>
        </Upload>
        {lines.length > 0 && timing === null && (
          <Button type="primary" onClick={() => setTiming(Math.max(0, next))} data-testid="time-lines">
            Time lines
          </Button>
        )}
      </div>
      {timing !== null && (
        <Timing song={song} actions={actions} first={timing} at={setTiming} stop={() => setTiming(null)} />
      )}
      {lines.length === 0 && <p className="soft">Plain text, LRC, SubRip and WebVTT are read.</p>}
      <ol className={cx("lines")} ref={list} {...roving}>
        {lines.map((line, i) => (
          <Line
            key={line.id}
            line={line}
            due={timing === i}
            actions={actions}
            go={() => (timing === null ? line.timed && clock.seek(line.at_s) : setTiming(i))}
          />
        ))}
      </ol>
      {lines.length > 0 && (
        <div className="buttons">
          {(["lrc", "srt", "vtt"] as const).map((kind) => (
            <Typography.Link underline key={kind} href={`/api/v1/projects/${id}/song/lyrics.${kind}`} download>
              {{ lrc: "LRC", srt: "SubRip", vtt: "WebVTT" }[kind]}
            </Typography.Link>
          ))}
        </div>
      )}
      {pasting && <Paste close={() => setPasting(false)} actions={actions} replacing={lines.length} />}
    </>
  );
}

function Timing({
  song,
  actions,
  first,
  at,
  stop,
}: {
  song: SongView;
  actions: SongActions;
  first: number;
  at: (line: number | null) => void;
  stop: () => void;
}) {
  const line = song.lyrics[first];
  // Taps count at once, before the project has answered: R may follow a tap at any pace.
  const tapped = useRef(new Map<number, number>());
  const tap = useEffectEvent((time: number) => {
    if (!line) return;
    tapped.current.set(line.id, time);
    void actions.line(line.id, { song_s: time });
    at(first + 1 < song.lyrics.length ? first + 1 : null);
  });
  useEffect(() => {
    tapHandler.current = (time) => tap(time);
    return () => {
      tapHandler.current = null;
    };
  }, []);
  const again = () => {
    const before = song.lyrics[first - 1];
    if (!before) return;
    at(first - 1);
    const time = tapped.current.get(before.id) ?? (before.timed ? before.at_s : null);
    if (time !== null) clock.seek(Math.max(0, time - RUN_UP));
  };
  useCommandKeys("Tapping lyrics", [{ keys: "r", words: "Time the last line again", run: again }]);
  return (
    <div className={cx("offer")}>
      <p>
        Play, and tap <b>T</b> as this line begins:
      </p>
      <p className={cx("due")}>{line?.text}</p>
      <div className="buttons">
        <Button size="small" onClick={() => clock.toggle()}>
          Play or pause
        </Button>
        <Button size="small" onClick={again} disabled={first === 0}>
          Redo the last (R)
        </Button>
        <Button size="small" onClick={stop}>
          Done
        </Button>
      </div>
    </div>
  );
}

function Line({
  line,
  due,
  actions,
  go,
}: {
  line: SongView["lyrics"][number];
  due: boolean;
  actions: SongActions;
  go: () => void;
}) {
  const [editing, setEditing] = useState<string | null>(null);
  const save = () => {
    if (editing?.trim() && editing !== line.text) void actions.line(line.id, { text: editing });
    setEditing(null);
  };
  if (editing !== null)
    return (
      <li>
        <Input
          value={editing}
          autoFocus
          onChange={(e) => setEditing(e.target.value)}
          onPressEnter={save}
          onBlur={save}
          aria-label="Words of the line"
        />
      </li>
    );
  return (
    <li className={cx(due ? "due" : "")} data-testid="lyric-line">
      <button
        type="button"
        onClick={go}
        onDoubleClick={() => setEditing(line.text)}
        onKeyDown={(event) => {
          if (event.key === "F2") setEditing(line.text);
          else if (event.key === "Delete") void actions.deleteLine(line.id);
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
        title="Click to go there; double-click or F2 to change it, Delete to take it away"
      >
        <span className="mono soft">{line.timed ? minutes(line.at_s) : "–:––"}</span> {line.text}
      </button>
      <TextButton onClick={() => void actions.deleteLine(line.id)} aria-label={`Delete ${line.text}`}>
        ✕
      </TextButton>
    </li>
  );
}

function Paste({ close, actions, replacing }: { close: () => void; actions: SongActions; replacing: number }) {
  const { state, now } = useProject();
  const [text, setText] = useState("");
  // The lyrics that were there when the dialog opened: what somebody else did meanwhile is not replaced unseen.
  const [known, setKnown] = useState(state.tags.lyrics);
  const save = async () => {
    if (await actions.lyrics(text, "", known)) close();
    else setKnown(now().state.tags.lyrics);
  };
  return (
    <Modal
      title="Lyrics"
      open
      onCancel={close}
      onOk={save}
      okText={replacing ? `Replace ${replacing} lines` : "Keep"}
      okButtonProps={{ disabled: !text.trim() }}
      width={520}
    >
      <p className="soft">A line of the song on each line. Times in LRC, SubRip or WebVTT are read.</p>
      <Input.TextArea
        rows={12}
        value={text}
        onChange={(e) => setText(e.target.value)}
        aria-label="Lyrics"
        data-testid="lyrics-text"
      />
    </Modal>
  );
}
