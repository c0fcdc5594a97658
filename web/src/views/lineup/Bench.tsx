import { Alert, Button, Input, InputNumber, Popover, Segmented, Space } from "antd";
import { useMemo, useRef, useState } from "react";
import type { MediaView, PassView, TakeView } from "../../api/client";
import { useProject } from "../../api/project";
import { ClipFit } from "../../parts/broll/ClipFit";
import { useCompanion } from "../../parts/companion";
import { useRoom } from "../../parts/Canvas";
import { barBeat } from "../../parts/format";
import { clock, type Listening } from "../../player/clock";
import { Picture } from "../../player/Picture";
import { type PlacePass, useLineupActions } from "./actions";
import { ByHand } from "./ByHand";
import { CutOnSet } from "./CutOnSet";
import { STATUS, sureness, takeSpans } from "./lineup";
import { MatchStrip } from "./MatchStrip";
import { DriftStrip, Windows } from "./Windows";
import view from "./lineup.module.css";
import own from "./Bench.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(view, own);

/** Bench where one take is proved or settled: song over take at head, middle and tail, the places it fits, and by hand. */
export function Bench({ take }: { take: TakeView }) {
  const { state } = useProject();
  const actions = useLineupActions();
  const file = state.media.find((m) => m.id === take.media);
  const [which, setWhich] = useState(0);
  const [listening, setListening] = useState<Listening | null>(null);
  const [marking, setMarking] = useState(
    !take.passes.length && (take.status === "silent" || take.status === "unmatched"),
  );
  const pass = take.passes[Math.min(which, take.passes.length - 1)];

  useCompanion(take.media, pass, listening);

  const boxes = useRef<HTMLDivElement>(null);
  const reasons = pass?.places.some((p) => p.reasons.length) ? 40 : 0;
  const joints = take.joints.length ? 108 + 20 * take.passes.length + 30 * take.joints.length : 0;
  const others = joints + (marking ? 600 : pass && pass.places.length > 1 ? 396 + reasons : pass?.proposed ? 400 : 344);
  const tall = useRoom(boxes, 92, others);
  const place: Place = (body) => pass && actions.place(pass.id, body);
  const hear = (how: Listening | null, at?: number) => {
    setListening(how);
    if (how && pass) {
      clock.seek(Math.max(0, at ?? pass.song_start_s));
      setTimeout(() => clock.play(), 60);
    }
  };
  const layers = useMemo(() => [takeSpans(take)], [take]);
  const hue = state.angles.find((a) => a.id === pass?.angle)?.hue ?? 2;
  if (!file) return <section className={cx("bench")} />;
  return (
    <section className={cx("bench")} data-testid="bench">
      <Head take={take} file={file} pass={pass} which={which} choose={setWhich} />
      {file.condition !== "ok" && (
        <Alert
          type="warning"
          showIcon
          title={`${file.trouble} Its place and shots are kept; relinking is on the Hand-off view.`}
        />
      )}
      {pass ? (
        <>
          <div ref={boxes} />
          {pass.proposed && (
            <p className={cx("proposal")} data-testid="proposal">
              {pass.proposed}. This is where the take would lie: watch the lips, then lock it.
            </p>
          )}
          <Windows tall={tall} pass={pass} media={take.media} hue={hue} />
          {pass.residuals.length > 1 && <DriftStrip pass={pass} hue={hue} />}
          <Tools pass={pass} listening={listening} hear={hear} place={place} />
          {take.joints.length > 0 && <CutOnSet take={take} file={file} />}
        </>
      ) : (
        <p className={cx("bench-note")}>{without(take.status, file.error)}</p>
      )}
      <div className={cx("bench-lower")}>
        <div className={cx("bench-places")}>
          {pass && audible(take, file) && !marking && <MatchStrip pass={pass} />}
          {pass && pass.places.length > 1 && (
            <Places pass={pass} lock={(at) => place({ action: "choose", song_start_s: at })} hear={hear} />
          )}
          <Placing take={take} pass={pass} which={which} place={place} mark={() => setMarking(!marking)} />
          {marking && (
            <ByHand take={take} sound={audible(take, file)} seconds={file.seconds} done={() => setMarking(false)} />
          )}
        </div>
        {pass && (
          <div className={cx("bench-picture")}>
            <Picture layers={layers} size="wall" label={`Picture of ${file.name} at the playhead`} id="bench-picture" />
            <span className="soft">the take at the playhead: watch the lips</span>
            <Popover
              trigger="click"
              content={
                <div style={{ width: 260 }}>
                  <ClipFit clip={file} />
                </div>
              }
            >
              <Button size="small" data-testid="take-frame" style={{ marginRight: 8 }}>
                Frame…
              </Button>
            </Popover>
            {pass && (
              <TextButton onClick={() => clock.seek(Math.max(0, pass.song_start_s) + 0.01)}>go to its head</TextButton>
            )}
          </div>
        )}
      </div>
    </section>
  );
}

