import { filmOf } from "../../api/lanes";
import { isOfAll, useNotes } from "../../api/notes";
import { useEdit } from "../../api/project";
import { classes } from "../../parts/classes";
import { type Row, xOf } from "./geometry";
import styles from "./RowNotes.module.css";

const cx = classes(styles);
/** Width of a moment, in pixels. */
const LEAST = 9;

/** Open notes over the row: a line along what each is about, its words where it is pointed at. */
export function RowNotes({ row, rate, width }: { row: Row; rate: number; width: number }) {
  const { all } = useNotes();
  const edit = useEdit();
  const { start_s, end_s } = row.phrase;
  const here = all.filter(
    (n) =>
      n.state === "open" &&
      !n.left_out &&
      !(edit && isOfAll(n, filmOf(edit))) &&
      (n.first + 0.5) / rate < end_s &&
      (n.end - 0.5) / rate > start_s,
  );
  return here.map((n) => {
    const left = Math.min(width - LEAST, Math.max(0, xOf(row, n.first / rate, width)));
    const words = n.who ? `${n.who}: ${n.text}` : n.text;
    return (
      <span
        key={n.id}
        className={cx("note")}
        role="img"
        aria-label={`Note: ${words}`}
        title={words}
        style={{ left, width: Math.max(LEAST, Math.min(width, xOf(row, n.end / rate, width)) - left) }}
        data-testid="row-note"
      />
    );
  });
}
