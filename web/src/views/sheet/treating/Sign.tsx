import type { ItemView } from "../../../api/client";
import { classes } from "../../../parts/classes";
import { filled, inWords, type Kind, offered } from "./kinds";
import { SIGNS } from "./signs";
import styles from "./Treating.module.css";

const cx = classes(styles);

/** The sign of a treatment. */
export function Glyph({ kind }: { kind: Kind }) {
  const { line, area } = SIGNS[kind];
  return (
    <svg width={11} height={11} viewBox="0 0 11 11" aria-hidden="true" className={cx("glyph")}>
      {area && <path d={area} className={cx("full")} />}
      <path d={line} />
    </svg>
  );
}

/** Treatments of a shot or cutaway, as far as there is room; all of them are listed on hover. */
export function Sign({ item, room, open }: { item: ItemView | ItemView; room: number; open: () => void }) {
  const all = filled(item.treated);
  const on = all.filter((t) => !t.off);
  if (!all.length) return null;
  const wrong = item.treated?.wrong.some(Boolean);
  const words = on.map((t) => offered(t.kind).word).join(", ") || "switched off";
  return (
    <button
      type="button"
      className={cx(wrong ? "sign wrong" : "sign")}
      title={inWords(item)}
      onPointerDown={(e) => e.stopPropagation()}
      onClick={open}
      data-testid="sign"
      tabIndex={-1}
    >
      {(on.length ? on : all).slice(0, room > 40 ? 3 : 1).map((t, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: in their order
        <Glyph key={i} kind={t.kind} />
      ))}
      {room > 60 + 6.4 * words.length && <span>{words}</span>}
    </button>
  );
}
