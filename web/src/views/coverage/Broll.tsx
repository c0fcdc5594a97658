import { useDraggable } from "@dnd-kit/core";
import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useMemo, useState } from "react";
import { api, data } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { useRoving } from "../../parts/roving";
import { ItemCard } from "../../parts/broll/ItemCard";
import { type Item, itemsOf, NO_SIFT, type Sift, sifted } from "../../parts/broll/items";
import { lookAt } from "../../parts/broll/looking";
import { Sifting } from "../../parts/broll/Sifting";
import { useWidth } from "../../parts/Canvas";
import { classes } from "../../parts/classes";
import { useCommandKeys } from "../../parts/keys";
import styles from "./Broll.module.css";
import { SayTogether } from "./SayTogether";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** Width of a card, room between cards, and height of a row, in pixels. */
const [CARD, GAP, ROW] = [176, 8, 132];

/** Every clip and select, sifted; several can be chosen and told something together. */
export function Broll({ add }: { add: () => void }) {
  const { id, state } = useProject();
  const edit = useEdit();
  const [sift, setSift] = useState<Sift>(NO_SIFT);
  const [whole, setWhole] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [like, setLike] = useState<string | null>(null);
  const items = useMemo(
    () => itemsOf(state.media, state.selects, edit, whole),
    [state.media, state.selects, edit, whole],
  );
  const near = useQuery({
    queryKey: ["near", id, like],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/broll/near/{media_id}", {
          params: { path: { project_id: id, media_id: like ?? "" } },
        }),
      ),
    enabled: like !== null,
    retry: false,
  });
  const shown = useMemo(
    () => sifted(items, { ...sift, near: near.data ? new Map(near.data.map((n) => [n.media, n.unlike])) : null }),
    [items, sift, near.data],
  );
  // Only the rows that are seen are laid out.
  const [pane, width] = useWidth<HTMLDivElement>();
  const across = Math.max(1, Math.floor((width + GAP) / (CARD + GAP)));
  const list = useVirtualizer({
    count: Math.ceil(shown.length / across),
    getScrollElement: () => pane.current,
    estimateSize: () => ROW,
    overscan: 2,
  });
  const together = shown.filter((i) => chosen.has(i.key));
  const set = (change: Partial<Sift>) => setSift((now) => ({ ...now, ...change }));
  const choose = (item: Item, on: boolean) => {
    const next = new Set(chosen);
    if (on) next.add(item.key);
    else next.delete(item.key);
    setChosen(next);
  };
  const open = (item: Item, event: React.MouseEvent) => {
    if (event.ctrlKey || event.metaKey) choose(item, !chosen.has(item.key));
    else if (event.shiftKey && together.length) {
      const [from, to] = [shown.indexOf(together[0] as Item), shown.indexOf(item)].sort((a, b) => a - b);
      setChosen(new Set(shown.slice(from, (to ?? 0) + 1).map((i) => i.key)));
    } else lookAt(item.clip.id, item.select?.id ?? null);
  };
  useCommandKeys(
    "Clips",
    [
      { keys: "Ctrl+a", words: "Choose all clips", run: () => setChosen(new Set(shown.map((i) => i.key))) },
      { keys: "Escape", words: "Choose none", run: () => (chosen.size ? setChosen(new Set()) : false) },
    ],
    true,
  );
  const roving = useRoving(pane, "[data-testid=clip-picture]");
  const sifting = JSON.stringify({ ...sift, sort: "" }) !== JSON.stringify({ ...NO_SIFT, sort: "" });
  return (
    <section className={cx("broll")} data-testid="broll">
      <Sifting
        items={items}
        sift={sift}
        set={set}
        whole={whole}
        setWhole={setWhole}
        like={() => setLike(together[0]?.clip.id ?? shown[0]?.clip.id ?? null)}
        add={add}
      />
      {together.length > 0 && <SayTogether items={together} done={() => setChosen(new Set())} />}
      <div className={cx("grid")} ref={pane} {...roving}>
        <div style={{ height: list.getTotalSize(), position: "relative" }}>
          {list.getVirtualItems().map((row) => (
            <div key={row.key} className={cx("row")} style={{ transform: `translateY(${row.start}px)` }}>
              {shown.slice(row.index * across, (row.index + 1) * across).map((item) => (
                <Carried key={item.key} id={item.key}>
                  <ItemCard item={item} width={CARD} open={open} chosen={chosen.has(item.key)} choose={choose} />
                </Carried>
              ))}
            </div>
          ))}
        </div>
        {!items.length && (
          <p className="soft">
            No B-roll yet: clips and stills that are not tied to the song, for cutaways and holes. Drop files here.
          </p>
        )}
        {items.length > 0 && !shown.length && (
          <p className="soft">
            Nothing passes the sift.{" "}
            {sifting && (
              <TextButton onClick={() => setSift({ ...NO_SIFT, sort: sift.sort })}>Show all {items.length}</TextButton>
            )}
          </p>
        )}
      </div>
    </section>
  );
}

/** Can be dragged onto a line of the shot list. */
function Carried({ id, children }: { id: string; children: ReactNode }) {
  const { listeners, setNodeRef, transform } = useDraggable({ id });
  const style = transform ? { transform: `translate(${transform.x}px, ${transform.y}px)`, zIndex: 8 } : undefined;
  return (
    <div ref={setNodeRef} {...listeners} className={cx("carried")} style={style}>
      {children}
    </div>
  );
}
