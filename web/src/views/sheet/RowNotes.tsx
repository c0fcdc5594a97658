import { useNotes } from "../../api/notes";
import { classes } from "../../parts/classes";
import { type Row, xOf } from "./geometry";
import styles from "./RowNotes.module.css";

const cx = classes(styles);

/** Open notes over the row: a line along what each is about, its words where it is pointed at. */
export function RowNotes({ row, rate, width }: { row: Row; rate: number; width: number }) {
  const { all } = useNotes();
  const { start_s, end_s } = row.phrase;
  const here = all.filter((n) => n.state === "open" && !n.left_out && n.first / rate < end_s && n.end / rate > start_s);
  return here.map((n) => {
    const left = Math.max(0, xOf(row, n.first / rate, width));
    const words = n.who ? `${n.who}: ${n.text}` : n.text;
    return (
      <span
        key={n.id}
        className={cx("note")}
        role="img"
        aria-label={`Note: ${words}`}
        title={words}
        style={{ left, width: Math.max(9, Math.min(width, xOf(row, n.end / rate, width)) - left) }}
        data-testid="row-note"
      />
    );
  });
}
