import { useState } from "react";
import type { ItemView } from "../../../api/client";
import { type Drag, follow } from "../../../parts/drag";
import { classes } from "../../../parts/classes";
import { drawnTo, share } from "./card";
import styles from "./Titles.module.css";
import { useCard } from "./useCard";
import { useCardSet } from "./useCardSet";

const cx = classes(styles);
const percent = (part: number) => `${100 * part}%`;

/** The chosen title on the programme: dragged to its place, drawn to the safe area, thirds and the middle; Shift leaves it free. */
export function CardBox({ item }: { item: ItemView }) {
  const { card, change, see } = useCard(item);
  const set = useCardSet(card);
  const [guides, setGuides] = useState<{ x: number | null; y: number | null } | null>(null);
  if (!set) return null;
  const grab = (event: React.PointerEvent<HTMLElement>) => {
    event.stopPropagation();
    const frame = (event.currentTarget.parentElement as HTMLElement).getBoundingClientRect();
    const begun = card;
    let at = { x: begun.x, y: begun.y };
    const move = ({ dx, dy, event: e }: Drag) => {
      const by = [dx / frame.width, dy / frame.height] as const;
      const x = e.shiftKey ? { by: by[0], guide: null } : drawnTo(set.left, set.right, by[0]);
      const y = e.shiftKey ? { by: by[1], guide: null } : drawnTo(set.top, set.bottom, by[1]);
      at = { x: share(begun.x + x.by), y: share(begun.y + y.by) };
      setGuides({ x: x.guide, y: y.guide });
      see({ ...begun, ...at });
    };
    follow(event, move, (last) => {
      setGuides(null);
      if (last) change(at);
      else see(null);
    });
  };
  return (
    <>
      {guides && <span className={cx("safe")} />}
      {guides?.x != null && <span className={cx("guide across")} style={{ left: percent(guides.x) }} />}
      {guides?.y != null && <span className={cx("guide down")} style={{ top: percent(guides.y) }} />}
      <div
        className={cx("card-box")}
        style={{
          left: percent(set.left),
          top: percent(set.top),
          width: percent(set.right - set.left),
          height: percent(set.bottom - set.top),
          transform: `rotate(${card.turn}deg)`,
        }}
        onPointerDown={grab}
        title="Drag it to its place; Shift leaves it free of the guides"
        data-testid="card-box"
      />
    </>
  );
}
