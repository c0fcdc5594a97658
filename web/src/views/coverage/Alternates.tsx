import { useQuery } from "@tanstack/react-query";
import { Button, Input, Segmented } from "antd";
import { useEffect, useState } from "react";
import { type AlternateView, type AngleView, api, data, type SectionView } from "../../api/client";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { useCompanion } from "../../parts/companion";
import { barBeat } from "../../parts/format";
import { DIGITS, useCommandKeys } from "../../parts/keys";
import { clock, useClock } from "../../player/clock";
import { Picture } from "../../player/Picture";
import { hueOf } from "../../theme";
import styles from "./Alternates.module.css";
import { factsOf, feedsIn, rangesOf } from "./alternates";
import { gaps, inBeats } from "./cells";
import { chooseCell, useChosen, usePassActions, useWorkingPasses } from "./useCells";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** The passes of one angle in one section, side by side and in sync with the song. */
export function Alternates({ angle, section }: { angle: AngleView; section: SectionView }) {
  const { id, state, rate } = useProject();
  const { passes, name } = useWorkingPasses();
  const [by, setBy] = useState<"section" | "phrase">("section");
  const [hidden, setHidden] = useState(true);
  const chosen = useChosen((c) => c.pass);
  const { judge, feed } = usePassActions();
  const key = [state.feeds, state.takes, angle.id, section.start_s, section.end_s];
  const found = useQuery({
    queryKey: ["alternates", id, ...key],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/coverage/alternates", {
          params: {
            path: { project_id: id },
            query: { angle: angle.id, start_s: section.start_s, end_s: section.end_s },
          },
        }),
      ),
    placeholderData: (before, query) => (query?.queryKey[4] === angle.id ? before : undefined),
  });
  const verdict = (pass: number) => passes.find((p) => p.id === pass)?.verdict ?? "";
  const all = found.data ?? [];
  const shown = hidden ? all.filter((a) => verdict(a.pass_id) !== "rejected") : all;
  const rejected = all.length - all.filter((a) => verdict(a.pass_id) !== "rejected").length;
  const current = shown.find((a) => a.pass_id === chosen) ?? shown.find((a) => a.feeds.length) ?? shown[0];
  const song = state.song;
  const missing = gaps(angle, section, rate);
  const label = (a: AlternateView) => {
    const pass = passes.find((p) => p.id === a.pass_id);
    return pass ? name(pass) : "";
  };
  const ranges = rangesOf(section, by === "phrase" ? (song?.phrases ?? []) : []);
  const here = () => ranges.find((r) => clock.position() < r.end_s) ?? ranges[0];
  const take = (a: AlternateView | undefined) => {
    const range = by === "phrase" ? here() : ranges[0];
    if (!a || !range) return;
    useChosen.setState({ pass: a.pass_id });
    void feed(angle.id, a.pass_id, range.start_s, range.end_s);
  };
  const mark = (what: "circled" | "rejected", which = current) => {
    if (which) void judge(which.pass_id, { verdict: verdict(which.pass_id) === what ? "" : what });
  };
  const play = () => {
    const inside = clock.position() >= section.start_s && clock.position() < section.end_s;
    useClock.setState({ loop: [section.start_s, section.end_s] });
    if (!inside) clock.seek(section.start_s);
    clock.toggle();
  };
  useEffect(() => () => useClock.setState({ loop: null }), []);
  useCommandKeys(
    "Passes of the cell",
    [
      { keys: DIGITS, words: "Choose a pass", run: (e) => take(shown[Number(e?.key) - 1]), row: true },
      { keys: "c", words: "Circle the pass", run: () => mark("circled") },
      { keys: "x", words: "Reject the pass", run: () => mark("rejected") },
      { keys: "Enter", words: "Play its passes", run: play, over: "[data-testid^=cell]" },
      { keys: "Escape", words: "Close the cell", run: () => chooseCell(null) },
    ],
    true,
  );
  return (
    <section className={cx("alternates")} data-testid="alternates">
      <div className={cx("head")}>
        <b>
          Angle {angle.number} in {section.name}
        </b>
        <span className={cx("grow hint")}>
          {shown.length === 1 ? "one pass" : `${shown.length} passes`}, in sync with the song
          {missing.map(([a, b]) => (song ? ` · hole of ${inBeats(song, a, b)} at ${barBeat(song, a)}` : ""))}
          {" · Enter plays, 1 to 9 chooses, C circles, X rejects"}
        </span>
        {rejected > 0 && (
          <TextButton onClick={() => setHidden(!hidden)} data-testid="show-rejected">
            {hidden ? `${rejected} rejected: show` : "hide the rejected"}
          </TextButton>
        )}
        <Segmented
          size="small"
          value={by}
          onChange={(v) => setBy(v as typeof by)}
          options={[
            { label: "whole section", value: "section" },
            { label: "by phrase", value: "phrase" },
          ]}
        />
        <Heard alternate={current} label={current ? label(current) : ""} />
        <Button size="small" onClick={() => chooseCell(null)}>
          Close
        </Button>
      </div>
      {!shown.length && !found.isLoading && (
        <p>
          Angle {angle.number} has no pass here{rejected ? " that is not rejected" : ""}. Another section, or another
          angle, has.
        </p>
      )}
      <div className={cx("cards")} style={{ gridTemplateColumns: `repeat(${columns(shown.length)}, minmax(0, 1fr))` }}>
        {shown.map((a, n) => (
          <Alternate
            key={a.pass_id}
            alternate={a}
            number={n + 1}
            of={shown.length}
            label={label(a)}
            angle={angle}
            on={a === current}
            ranges={ranges}
            mark={(what) => mark(what, a)}
          />
        ))}
      </div>
    </section>
  );
}

