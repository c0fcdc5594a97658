import { Button, Checkbox, Segmented } from "antd";
import { memo, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useEdit, useProject } from "../../api/project";
import { shotsOf } from "../../api/lanes";
import { ItemCard } from "../../parts/broll/ItemCard";
import { type Item, itemsOf, NO_SIFT, type Sift, sifted } from "../../parts/broll/items";
import { Sifting } from "../../parts/broll/Sifting";
import { useRoving } from "../../parts/roving";
import { useSame } from "../../parts/same";
import { classes } from "../../parts/classes";
import { clock } from "../../player/clock";
import { useSheetActions } from "./actions";
import { chooseLaying, openBench, useChoice } from "./choice";
import styles from "./ClipDrawer.module.css";
import { WithTakes } from "./WithTakes";

const cx = classes(styles);

/** Clips that can be laid, below the rows: sifted, chosen in an order, dragged onto the song. */
export function ClipDrawer() {
  const { id, state, operate } = useProject();
  const edit = useEdit();
  const navigate = useNavigate();
  const rows = useChoice((c) => c.drawer);
  const many = useChoice((c) => c.many);
  const thenNext = useChoice((c) => c.thenNext);
  const mixed = useChoice((c) => c.mixed);
  const [sift, setSift] = useState<Sift>({ ...NO_SIFT });
  const [whole, setWhole] = useState(false);
  // Those that did not change are not drawn again for every cut.
  const items = useSame(
    useMemo(() => itemsOf(state.media, state.selects, edit, whole), [state.media, state.selects, edit, whole]),
  );
  // By name a list stands still while clips are laid; sifted to what is unused, the next steps up.
  const shown = useMemo(() => sifted(items, sift), [items, sift]);
  const listed = useSame(shown.map((i) => ({ media: i.clip.id, select: i.select?.id ?? null })));
  useEffect(() => useChoice.setState({ listed }), [listed]);
  const slots = shotsOf(edit).filter((s) => s.source.kind === "empty" && !s.held).length;
  const fill = () => {
    const clips = many.map(({ media, select }) => ({ media, select }));
    const all = { first: 0, end: state.length };
    void operate(clips.length > 1 ? { op: "fill", ...all, clips } : { op: "fill by rules", ...all, mixed });
  };
  return (
    <section className={cx("drawer")} data-testid="clip-drawer">
      <Sifting
        items={items}
        sift={sift}
        set={(change) => setSift((now) => ({ ...now, ...change }))}
        whole={whole}
        setWhole={setWhole}
        like={() => undefined}
        add={() => navigate(`/p/${id}/coverage`)}
        brief
      >
        <Segmented
          size="small"
          value={rows}
          onChange={(value) => chooseLaying({ drawer: value })}
          options={[
            { value: 0, label: "▾", title: "Close the drawer" },
            { value: 1, label: "1 row" },
            { value: 2, label: "2" },
            { value: 3, label: "3" },
          ]}
          data-testid="drawer-rows"
        />
      </Sifting>
      {rows > 0 && (
        <>
          <Cards items={shown} rows={rows} />
          <div className={cx("under")}>
            <LayButtons />
            <Checkbox
              checked={thenNext}
              onChange={(e) => useChoice.setState({ thenNext: e.target.checked })}
              data-testid="then-next"
            >
              <span title="After a clip was laid, the next one is chosen">then the next clip</span>
            </Checkbox>
            <span className="grow" />
            {many.length > 1 && <span>{many.length} chosen in order</span>}
            {slots > 0 && many.length < 2 && <WithTakes />}
            {slots > 0 && items.length > 0 && (
              <Button
                size="small"
                onClick={fill}
                data-testid="fill-slots"
                title="In the order chosen, else by the plan's rules"
              >
                Fill {slots === 1 ? "the empty slot" : `${slots} slots`}
              </Button>
            )}
          </div>
        </>
      )}
    </section>
  );
}

/** The cards, in rows that scroll sideways. */
const Cards = memo(function Cards({ items, rows }: { items: readonly Item[]; rows: number }) {
  const { rate } = useProject();
  const many = useChoice((c) => c.many);
  const chosen = useChoice((c) => (c.select ? `s${c.select}` : `m${c.clip}`));
  const pane = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const card = pane.current?.querySelector(`[data-key="${chosen}"]`);
    card?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [chosen]);
  const go = (frame: number) => clock.seek((frame + 0.001) / rate);
  const roving = useRoving(pane, "[data-testid=clip-picture]");
  return (
    <div className={cx("cards")} {...roving} style={{ gridTemplateRows: `repeat(${rows}, auto)` }} ref={pane}>
      {items.map((item) => {
        const at = many.findIndex((m) => m.key === item.key);
        const one = { media: item.clip.id, select: item.select?.id ?? null };
        return (
          <div key={item.key} data-key={item.key}>
            <ItemCard
              item={item}
              width={132}
              on={chosen === item.key}
              chosen={at >= 0}
              order={at < 0 ? undefined : at + 1}
              go={go}
              open={(_, event) => {
                if (event.shiftKey) useChoice.setState({ many: upTo(items, many, item.key) });
                else if (event.ctrlKey || event.metaKey)
                  useChoice.setState({ many: toggled(many, { ...one, key: item.key }) });
                else useChoice.setState({ clip: one.media, select: one.select, many: [] });
              }}
              look={() => openBench(one)}
            />
          </div>
        );
      })}
      {!items.length && <span className="soft">No clip here: add B-roll on Coverage, or drop files on the page.</span>}
    </div>
  );
});

type Many = ReturnType<typeof useChoice.getState>["many"];

function toggled(many: Many, one: Many[number]): Many {
  return many.some((m) => m.key === one.key) ? many.filter((m) => m.key !== one.key) : [...many, one];
}

/** All from the one chosen last up to another, in the order of the list. */
function upTo(items: readonly Item[], many: Many, key: string): Many {
  const { clip, select } = useChoice.getState();
  const last = many.at(-1)?.key ?? (select ? `s${select}` : `m${clip}`);
  const [from, to] = [items.findIndex((i) => i.key === last), items.findIndex((i) => i.key === key)];
  const range = items.slice(Math.max(0, Math.min(from, to)), Math.max(from, to) + 1);
  const fresh = (from > to ? range.reverse() : range).filter((i) => !many.some((m) => m.key === i.key));
  return [...many, ...fresh.map((i) => ({ media: i.clip.id, select: i.select?.id ?? null, key: i.key }))];
}

/** What is done most with the chosen clip; the bench has all of it. */
function LayButtons() {
  const clip = useChoice((c) => c.clip);
  const select = useChoice((c) => c.select);
  const bench = useChoice((c) => c.bench);
  const actions = useSheetActions();
  if (!clip || bench) return null;
  return (
    <>
      <Button size="small" data-testid="lay-into" onClick={() => void actions.lay("into")}>
        Lay into the shot
      </Button>
      <Button size="small" data-testid="lay-over" onClick={() => void actions.lay("over")}>
        Lay over
      </Button>
      <Button size="small" data-testid="open-bench" onClick={() => openBench({ media: clip, select })}>
        Bench ⏎
      </Button>
    </>
  );
}
