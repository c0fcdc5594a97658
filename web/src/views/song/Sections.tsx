import { Button, Input, InputNumber, Modal } from "antd";
import { useState } from "react";
import type { SectionView, SongView } from "../../api/client";
import { within } from "../../api/facts";
import { clock } from "../../player/clock";
import type { SongActions } from "./actions";
import { nearestIndex, type View } from "./view";
import view from "./song.module.css";
import own from "./Sections.module.css";
import { follow } from "../../parts/drag";
import { classes } from "../../parts/classes";

const cx = classes(view, own);

/** Sections and their phrases over the score: drag a border to a bar (with Alt freely), double-click for the rest. */
export function Sections({
  song,
  view,
  width,
  actions,
}: {
  song: SongView;
  view: View;
  width: number;
  actions: SongActions;
}) {
  const [open, setOpen] = useState<SectionView | null>(null);
  const [drag, setDrag] = useState<{ id: number; at: number } | null>(null);
  const scale = width / (view.to - view.from);
  const lines = song.bars.map((b) => song.beats[b] as number);
  const repeats = (s: SectionView) =>
    song.sections.filter((o) => o.group === s.group && o.id !== s.id).map((o) => o.name);
  const grab = (event: React.PointerEvent, s: SectionView) => {
    event.stopPropagation();
    const free = event.altKey;
    const place = (dx: number) => {
      const at = s.start_s + dx / scale;
      return free ? at : (lines[nearestIndex(lines, at)] ?? at);
    };
    follow(
      event,
      ({ dx }) => setDrag({ id: s.id, at: place(dx) }),
      (last) => {
        setDrag(null);
        const at = place(last?.dx ?? 0);
        if (last && Math.abs(at - s.start_s) > 1e-3) void actions.section(s.id, { start_s: at, snap: !free });
      },
    );
  };
  return (
    <div className={cx("section-lane")}>
      {song.sections
        .filter((s) => s.end_s > view.from && s.start_s < view.to)
        .map((s, i) => {
          const start = drag?.id === s.id ? drag.at : s.start_s;
          const left = Math.max(0, (start - view.from) * scale);
          const wide = Math.max(2, (s.end_s - view.from) * scale - left - 2);
          const same = repeats(s);
          return (
            // biome-ignore lint/a11y/noStaticElementInteractions: its name is a button that opens the same dialog by keys
            <div
              key={s.id}
              className={cx(i % 2 ? "section alt" : "section")}
              style={{ left, width: wide }}
              data-testid={`section-${s.id}`}
              onPointerDown={() => clock.seek(s.start_s)}
              onDoubleClick={() => setOpen(s)}
              title={`${s.name}: bars ${s.first_bar} to ${s.first_bar + s.bars - 1}${same.length ? `, same music as ${same.join(", ")}` : ""}. Double-click to change it.`}
            >
              {s.start_s > 0.01 && s.id !== song.sections[0]?.id && (
                <span
                  className={cx("section-edge")}
                  onPointerDown={(e) => grab(e, s)}
                  title="Drag the border to another bar; with Alt to any place"
                />
              )}
              <button
                type="button"
                className={cx("section-name")}
                // A pointer goes there; by keys it is changed.
                onClick={(e) => e.detail === 0 && setOpen(s)}
              >
                {s.name}
              </button>
              {same.length > 0 && <span>same music as {same.join(", ")}</span>}
            </div>
          );
        })}
      {open && (
        <SectionDialog
          key={open.id}
          section={open}
          repeats={repeats(open)}
          first={song.sections[0]?.id === open.id}
          actions={actions}
          close={() => setOpen(null)}
        />
      )}
    </div>
  );
}

function SectionDialog({
  section,
  repeats,
  first,
  actions,
  close,
}: {
  section: SectionView;
  repeats: string[];
  first: boolean;
  actions: SongActions;
  close: () => void;
}) {
  const [name, setName] = useState(section.name);
  const [bars, setBars] = useState(section.phrase_bars);
  const save = async () => {
    const changed = {
      ...(name !== section.name ? { name } : {}),
      ...(bars !== section.phrase_bars ? { phrase_bars: bars } : {}),
    };
    if (Object.keys(changed).length) await actions.section(section.id, changed);
    close();
  };
  const then = (work: Promise<unknown>) => void work.then(close);
  return (
    <Modal title={section.name} open onCancel={close} onOk={save} okText="Save" width={420}>
      <p className="soft">
        Bars {section.first_bar} to {section.first_bar + section.bars - 1}
        {repeats.length ? `. The same music as ${repeats.join(", ")}.` : "."}
      </p>
      <div className={cx("form-row")}>
        <span>Name</span>
        <Input
          value={name}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={save}
          aria-label="Section name"
          autoFocus
        />
      </div>
      <div className={cx("form-row")}>
        <span>Phrases of</span>
        <InputNumber
          {...within("phrase_bars")}
          value={bars}
          onChange={(v) => setBars(v ?? section.phrase_bars)}
          suffix="bars"
          aria-label="Bars in a phrase"
        />
      </div>
      <div className="buttons">
        <Button onClick={() => then(actions.splitSection(clock.position()))}>Split at the playhead's bar</Button>
        <Button disabled={first} onClick={() => then(actions.joinSection(section.id))}>
          Join to the one before
        </Button>
        <Button
          disabled={!repeats.length}
          onClick={() => then(actions.section(section.id, { name }).then(() => actions.nameRepeats(section.id)))}
        >
          Name its repeats too
        </Button>
      </div>
    </Modal>
  );
}
