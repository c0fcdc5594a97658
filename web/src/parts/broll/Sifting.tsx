import { Button, Input, Segmented, Select } from "antd";
import { type ReactNode, useState } from "react";
import { useProject } from "../../api/project";
import { classes } from "../classes";
import { TextButton } from "../TextButton";
import { type Item, type Sift, tagsOf } from "./items";
import styles from "./Sifting.module.css";

const cx = classes(styles);

/** Filter and order of the B-roll, and adding to it. */
export function Sifting({
  items,
  sift,
  set,
  whole,
  setWhole,
  like,
  add,
  brief = false,
  children,
}: {
  items: readonly Item[];
  sift: Sift;
  set: (change: Partial<Sift>) => void;
  whole: boolean;
  setWhole: (whole: boolean) => void;
  /** Chooses the clip that others are compared with in colour. */
  like: () => void;
  add: () => void;
  /** Whether what sifts by length, light and the like is shown only when it is asked for. */
  brief?: boolean;
  /** What stands before the button that adds. */
  children?: ReactNode;
}) {
  const { state } = useProject();
  const [all, setAll] = useState(!brief);
  const bar = state.song ? (60 / state.song.bpm) * state.song.metre : 2;
  return (
    <div className={`tools ${cx("sifting")}`}>
      <b>{brief ? "Clips" : "B-roll"}</b>
      <Segmented
        size="small"
        value={whole ? "whole" : sift.only}
        onChange={(only) => {
          setWhole(only === "whole");
          set({ only: only === "unused" ? "unused" : "all" });
        }}
        options={[
          { label: `all ${items.length}`, value: "all" },
          { label: `unused ${items.filter((i) => !i.uses.length).length}`, value: "unused" },
          ...(state.selects.length ? [{ label: "with whole clips", value: "whole" }] : []),
        ]}
      />
      <Input
        size="small"
        allowClear
        className={cx("words")}
        value={sift.words}
        onChange={(e) => set({ words: e.target.value })}
        placeholder="word"
        aria-label="Sift B-roll by words and tags"
        list="broll-tags"
        data-testid="sift-words"
      />
      <datalist id="broll-tags">
        {tagsOf(items).map((t) => (
          <option key={t} value={t} />
        ))}
      </datalist>
      <Select
        size="small"
        value={sift.section ?? 0}
        onChange={(id) => set({ section: id || null })}
        aria-label="Tagged for a section"
        popupMatchSelectWidth={false}
        options={[
          { value: 0, label: "any section" },
          ...(state.song?.sections ?? []).map((s) => ({ value: s.id, label: `for ${s.name}` })),
        ]}
        data-testid="sift-section"
      />
      {all && (
        <>
          <Select
            size="small"
            value={sift.rating}
            onChange={(rating) => set({ rating })}
            aria-label="Least rating"
            options={[0, 1, 2, 3, 4, 5].map((n) => ({ value: n, label: n ? `rated ${n}+` : "any rating" }))}
          />
          <Select
            size="small"
            value={sift.least}
            onChange={(least) => set({ least })}
            aria-label="Least length"
            options={[0, 1, 2, 4, 8].map((n) => ({
              value: n * bar,
              label: n ? `${n} bar${n > 1 ? "s" : ""} or longer` : "any length",
            }))}
          />
          <Select
            size="small"
            value={sift.light}
            onChange={(light) => set({ light })}
            aria-label="Light"
            options={[
              { value: "", label: "any light" },
              { value: "dark", label: "dark" },
              { value: "light", label: "light" },
            ]}
          />
          <Select
            size="small"
            value={sift.motion}
            onChange={(motion) => set({ motion })}
            aria-label="Movement"
            options={[
              { value: "", label: "any movement" },
              { value: "still", label: "still" },
              { value: "moving", label: "moving" },
            ]}
          />
        </>
      )}
      {brief && (
        <TextButton onClick={() => setAll(!all)} title="By rating, length, light and movement">
          {all ? "less" : "more…"}
        </TextButton>
      )}
      <Select
        size="small"
        value={sift.sort}
        onChange={(sort) => {
          set({ sort });
          if (sort === "colour") like();
        }}
        aria-label="Order"
        options={[
          { value: "name", label: "by name" },
          { value: "shot", label: "by time shot" },
          { value: "longest", label: "longest first" },
          { value: "rating", label: "best first" },
          { value: "uses", label: "least used first" },
          { value: "colour", label: "near in colour" },
        ]}
      />
      {children}
      <Button size={brief ? "small" : "middle"} onClick={add} data-testid="add-broll">
        {brief ? "Add…" : "Add B-roll…"}
      </Button>
    </div>
  );
}