type Place = (body: PlacePass) => unknown;
type Hear = (how: Listening | null, at?: number) => void;

/** The take's file, its slate, its passes and how it stands. */
function Head({
  take,
  file,
  pass,
  which,
  choose,
}: {
  take: TakeView;
  file: MediaView;
  pass: PassView | undefined;
  which: number;
  choose: (which: number) => void;
}) {
  const { slate } = useLineupActions();
  const status = STATUS[take.status] ?? STATUS.waiting;
  return (
    <div className={cx("bench-head")}>
      <h2>{file.name}</h2>
      <span className="soft">
        {file.camera} · {file.seconds.toFixed(1)} s · {file.rate} f/s{file.variable ? " variable" : ""}
        {file.rotation ? ` · turned ${file.rotation}°` : ""}
        {file.timecode ? ` · TC ${file.timecode}` : ""}
      </span>
      <span className="grow" />
      <Slate take={take} keep={(text) => void slate(take.media, text)} />
      {take.passes.length > 1 && (
        <Segmented
          size="small"
          value={which}
          onChange={(v) => choose(Number(v))}
          options={take.passes.map((_, i) => ({ label: `pass ${i + 1}`, value: i }))}
        />
      )}
      <b className={status?.tone}>
        {status?.shape} {verdict(take, pass)}
      </b>
    </div>
  );
}

/** Monitoring of song and take together, and moving the take against the song. */
function Tools({
  pass,
  listening,
  hear,
  place,
}: {
  pass: PassView;
  listening: Listening | null;
  hear: Hear;
  place: Place;
}) {
  const { rate } = useProject();
  const nudge = (seconds: number) => void place({ action: "nudge", seconds });
  return (
    <div className={cx("bench-tools")}>
      <Segmented
        size="small"
        value={listening ?? "song"}
        onChange={(v) => hear(v === "song" ? null : (v as Listening))}
        options={[
          { label: "song alone", value: "song" },
          { label: "song left, take right", value: "left and right" },
          "mixed",
          { label: "swap each beat", value: "in turn" },
        ]}
      />
      <span className="grow" />
      <span className="soft">moved</span>
      <Moved key={pass.moved_ms} ms={pass.moved_ms} move={(ms) => nudge((ms - pass.moved_ms) / 1000)} />
      <Space.Compact>
        <Button size="small" onClick={() => nudge(-1 / rate)} data-testid="nudge-frame-back">
          ◂ frame
        </Button>
        <Button size="small" onClick={() => nudge(-0.001)}>
          ◂ 1 ms
        </Button>
        <Button size="small" onClick={() => nudge(0.001)} data-testid="nudge-ms">
          1 ms ▸
        </Button>
        <Button size="small" onClick={() => nudge(1 / rate)}>
          frame ▸
        </Button>
      </Space.Compact>
    </div>
  );
}

