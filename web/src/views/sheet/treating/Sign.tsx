import type { ItemView } from "../../../api/client";
import { classes } from "../../../parts/classes";
import { filled, inWords, type Kind, offered } from "./kinds";
import styles from "./Treating.module.css";

const cx = classes(styles);

/** A small sign of a group of treatments: time leans, colour is half full, the picture is a frame in a frame. */
export function Glyph({ kind }: { kind: Kind }) {
  const { group } = offered(kind);
  return (
    <svg width={11} height={11} viewBox="0 0 11 11" aria-hidden="true" className={cx("glyph")}>
      {group === "time" && <path d="M1 10 L4 1 M4.5 10 L7.5 1 M8 10 L11 1" />}
      {group === "colour" && (
        <>
          <circle cx={5.5} cy={5.5} r={4.5} />
          <path d="M5.5 1 A4.5 4.5 0 0 1 5.5 10 Z" className={cx("full")} />
        </>
      )}
      {group === "picture" && <path d="M0.5 1.5 H10.5 V9.5 H0.5 Z M3 3.8 H8 V7.2 H3 Z" />}
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
