import { shotsOf, itemsOn } from "../../../api/lanes";
import { Button } from "antd";
import { useEffect, useState } from "react";
import type { ItemView } from "../../../api/client";
import { useEdit, useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { barBeat } from "../../../parts/format";
import { clock } from "../../../player/clock";
import { spanAt } from "../../../player/layers";
import { frameAt, mediaTime, type Piece } from "../../../player/timemap";
import { useChoice } from "../choice";
import { lengthOf } from "../passage";
import { Fields } from "./Fields";
import { FileGrade } from "./FileGrade";
import { filled, offered, ofClip, offeredFor, othersFor, placeAt, type Treatment } from "./kinds";
import { LayOn } from "./LayOn";
import { Offer } from "./Offer";
import { Order } from "./Order";
import { KeepRecipe, Recipes } from "./Recipes";
import { SpeedGraph } from "./SpeedGraph";
import { extentOf, itemOf, operationOf, subjectOf } from "./subject";
import styles from "./Treating.module.css";
import { nameOf } from "../titles/card";
import { useTrial } from "./useTrial";

const cx = classes(styles);
/** A picture that nothing is done to runs at its own speed. */
const AT_ITS_OWN: Piece[] = [{ frames: 1, at_s: 0, speed: 1, end_speed: 1 }];

/** Treatments of the shot or cutaway at the playhead, or of a passage: in their order, each with its numbers and its music. */
export function Treating() {
  const { state, rate, operate, ahead } = useProject();
  const edit = useEdit();
  const treating = useChoice((c) => c.treating);
  const chosenShot = useChoice((c) => c.shot);
  const chosenItem = useChoice((c) => c.item);
  const [number, setNumber] = useState(0);
  const trial = useTrial(ahead, edit);
  const song = state.song;
  const position = frameAt(clock.position(), rate);
  const subject = edit && treating ? subjectOf(edit, treating, chosenItem, chosenShot, position) : null;
  const key = subject ? `${subject.kind} ${subject.kind === "passage" ? subject.item : subject.id}` : "";
  // biome-ignore lint/correctness/useExhaustiveDependencies: another one begins at its first treatment
  useEffect(() => setNumber(0), [key]);
  if (!edit || !song || !treating || !subject) return null;
  const item = itemOf(edit, subject);
  const told = item?.treated ?? null;
  const list = filled(told);
  const at = Math.min(number, Math.max(0, list.length - 1));
  const chosen = list[at];
  const source = item?.source ?? null;
  const angle = state.angles.find((a) => a.id === source?.angle);
  const clip = state.media.find((m) => m.id === source?.media);
  const name =
    (source?.card && nameOf({ source })) ??
    angle?.name ??
    clip?.name ??
    (subject.kind === "passage" ? subject.name : (source?.kind ?? ""));
  const [first, end] = extentOf(subject);
  const here = placeAt(song, position >= first && position < end ? position : first, rate);
  const write = (treatments: Treatment[]) => operate(operationOf(subject, treatments));
  const replaced = (t: Treatment) => list.map((o, i) => (i === at ? t : o));
  const seen = trial.would ? (itemOf(trial.would, subject)?.treated ?? null) : null;
  const preview = (t: Treatment | null) => trial.preview(t && operationOf(subject, replaced(t)));
  const add = async (treatments: Treatment[]) => {
    const before = new Set(itemsOn(edit, "ranges").map((r) => r.id));
    const after = await write([...list, ...treatments]);
    if (!after) return;
    setNumber(list.length);
    const made = itemsOn(after, "ranges").find((r) => !before.has(r.id));
    if (subject.kind === "passage" && made) useChoice.setState({ treating: { ...subject, item: made.id } });
  };
  const others = subject.kind === "shot" ? othersFor(item as ItemView, shotsOf(edit), song, angle) : [];
  const timed = told?.pieces || (chosen && offered(chosen.kind).group === "time");
  const lips =
    Boolean(angle) ||
    (subject.kind === "passage" &&
      shotsOf(edit).some((s) => s.source.kind === "angle" && s.start < subject.end && s.end > subject.first));
  const own = source?.kind === "clip" ? source.speed : 1;
  // The file that a shot shows first: its own, or that of its angle.
  const seenFirst = subject.kind === "shot" ? spanAt(edit.programme.layers[0] ?? [], first)?.media : source?.media;
  const file = state.media.find((m) => m.id === seenFirst);
  return (
    <section className={cx("panel")} data-testid="treating" aria-label="Treatments">
      <div className={cx("head")}>
        <h3>
          {name}, bars {barBeat(song, (first + 0.5) / rate)} to {barBeat(song, (end - 0.5) / rate)}
        </h3>
        <span className="soft">
          {lengthOf(song, { start: first, end }, rate)} ·{" "}
          {list.length === 1 ? "1 treatment" : `${list.length || "no"} treatments`}
        </span>
        <span className="grow" />
        {list.length > 0 && <KeepRecipe treatments={list} />}
        {list.length > 0 && others.length > 0 && <LayOn others={others} list={list} />}
        <Button
          size="small"
          onClick={() => useChoice.setState({ treating: null })}
          aria-label="Close treatments"
          title="Esc"
        >
          Close
        </Button>
      </div>
      <div>
        <Order list={list} at={at} said={told?.said} choose={setNumber} write={write} />
        <Offer
          subject={subject}
          angle={Boolean(angle)}
          some={list.length > 0}
          here={here}
          second={source?.in_s ?? 0}
          clip={item && clip && ofClip(item, end, clip, song, rate)}
          add={add}
        />
        <Recipes add={add} allowed={(t) => offeredFor(subject, Boolean(angle)).some((o) => o.kind === t.kind)} />
      </div>
      <div className={cx("body")}>
        {timed && told && (
          <SpeedGraph
            song={song}
            rate={rate}
            treated={seen ?? told}
            treatment={chosen}
            own={own}
            media={source?.media ?? null}
            at={(frame) => (source?.in_s ?? 0) + own * mediaTime((seen ?? told).pieces ?? AT_ITS_OWN, frame, rate)}
            change={(t) => void write(replaced(t))}
            preview={preview}
          />
        )}
        {chosen ? (
          <>
            <Fields treatment={chosen} change={(t) => write(replaced(t))} preview={preview} clip={clip} here={here} />
            <p className={cx("said")} data-testid="said">
              {told?.wrong[at] ? <span className="bad">{told.wrong[at]}</span> : (seen ?? told)?.said[at]}
              {lips && offered(chosen.kind).group === "time" && chosen.kind !== "blend" && !chosen.off && (
                <span className="bad"> · lips are off the song here</span>
              )}
            </p>
          </>
        ) : (
          <p className="soft">
            {subject.kind === "passage"
              ? "What is added lies over whatever is cut in this passage."
              : "What is added changes the picture of this shot; its cuts stay where they are."}
          </p>
        )}
        {file && (
          <FileGrade
            file={file}
            chosen={chosen?.kind === "grade" && !chosen.off ? chosen : null}
            take={() => write(list.filter((_, i) => i !== at))}
            add={add}
          />
        )}
      </div>
    </section>
  );
}
