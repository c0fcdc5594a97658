import { useMutation } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { api, data } from "../../../api/client";
import { useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { TextButton } from "../../../parts/TextButton";
import styles from "./Colour.module.css";
import { inWords } from "./grade";
import { dropStill, type KeptStill, useStills } from "./stills";
import { nameOfShot, type useShot } from "./useColour";

const cx = classes(styles);

type Like = "before" | "after" | "section" | "still";

interface Props {
  shot: ReturnType<typeof useShot>;
  of: "shot" | "angle" | "file";
  write: (values: Record<string, number>) => Promise<unknown>;
  /** The kept still that is compared with. */
  still: KeptStill | null;
  compare: (still: KeptStill | null) => void;
}

/** The shot, or its file, made like a neighbour or its section: values of the controls, which stay changeable. */
export function Match({ shot: { shot, before, after, file }, of, write, still, compare }: Props) {
  const { ofEdit, state, id, act } = useProject();
  const even = useMutation({
    mutationFn: async (on: boolean) => {
      const params = { path: { project_id: id, media_id: file?.id ?? "" } };
      return act(() =>
        data(api.PUT("/api/v1/projects/{project_id}/media/{media_id}/evening", { params, body: { on } })),
      );
    },
  });
  const [like, setLike] = useState<Like>("before");
  const other =
    like === "before"
      ? before?.item.id
      : like === "after"
        ? after?.item.id
        : like === "still"
          ? still?.item
          : undefined;
  const item = shot?.item.id;
  const match = useMutation({
    mutationFn: async () => {
      const found = await data(
        api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/colour/match", {
          params: {
            ...ofEdit(),
            query: { item: item ?? 0, of: of === "file" ? "file" : "shot", ...(other ? { like: other } : {}) },
          },
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
            {
              value: "still",
              label: still ? `the kept still: ${still.name}` : "a kept still: choose one below",
              disabled: !still,
            },
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
      <Stills still={still} compare={compare} />
      {file && of === "file" && (
        <TextButton
          loading={even.isPending}
          onClick={() => even.mutate(!file.evened)}
          title="Light that changed as it was filmed, as the sun goes, is brought to the file's own middle"
          data-testid="even"
        >
          {file.evened ? `${file.name} as uneven as it was filmed` : `even ${file.name} over its length`}
        </TextButton>
      )}
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

/** Stills that were kept of this edit: one that is chosen lies beside the picture, and can be matched. */
function Stills({ still, compare }: Pick<Props, "still" | "compare">) {
  const { id, state } = useProject();
  const kept = useStills((s) => s.kept).filter((one) => one.project === id && one.edit === state.edit);
  if (!kept.length) return null;
  return (
    <ul className={cx("kept")} aria-label="Kept stills">
      {kept.map((one) => (
        <li key={`${one.frame} ${one.picture.length}`}>
          <button
            type="button"
            aria-pressed={one === still}
            onClick={() => compare(one === still ? null : one)}
            title={`${one.name}: compare with it`}
          >
            <img src={one.picture} alt={`Kept: ${one.name}`} />
          </button>
          <button
            type="button"
            className={cx("drop")}
            aria-label={`Throw the still of ${one.name} away`}
            onClick={() => {
              if (one === still) compare(null);
              dropStill(one);
            }}
          >
            ×
          </button>
        </li>
      ))}
    </ul>
  );
}
