import { Button, Input, Popover, Radio, Tooltip } from "antd";
import { useState } from "react";
import type { LaneView } from "../../api/client";
import { lanesOf } from "../../api/lanes";
import { useEdit, useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { useChoice } from "./choice";
import styles from "./LanesMenu.module.css";

const cx = classes(styles);

/** The lanes of the edit, the uppermost first: which are seen, which are locked, and on which clips are laid. */
export function LanesMenu() {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      placement="bottomRight"
      destroyOnHidden
      content={<Lanes />}
    >
      <Button size="small" data-testid="lanes">
        Lanes
      </Button>
    </Popover>
  );
}

function Lanes() {
  const { operate } = useProject();
  const edit = useEdit();
  const chosen = useChoice((c) => c.lane);
  if (!edit) return null;
  const over = lanesOf(edit, "over");
  const takes = over.find((lane) => lane.on && !lane.locked);
  const target = over.some((lane) => lane.id === chosen) ? chosen : (takes?.id ?? null);
  return (
    <div className={cx("lanes")} data-testid="lanes-list">
      <p className="soft">What lies higher in this list lies over what is beneath it.</p>
      <Radio.Group value={target} onChange={(e) => useChoice.setState({ lane: e.target.value as number })}>
        {[...edit.lanes].reverse().map((lane, n, all) => (
          <Lane
            key={lane.id}
            lane={lane}
            top={n === 0}
            bottom={n >= all.length - 2}
            alone={lanesOf(edit, lane.kind).length < 2}
          />
        ))}
      </Radio.Group>
      <Button size="small" onClick={() => void operate({ op: "add lane", kind: "over" })} data-testid="add-lane">
        Add a lane for cutaways
      </Button>
    </div>
  );
}

interface LaneProps {
  lane: LaneView;
  top: boolean;
  bottom: boolean;
  /** True for the only lane of its kind, which stays. */
  alone: boolean;
}

function Lane({ lane, top, bottom, alone }: LaneProps) {
  const { operate } = useProject();
  const base = lane.kind === "base";
  const change = (what: { name?: string; on_screen?: boolean; locked?: boolean }) =>
    void operate({ op: "change lane", lane: lane.id, ...what });
  const rename = (name: string) => {
    if (name.trim() && name.trim() !== lane.name) change({ name });
  };
  return (
    <div className={cx(lane.on ? "lane" : "lane unseen")} data-testid={`lane-${lane.name}`}>
      {lane.kind === "over" ? (
        <Tooltip title="B lays clips on this lane" placement="left">
          <Radio value={lane.id} disabled={lane.locked} aria-label={`Lay clips on ${lane.name}`} />
        </Tooltip>
      ) : (
        <span className={cx("no-choice")} />
      )}
      <Input
        size="small"
        variant="borderless"
        key={lane.name}
        defaultValue={lane.name}
        maxLength={80}
        onBlur={(e) => rename(e.target.value)}
        onPressEnter={(e) => rename(e.currentTarget.value)}
        aria-label="Name of the lane"
      />
      <Button size="small" disabled={base} onClick={() => change({ on_screen: !lane.on })}>
        {lane.on ? "Hide" : "Show"}
      </Button>
      <Button size="small" onClick={() => change({ locked: !lane.locked })}>
        {lane.locked ? "Unlock" : "Lock"}
      </Button>
      <Button
        size="small"
        type="text"
        disabled={base || top}
        onClick={() => void operate({ op: "order lane", lane: lane.id, by: 1 })}
        aria-label={`${lane.name} over the next`}
      >
        ▴
      </Button>
      <Button
        size="small"
        type="text"
        disabled={base || bottom}
        onClick={() => void operate({ op: "order lane", lane: lane.id, by: -1 })}
        aria-label={`${lane.name} under the next`}
      >
        ▾
      </Button>
      <Button
        size="small"
        type="text"
        disabled={alone}
        onClick={() => void operate({ op: "remove lane", lane: lane.id })}
        title={alone ? "The only lane of its kind stays" : "Undo brings it back"}
      >
        Remove
      </Button>
    </div>
  );
}
