import { Button, Input, Rate } from "antd";
import { useState } from "react";
import { api, data } from "../../api/client";
import { useProject } from "../../api/project";
import type { Item } from "../../parts/broll/items";
import { useSay } from "../../parts/broll/useSay";
import { classes } from "../../parts/classes";
import { LabelFiles, useLabel } from "../../parts/LabelFiles";
import { hues } from "../../theme";
import styles from "./SayTogether.module.css";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** Labels for several chosen clips at once. */
export function SayTogether({ items, done }: { items: readonly Item[]; done: () => void }) {
  const { act, path } = useProject();
  const say = useSay();
  const [tag, setTag] = useState("");
  const add = () => {
    const tags = tag.split(",").map((t) => t.trim());
    if (tags.some(Boolean)) void say(items, { add_tags: tags.filter(Boolean) });
    setTag("");
  };
  const label = useLabel();
  const files = [...new Set(items.filter((i) => !i.select).map((i) => i.clip.id))];
  const selects = items.flatMap((i) => (i.select ? [i.select.id] : []));
  const drop = () =>
    act(() => data(api.PATCH("/api/v1/projects/{project_id}/broll/selects", { params: path, body: { ids: selects } })));
  return (
    <div className={cx("together")} data-testid="together">
      <b>{items.length} chosen</b>
      <Rate
        character={<span className={cx("dot")}>●</span>}
        value={items.length === 1 ? (items[0]?.said.rating ?? 0) : 0}
        onChange={(rating) => void say(items, { rating })}
      />
      <Input
        size="small"
        className={cx("tag")}
        value={tag}
        onChange={(e) => setTag(e.target.value)}
        onPressEnter={add}
        placeholder="tag, or place: pier"
        aria-label="Tag to add"
      />
      <Button size="small" onClick={add} disabled={!tag.trim()}>
        Tag them
      </Button>
      <span className={cx("hues")}>
        {hues.map((hue, i) => (
          <button
            type="button"
            key={hue}
            className={cx("hue")}
            style={{ ["--hue" as string]: hue }}
            onClick={() => void say(items, { hue: i + 1 })}
            aria-label={`Colour ${i + 1}`}
          />
        ))}
        <TextButton onClick={() => void say(items, { hue: 0 })}>no colour</TextButton>
      </span>
      <span className="grow" />
      {files.length > 0 && <LabelFiles ids={files} />}
      {files.length > 0 && (
        <Button
          size="small"
          onClick={() => void label(files, { kind: "take" }, "They are lined up now").then(done)}
          data-testid="make-takes"
        >
          Make takes
        </Button>
      )}
      {selects.length === items.length && (
        <Button size="small" onClick={() => void drop().then(done)}>
          Drop {selects.length === 1 ? "the select" : `${selects.length} selects`}
        </Button>
      )}
      <Button size="small" onClick={done}>
        Choose none
      </Button>
    </div>
  );
}