/** Actions on the place of a pass. */
function Placing({
  take,
  pass,
  which,
  place,
  mark,
}: {
  take: TakeView;
  pass: PassView | undefined;
  which: number;
  place: Place;
  mark: () => void;
}) {
  return (
    <div className="buttons">
      {pass?.status === "choose" && (
        <Button
          type={pass.places.length > 1 ? "default" : "primary"}
          onClick={() => place({ action: "accept" })}
          data-testid="lock-here"
        >
          Lock where it lies
        </Button>
      )}
      <Button onClick={mark} data-testid="mark-both">
        Mark the same beat in both…
      </Button>
      {pass?.status === "locked" && <Button onClick={() => place({ action: "unlock" })}>Unlock</Button>}
      {pass?.origin === "by hand" && (
        <Button onClick={() => place({ action: "revert" })} data-testid="revert">
          Back as found
        </Button>
      )}
      {pass && (
        <Button
          onClick={() =>
            place({ action: "split", seconds: pass.take_start_s + (clock.position() - pass.song_start_s) / pass.rate })
          }
          data-testid="split"
        >
          Split at the playhead
        </Button>
      )}
      {pass && which < take.passes.length - 1 && (
        <Button onClick={() => place({ action: "join" })} data-testid="join">
          Join with pass {which + 2}
        </Button>
      )}
    </div>
  );
}

/** True for a take with sound that can be drawn. */
function audible(take: TakeView, file: MediaView): boolean {
  return file.has_sound && take.status !== "silent";
}

/** Distance of a pass from where it was found, and typing it. */
function Moved({ ms, move }: { ms: number; move: (ms: number) => void }) {
  const [typed, setTyped] = useState<number | null>(Number(ms.toFixed(2)));
  return (
    <InputNumber<number>
      size="small"
      className={cx("moved")}
      value={typed}
      onChange={setTyped}
      step={1}
      suffix="ms"
      controls={false}
      aria-label="Moved from where it was found, in milliseconds"
      data-testid="moved"
      onPressEnter={() => typed !== null && move(typed)}
    />
  );
}

/** Words of the slate, kept with the take; they can tell equal places apart. */
function Slate({ take, keep }: { take: TakeView; keep: (text: string) => void }) {
  const [text, setText] = useState(take.slate);
  return (
    <Input
      variant="underlined"
      size="small"
      className={cx("slate")}
      value={text}
      placeholder="slate note"
      aria-label="What the slate says"
      data-testid="slate"
      maxLength={80}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== take.slate && keep(text)}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

/** The places that fit, and what else speaks for one of them. */
function Places({ pass, lock, hear }: { pass: PassView; lock: (at: number) => void; hear: Hear }) {
  const { state } = useProject();
  const most = Math.max(...pass.places.map((p) => p.reasons.length));
  const first = most ? pass.places.findIndex((p) => p.reasons.length === most) : 0;
  return (
    <div className={cx("places")}>
      {pass.places.map((p, i) => {
        const here = Math.abs(p.song_start_s - pass.song_start_s) < 0.02 && pass.status === "locked";
        return (
          <div key={p.song_start_s} className={cx(most && i === first ? "place likely" : "place")}>
            <b>
              {i + 1} {p.section}
              {state.song ? ` · ${barBeat(state.song, Math.max(0, p.song_start_s))}` : ""}
            </b>
            <span className="soft">
              {p.score.toFixed(2)} of the best
              {p.reasons.length ? `; ${p.reasons.join("; ")}` : ""}
            </span>
            <div className="buttons">
              <Button
                size="small"
                type={i === first && pass.status === "choose" ? "primary" : "default"}
                disabled={here}
                onClick={() => lock(p.song_start_s)}
                data-testid={`lock-place-${i + 1}`}
              >
                {here ? "Locked here" : "Lock here"}
              </Button>
              <Button size="small" onClick={() => hear("mixed", p.song_start_s)}>
                Hear
              </Button>
            </div>
          </div>
        );
      })}
    </div>
  );
}

function verdict(take: TakeView, pass: PassView | undefined): string {
  if (take.status === "choose")
    return pass?.proposed
      ? "placed by the clock: to be confirmed"
      : pass && pass.places.length > 1
        ? `fits ${pass.places.length} places equally well`
        : "not sure enough to lock";
  if (take.status === "locked")
    return pass?.origin === "by hand" ? "locked by hand" : `locked, sure ${sureness(take.confidence)}`;
  return STATUS[take.status]?.word ?? take.status;
}

function without(status: string, error: string): string {
  if (status === "silent")
    return "This take has no usable sound, so it cannot be found by waveform. Mark the same beat in both to place it by hand.";
  if (status === "unmatched")
    return "Nothing in this take's sound is this song. If it is, mark the same beat in both to place it by hand.";
  if (status === "failed") return error;
  return "This take is waiting to be prepared and compared with the song.";
}
