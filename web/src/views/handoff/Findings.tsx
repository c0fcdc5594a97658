import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, data, type FindingView, type Operation } from "../../api/client";
import { ACCEPT_WORD } from "../../api/facts";
import { useEdit, useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { barBeat, timecode } from "../../parts/format";
import { useCommandKeys } from "../../parts/keys";
import { useRoving } from "../../parts/roving";
import { TextButton } from "../../parts/TextButton";
import { clock } from "../../player/clock";
import styles from "./HandoffView.module.css";
import { Limits } from "./Limits";

const cx = classes(styles);

type Accepting = Extract<Operation, { op: "accept" }>;

/** Key of a finding in the list. */
const keyOf = (f: FindingView) => `${f.start} ${f.kind} ${f.text}`;

/** What looks at pictures is measured apart: cuts that jump, titles that are hard to read. */
function usePictureFindings(): readonly FindingView[] {
  const { id, state } = useProject();
  const edit = useEdit();
  const grades = state.media.map((m) => JSON.stringify(m.grade)).join(" ");
  return (
    useQuery({
      queryKey: ["picture findings", id, edit?.id, edit?.version, grades, state.limits],
      queryFn: () =>
        data(
          api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/findings/pictures", {
            params: { path: { project_id: id, edit_id: edit?.id ?? 0 } },
          }),
        ),
      enabled: edit !== undefined,
      retry: false,
    }).data ?? []
  );
}

/** All that the checks found: walked by key, gone to, and accepted with a word where it is meant so. */
export function Findings() {
  const { operate } = useProject();
  const edit = useEdit();
  const pictures = usePictureFindings();
  const list = useRef<HTMLOListElement>(null);
  const roving = useRoving(list, "button[data-finding]");
  const all = [...(edit?.findings ?? []), ...pictures].sort((a, b) => a.start - b.start);
  const open = all.filter((f) => f.accepted === null && f.kind !== "jump");
  const jumps = all.filter((f) => f.accepted === null && f.kind === "jump");
  const accepted = all.filter((f) => f.accepted !== null);
  const walk = (by: number) => {
    const items = [...(list.current?.querySelectorAll<HTMLElement>("button[data-finding]") ?? [])];
    const at = items.indexOf(document.activeElement as HTMLElement);
    items[at < 0 ? (by > 0 ? 0 : items.length - 1) : Math.min(items.length - 1, Math.max(0, at + by))]?.focus();
  };
  useCommandKeys("Checks", [
    { keys: "n", words: "The next finding of the checks", run: () => walk(1) },
    { keys: "Shift+n", words: "The finding before", run: () => walk(-1) },
  ]);
  return (
    <>
      {open.length + jumps.length === 0 && (
        <p className={cx("all-clear")}>
          <span className="good">●</span> All clear: no hole, nothing too short, no source runs out.
        </p>
      )}
      <ol className={cx("findings")} ref={list} {...roving} data-testid="findings">
        {open.map((f) => (
          <Row key={keyOf(f)} finding={f} />
        ))}
        {jumps.length > 0 && (
          <li className={cx("heading")}>
            {jumps.length === 1 ? "one cut jumps" : `${jumps.length} cuts jump`} ·{" "}
            <TextButton
              onClick={() =>
                void operate({ op: "accept", items: jumps.flatMap((f) => f.items), check: "jump", word: "" })
              }
            >
              all meant so
            </TextButton>
          </li>
        )}
        {jumps.map((f) => (
          <Row key={keyOf(f)} finding={f} />
        ))}
        {accepted.length > 0 && <li className={cx("heading")}>accepted</li>}
        {accepted.map((f) => (
          <Row key={keyOf(f)} finding={f} />
        ))}
      </ol>
      <Limits />
    </>
  );
}

function Row({ finding: f }: { finding: FindingView }) {
  const { state, rate, operate } = useProject();
  const go = useNavigate();
  const [word, setWord] = useState<string | null>(null);
  const accept = async (why: string | null) => {
    const done = await operate({ op: "accept", items: f.items, check: f.kind as Accepting["check"], word: why });
    if (done) setWord(null);
  };
  const place = `${state.song ? barBeat(state.song, (f.start + 0.5) / rate) : ""} · ${timecode(f.start, rate)}`;
  return (
    <li className={cx(f.accepted === null ? "row" : "row done")} data-kind={f.kind}>
      <button
        type="button"
        data-finding
        tabIndex={-1}
        title="Go there on the Sheet"
        onClick={() => {
          clock.seek((f.start + 0.001) / rate);
          go(`/p/${state.id}/sheet`);
        }}
      >
        <span className="mono">{place}</span>
        <b>{f.kind}</b>
        <span>{f.text}</span>
      </button>
      {f.accepted !== null ? (
        <span className={cx("answer")}>
          {f.accepted && <q>{f.accepted}</q>}
          <TextButton onClick={() => void accept(null)}>count again</TextButton>
        </span>
      ) : word !== null ? (
        <span className={cx("answer")}>
          <Input
            size="small"
            autoFocus
            maxLength={ACCEPT_WORD}
            placeholder="a word why, or none"
            value={word}
            onChange={(event) => setWord(event.target.value)}
            onPressEnter={() => void accept(word)}
            onKeyDown={(event) => event.key === "Escape" && setWord(null)}
            aria-label="A word why it is meant so"
          />
          <Button size="small" onClick={() => void accept(word)}>
            Accept
          </Button>
        </span>
      ) : (
        f.items.length > 0 && (
          <TextButton onClick={() => setWord("")} aria-label={`${f.kind} at ${place}: it is meant so`}>
            meant so…
          </TextButton>
        )
      )}
    </li>
  );
}
