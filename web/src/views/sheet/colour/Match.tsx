import { useMutation } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { api, data } from "../../../api/client";
import { useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import styles from "./Colour.module.css";
import { inWords } from "./grade";
import { nameOfShot, type useShot } from "./useColour";

const cx = classes(styles);

type Like = "before" | "after" | "section";

interface Props {
  shot: ReturnType<typeof useShot>;
  of: "shot" | "file";
  write: (values: Record<string, number>) => Promise<unknown>;
}

/** The shot, or its file, made like a neighbour or its section: values of the controls, which stay changeable. */
export function Match({ shot: { shot, before, after }, of, write }: Props) {
  const { ofEdit, state } = useProject();
  const [like, setLike] = useState<Like>("before");
  const other = { before, after, section: undefined }[like];
  const item = shot?.item.id;
  const match = useMutation({
    mutationFn: async () => {
      const found = await data(
        api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/colour/match", {
          params: { ...ofEdit(), query: { item: item ?? 0, of, ...(other ? { like: other.item.id } : {}) } },
        }),
      );
      if (found.after < found.before) await write(found.values);
      return { ...found, item };
    },
  });
  const done = match.data?.item === item ? match.data : undefined;
  return (
    <section className={cx("paper")} aria-label="Match">
      <h3>Match</h3>
      <div>
        make it like{" "}
        <Select<Like>
          size="small"
          value={like}
          onChange={setLike}
          popupMatchSelectWidth={false}
          aria-label="Like what"
          data-testid="match-like"
          options={[
            {
              value: "before",
              label: before ? `the shot before: ${nameOfShot(before, state)}` : "the shot before",
              disabled: !before,
            },
            {
              value: "after",
              label: after ? `the shot after: ${nameOfShot(after, state)}` : "the shot after",
              disabled: !after,
            },
            { value: "section", label: "the rest of its section" },
          ]}
        />
      </div>
      <Button
        type="primary"
        size="small"
        loading={match.isPending}
        disabled={item === undefined || (like !== "section" && !other)}
        onClick={() => match.mutate()}
        data-testid="match"
      >
        Make it so
      </Button>
      <p role="status" data-testid="matched">
        {match.error ? (
          <span className="bad">{match.error.message}</span>
        ) : done ? (
          <>
            {done.after < done.before
              ? `did: ${inWords(done.values)}`
              : "It is as near as it gets: nothing was changed."}
            <br />
            differs by <b className="mono">{done.before.toFixed(1)}</b> →{" "}
            <b className="mono">{done.after.toFixed(1)}</b>
          </>
        ) : (
          <span className="soft">What it does is values of the controls beside, which can be changed.</span>
        )}
      </p>
    </section>
  );
}
