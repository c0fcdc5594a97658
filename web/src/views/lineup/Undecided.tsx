import { Button, Checkbox } from "antd";
import { useState } from "react";
import { isOpen, useJobs } from "../../api/jobs";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { useLabel } from "../../parts/LabelFiles";
import styles from "./LineupView.module.css";

const cx = classes(styles);

/** Files that were added to be told apart: those that do not hold the song are offered as B-roll, before anything is cut. */
export function Undecided() {
  const { state } = useProject();
  const { jobs } = useJobs();
  const label = useLabel();
  const [kept, setKept] = useState<ReadonlySet<string>>(new Set());
  const files = state.media.filter((m) => m.undecided);
  if (!files.length) return null;
  const status = new Map(state.takes.map((t) => [t.media, t.status]));
  const without = files.filter((m) => ["unmatched", "silent"].includes(status.get(m.id) ?? "") || m.state === "failed");
  const hold = files.filter((m) => ["locked", "choose"].includes(status.get(m.id) ?? ""));
  const open = files.length - without.length - hold.length;
  const busy = open > 0 && jobs.some((j) => isOpen(j) && (j.kind === "hear" || j.kind === "align"));
  const broll = without.filter((m) => !kept.has(m.id)).map((m) => m.id);
  const takes = files.filter((m) => !broll.includes(m.id)).map((m) => m.id);
  const accept = async () => {
    if (broll.length && !(await label(broll, { kind: "broll" }))) return;
    if (takes.length) await label(takes, { kind: "take" });
  };
  return (
    <div className={cx("undecided")} data-testid="undecided">
      <div className="tools">
        <span className="grow">
          <b>{hold.length}</b> of {files.length} added files hold the song
          {open > 0 && (
            <span className="soft">
              {" "}
              · {open} {busy ? "being listened to" : "not listened to yet"}
            </span>
          )}
        </span>
        <Button size="small" type="primary" disabled={busy} onClick={() => void accept()} data-testid="accept-kinds">
          Accept {takes.length} {takes.length === 1 ? "take" : "takes"}
          {broll.length ? `, ${broll.length} B-roll` : ""}
        </Button>
      </div>
      {without.map((m) => (
        <Checkbox
          key={m.id}
          checked={!kept.has(m.id)}
          onChange={(e) => {
            const next = new Set(kept);
            e.target.checked ? next.delete(m.id) : next.add(m.id);
            setKept(next);
          }}
        >
          {m.name} <span className="soft">does not hold it: B-roll</span>
        </Checkbox>
      ))}
    </div>
  );
}