/** One pass: its picture at the playhead, what is known and said of it, and where it feeds the angle. */
function Alternate({
  alternate,
  number,
  of,
  label,
  angle,
  on,
  ranges,
  mark,
}: {
  alternate: AlternateView;
  number: number;
  of: number;
  label: string;
  angle: AngleView;
  on: boolean;
  ranges: ReturnType<typeof rangesOf>;
  mark: (what: "circled" | "rejected") => void;
}) {
  const { state, rate } = useProject();
  const { passes } = useWorkingPasses();
  const { judge, feed } = usePassActions();
  const pass = passes.find((p) => p.id === alternate.pass_id);
  const verdict = pass?.verdict ?? "";
  const facts = state.song ? factsOf(alternate, state.song) : "";
  const choose = () => useChosen.setState({ pass: alternate.pass_id });
  return (
    <article
      className={cx(on ? "card on" : "card")}
      style={{ ["--hue" as string]: hueOf(angle.hue) }}
      data-testid={`alternate-${label}`}
      data-verdict={verdict}
    >
      <button type="button" className={cx("frame")} onClick={choose} aria-label={`Look at ${label}`}>
        <Picture
          layers={[alternate.spans]}
          size={of > 4 ? "wall" : "programme"}
          label={`${label} at the playhead`}
          id={`alternate-picture-${number}`}
        />
        {verdict === "circled" && <i className={cx("ring")} />}
      </button>
      <div className={cx("words")}>
        <div className={cx("line")}>
          <b>
            {number} {label}
          </b>
          {alternate.feeds.length > 0 && <span className="good">◉ feeds</span>}
          {verdict && <span className={verdict === "rejected" ? "bad" : "good"}>{verdict}</span>}
          <span className="grow" />
          <TextButton onClick={() => mark("circled")}>{verdict === "circled" ? "uncircle" : "circle"}</TextButton>
          <TextButton onClick={() => mark("rejected")}>{verdict === "rejected" ? "bring back" : "reject"}</TextButton>
        </div>
        <div className={cx("facts")} title={facts}>
          {facts}
        </div>
        <Note key={pass?.note} value={pass?.note ?? ""} keep={(note) => judge(alternate.pass_id, { note })} />
        <div className={cx("ranges")}>
          {ranges.map((r) => (
            <button
              type="button"
              key={r.start_s}
              className={cx(`range ${feedsIn(alternate, r, rate)}`)}
              onClick={() => {
                choose();
                void feed(angle.id, alternate.pass_id, r.start_s, r.end_s);
              }}
              title={`Let ${label} feed angle ${angle.number} here`}
            >
              {r.name}
            </button>
          ))}
        </div>
      </div>
    </article>
  );
}

function columns(count: number): number {
  return count <= 4 ? Math.max(2, count) : count <= 6 ? 3 : Math.ceil(count / 2);
}

function Note({ value, keep }: { value: string; keep: (note: string) => void }) {
  const [text, setText] = useState(value);
  return (
    <Input
      size="small"
      variant="underlined"
      value={text}
      maxLength={2000}
      placeholder="a word on it"
      aria-label="A word on this pass"
      onChange={(e) => setText(e.target.value)}
      onPressEnter={(e) => (e.target as HTMLInputElement).blur()}
      onBlur={() => text !== value && keep(text)}
    />
  );
}

/** Monitored sound: the song, or the song in one ear and a take in the other. */
function Heard({ alternate, label }: { alternate: AlternateView | undefined; label: string }) {
  const { state } = useProject();
  const [take, setTake] = useState(false);
  const pass = state.takes.flatMap((t) => t.passes).find((p) => p.id === alternate?.pass_id);
  useCompanion(pass?.media, pass, take ? "left and right" : null);
  return (
    <Segmented
      size="small"
      value={take ? "take" : "song"}
      onChange={(v) => setTake(v === "take")}
      options={[
        { label: "song", value: "song" },
        { label: label ? `song and ${label}` : "and the take", value: "take" },
      ]}
      data-testid="heard"
    />
  );
}
