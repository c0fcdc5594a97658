import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Popover, Upload } from "antd";
import { useState } from "react";
import { api, data } from "../../../api/client";
import { classes } from "../../../parts/classes";
import { TextButton } from "../../../parts/TextButton";
import type { Card } from "../../../player/cards";
import type { Full } from "./card";
import own from "./Titles.module.css";

const cx = classes(own);
const KEY = ["title styles"];

/** Title styles of one's own, kept for all projects; what is done to them is told where it cannot be. */
export function useStyles() {
  const cache = useQueryClient();
  const { message } = App.useApp();
  const styles = useQuery({ queryKey: KEY, queryFn: () => data(api.GET("/api/v1/title-styles")) });
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work();
      return true;
    } catch (fault) {
      void message.warning((fault as Error).message, 4);
      return false;
    } finally {
      void cache.invalidateQueries({ queryKey: KEY });
    }
  };
  return {
    styles: styles.data ?? [],
    keep: (name: string, card: Full) => act(() => data(api.POST("/api/v1/title-styles", { body: { name, card } }))),
    drop: (name: string) => act(() => data(api.DELETE("/api/v1/title-styles/{name}", { params: { path: { name } } }))),
    read: (text: string) => act(() => data(api.POST("/api/v1/title-styles/file", { body: { text } }))),
  };
}

/** Styles of one's own among those to begin with. */
export function OwnStyles({ lay }: { lay: (card: Card) => void }) {
  const { styles, drop, read } = useStyles();
  return (
    <>
      {styles.length > 0 && (
        <div className={cx("presets")}>
          {styles.map(({ name, card }) => (
            <span key={name} className={cx("own")}>
              <Button size="small" onClick={() => lay(card)} data-testid={`style-${name}`}>
                {name}
              </Button>
              <TextButton
                onClick={() => void drop(name)}
                aria-label={`Forget the style ${name}`}
                title="Forget this style"
              >
                ✕
              </TextButton>
            </span>
          ))}
        </div>
      )}
      <p className="soft">
        Your own: “Keep as a style” on a title.{" "}
        {styles.length > 0 && (
          <a href="/api/v1/title-styles/file" download>
            As a file
          </a>
        )}{" "}
        <Upload
          accept=".json"
          showUploadList={false}
          beforeUpload={(file) => {
            void file.text().then(read);
            return false;
          }}
        >
          <TextButton>Read a file…</TextButton>
        </Upload>
      </p>
    </>
  );
}

/** Keep a card as a style, under a name. */
export function KeepStyle({ card }: { card: Full }) {
  const { keep } = useStyles();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const done = async () => {
    if (!(await keep(name, card))) return;
    setName("");
    setOpen(false);
  };
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      destroyOnHidden
      content={
        <div className={cx("fields")}>
          <Input
            size="small"
            autoFocus
            value={name}
            onChange={(e) => setName(e.target.value)}
            onPressEnter={() => void done()}
            placeholder="its name"
            aria-label="Name of the style"
            data-testid="style-name"
            style={{ width: 150 }}
          />
          <Button
            size="small"
            type="primary"
            disabled={!name.trim()}
            onClick={() => void done()}
            data-testid="keep-style"
          >
            Keep
          </Button>
        </div>
      }
    >
      <Button size="small">Keep as a style…</Button>
    </Popover>
  );
}
