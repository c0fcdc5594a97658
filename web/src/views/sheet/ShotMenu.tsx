import { shotsOf } from "../../api/lanes";
import { Button, Dropdown, type MenuProps } from "antd";
import { useEffect, useState } from "react";
import type { EditView, Operation, ItemView } from "../../api/client";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { barBeat } from "../../parts/format";
import { clock } from "../../player/clock";
import { frameAt } from "../../player/timemap";
import { Picture } from "../../player/Picture";
import { useChoice } from "./choice";
import { NextBest } from "./NextBest";
import { SendOut } from "./SendOut";
import styles from "./ShotMenu.module.css";

const cx = classes(styles);

const WAYS = [
  { how: "before", word: "The one before runs on" },
  { how: "after", word: "The one after comes early" },
  { how: "up", word: "All that follow move up, cuts stay on the music" },
] as const;

/** Actions on a shot besides cutting it. */
export function ShotMenu({ shot, next }: { shot: ItemView; next: ItemView | undefined }) {
  const { state, rate, operate } = useProject();
  const [taking, setTaking] = useState(false);
  const [sending, setSending] = useState(false);
  const [best, setBest] = useState(false);
  const { start, id: item } = shot;
  const angle = shot.source.kind === "angle";
  const clip = useChoice((c) => c.clip);
  const select = useChoice((c) => c.select);
  const laid = state.selects.find((s) => s.id === select) ?? state.media.find((m) => m.id === clip);
  const items: MenuProps["items"] = [
    ...(clip && laid
      ? [
          {
            key: "fill",
            label: `Fill it with ${laid.name}`,
            children: [
              { key: "by head", label: "from its head" },
              { key: "by tail", label: "up to its tail" },
              { key: "by middle", label: "about its middle" },
              { key: "by moment", label: "its moment on the frame at the playhead" },
            ],
          },
        ]
      : []),
    { key: "best", label: "Another clip in its place…", disabled: shot.source.kind !== "clip" },
    { key: "out", label: "Take it out…", disabled: shot.source.kind === "empty" && !next },
    { key: "swap", label: "Swap with another shot", disabled: !next && start === 0 },
    { key: "bring", label: "Bring to another place" },
    { key: "lift", label: "Lift into a cutaway", disabled: start === 0 },
    { key: "early", label: angle ? "Out of sync on purpose: a frame earlier" : "Slip a frame earlier  [" },
    { key: "late", label: angle ? "Out of sync on purpose: a frame later" : "Slip a frame later  ]" },
    { key: "send", label: "Send it out to another program…", disabled: !angle && shot.source.kind !== "clip" },
    { key: "black", label: "Black", disabled: shot.source.kind === "black" },
    { key: "empty", label: "Empty it", disabled: shot.source.kind === "empty" },
  ];
  const choose: MenuProps["onClick"] = ({ key }) => {
    if (key.startsWith("by "))
      void operate({
        op: "lay",
        item,
        media: clip ?? "",
        select,
        by: key.slice(3) as "head",
        at: frameAt(clock.position(), rate),
      });
    else if (key === "best") setBest(true);
    else if (key === "out") setTaking(true);
    else if (key === "send") setSending(true);
    else if (key === "swap" || key === "bring") useChoice.setState({ carrying: { item, how: key } });
    else if (key === "lift") void operate({ op: "lift", item });
    else if (key === "early" || key === "late")
      void operate({ op: "slip", item, frames: key === "late" ? 1 : -1, on_purpose: angle });
    else if (key === "black") void operate({ op: "black", item });
    else void operate({ op: "clear", first: start, end: shot.end });
  };
  return (
    <>
      <Dropdown autoFocus menu={{ items, onClick: choose }} trigger={["click"]}>
        <Button size="small" data-testid="shot-menu">
          More…
        </Button>
      </Dropdown>
      {taking && <TakeOut shot={shot} done={() => setTaking(false)} />}
      {best && <NextBest shot={shot} done={() => setBest(false)} />}
      {sending && <SendOut what={{ item: shot.id }} done={() => setSending(false)} />}
    </>
  );
}

/** The three ways to take a shot out, each with what then comes there, before one is chosen. */
function TakeOut({ shot, done }: { shot: ItemView; done: () => void }) {
  const { state, rate, ahead, operate } = useProject();
  const [results, setResults] = useState<Record<string, EditView | string>>({});
  useEffect(() => {
    for (const { how } of WAYS) {
      const body: Operation = { op: "take out", item: shot.id, how };
      ahead(body)
        .then((edit) => setResults((r) => ({ ...r, [how]: edit })))
        .catch((fault: Error) => setResults((r) => ({ ...r, [how]: fault.message })));
    }
  }, [shot.id, ahead]);
  const song = state.song;
  return (
    <div className={cx("ways")} data-testid="take-out">
      <b>Take out the shot at {song ? barBeat(song, (shot.start + 0.5) / rate) : shot.start}</b>
      {WAYS.map(({ how, word }) => {
        const made = results[how];
        const edit = typeof made === "object" ? made : undefined;
        const there = shotsOf(edit).find((s) => s.start <= shot.start && s.end > shot.start);
        return (
          <button
            type="button"
            key={how}
            className={cx("way")}
            disabled={!edit}
            onClick={() => {
              void operate({ op: "take out", item: shot.id, how });
              done();
            }}
          >
            <span className={cx("picture")}>
              {edit && <Picture layers={edit.programme.layers} size="wall" label={word} />}
            </span>
            <span>
              {word}
              <span className="soft">
                {typeof made === "string"
                  ? made
                  : there
                    ? `${shotsOf(edit).length} shots; here then ${nameOf(there, state.angles, state.media)}`
                    : "…"}
              </span>
            </span>
          </button>
        );
      })}
      <Button size="small" onClick={done}>
        Leave it
      </Button>
    </div>
  );
}

function nameOf(
  shot: ItemView,
  angles: readonly { id: number; number: number; name: string }[],
  media: readonly { id: string; name: string }[],
): string {
  const angle = angles.find((a) => a.id === shot.source.angle);
  if (angle) return `${angle.number} ${angle.name}`;
  if (shot.source.kind === "empty") return "an empty slot";
  return media.find((m) => m.id === shot.source.media)?.name ?? "black";
}
