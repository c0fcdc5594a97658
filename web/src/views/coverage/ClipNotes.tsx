import { Input, Rate, Select } from "antd";
import { useState } from "react";
import { useProject } from "../../api/project";
import { type Item, itemsOf, tagsOf } from "../../parts/broll/items";
import { classes } from "../../parts/classes";
import styles from "./ClipLook.module.css";
import { useSay } from "../../parts/broll/useSay";

const cx = classes(styles);

/** Rating, tags and note of a clip or select. */
export function ClipNotes({ item }: { item: Pick<Item, "clip" | "select"> }) {
  const { state } = useProject();
  const say = useSay();
  const { said } = item.select ?? item.clip;
  const [note, setNote] = useState(said.note);
  const known = tagsOf(itemsOf(state.media, state.selects, undefined, true));
  const offered = [
    ...known,
    ...(state.song?.sections ?? []).map((s) => `section: ${s.name}`),
    ...state.shot_list.map((s) => s.what),
  ];
  const tag = (tags: string[]) => {
    const add_tags = tags.filter((t) => !said.tags.includes(t));
    const remove_tags = said.tags.filter((t) => !tags.includes(t));
    void say([item], { add_tags, remove_tags });
  };
  return (
    <div className={cx("notes")}>
      <div className={cx("line")}>
        <Rate
          character={<span className={cx("dot")}>●</span>}
          value={said.rating}
          onChange={(rating) => void say([item], { rating })}
        />
        <span className="soft">{said.rating ? `${said.rating} of 5` : "not rated"}</span>
      </div>
      <Select
        mode="tags"
        size="small"
        value={said.tags}
        onChange={tag}
        placeholder="tags: place: pier, section: Chorus, beam…"
        options={[...new Set(offered)].map((t) => ({ value: t, label: t }))}
        aria-label="Tags"
        data-testid="tags"
      />
      <Input
        size="small"
        value={note}
        onChange={(e) => setNote(e.target.value)}
        onBlur={() => note !== said.note && void say([item], { note })}
        onPressEnter={(e) => (e.target as HTMLInputElement).blur()}
        placeholder="a note"
        aria-label="Note"
      />
    </div>
  );
}
