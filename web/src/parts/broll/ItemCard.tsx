import { Checkbox } from "antd";
import { useState } from "react";
import { CONDITION } from "../format";
import { classes } from "../classes";
import { hueOf } from "../../theme";
import { useCommands } from "../../api/project";
import { Still } from "../Still";
import { TextButton } from "../TextButton";
import { carry, dropped } from "./carrying";
import type { Item } from "./items";
import { lengthOf } from "./items";
import styles from "./ItemCard.module.css";

const cx = classes(styles);

interface Props {
  item: Item;
  width: number;
  on?: boolean;
  open: (item: Item, event: React.MouseEvent) => void;
  look?: (item: Item) => void;
  /** True where it is chosen together with others; undefined where that is not offered. */
  chosen?: boolean;
  /** Its place among those that were chosen one after the other, from 1. */
  order?: number | undefined;
  /** Go to a frame of the film where it is laid. */
  go?: (frame: number) => void;
  choose?: (item: Item, on: boolean) => void;
}

/** A clip or select: its still, through which the pointer runs, its name and how long it is. */
export function ItemCard({ item, width, on, open, look, chosen, order, go, choose }: Props) {
  const { rate } = useCommands();
  const [at, setAt] = useState<number | null>(null);
  const { clip, said } = item;
  const run = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    setAt(item.in_s + share * (item.out_s - item.in_s));
  };
  const { uses } = item;
  const parts = clip.still ? [] : uses.map((u) => [u.in_s, u.in_s + ((u.end - u.start) / rate) * u.speed] as const);
  const share = (at: number) =>
    `${Math.min(100, Math.max(0, (100 * (at - item.in_s)) / Math.max(1e-6, item.out_s - item.in_s)))}%`;
  const trouble = clip.state === "failed" ? "unreadable" : CONDITION[clip.condition];
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: what is dragged can be laid by the keys of the chosen clip, too
    <div
      className={cx(`item${on ? " on" : ""}${chosen ? " chosen" : ""}`)}
      style={{ width, ["--hue" as string]: said.hue ? hueOf(said.hue) : "var(--rule)" }}
      data-testid={`clip-${item.name}`}
      draggable={clip.state !== "failed"}
      onDragStart={(event) => carry(event.dataTransfer, { media: clip.id, select: item.select?.id ?? null })}
      onDragEnd={dropped}
    >
      <button
        type="button"
        className={cx("picture-button")}
        data-testid="clip-picture"
        onClick={(event) => open(item, event)}
        onDoubleClick={() => look?.(item)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || !look) return;
          event.preventDefault();
          event.stopPropagation();
          look(item);
        }}
        onPointerMove={clip.still ? undefined : run}
        onPointerLeave={() => setAt(null)}
        aria-label={item.name}
        disabled={clip.state === "failed"}
      >
        <Still media={clip.id} at={at ?? Math.min(item.in_s + 0.5, (item.in_s + item.out_s) / 2)} width={width - 2} />
        {at !== null && (
          <span
            className={cx("run")}
            style={{ left: `${(100 * (at - item.in_s)) / Math.max(1e-6, item.out_s - item.in_s)}%` }}
          />
        )}
        {parts.map(([from, to]) => (
          <span
            key={from}
            className={cx("shown")}
            style={{ left: share(from), right: `calc(100% - ${share(to)})` }}
            title={`Laid from ${from.toFixed(1)} to ${to.toFixed(1)} s`}
          />
        ))}
        {order !== undefined && <span className={cx("order")}>{order}</span>}
      </button>
      {choose && (
        <Checkbox
          className={cx("pick")}
          checked={chosen ?? false}
          onChange={(e) => choose(item, e.target.checked)}
          aria-label={`Choose ${item.name}`}
        />
      )}
      <div className={cx("line")}>
        <span className={cx("name")} title={[item.name, ...said.tags, said.note].filter(Boolean).join(" · ")}>
          {item.name}
        </span>
        {trouble ? (
          <span className="bad" title={clip.error || clip.trouble}>
            {trouble}
          </span>
        ) : (
          <span className="mono" title={said.speed !== 1 ? `laid at ${said.speed} times its speed` : ""}>
            {go && uses.length > 0 && (
              <TextButton
                onClick={() => go(uses[0]?.start ?? 0)}
                title={`Laid ${uses.length === 1 ? "once" : `${uses.length} times`}: go there`}
                data-testid="uses"
              >
                {uses.length}×
              </TextButton>
            )}{" "}
            {said.rating > 0 && <b title={`rated ${said.rating} of 5`}>{"●".repeat(said.rating)} </b>}
            {lengthOf(item)}
          </span>
        )}
      </div>
    </div>
  );
}
