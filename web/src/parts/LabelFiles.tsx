import { Button, Input, Popover } from "antd";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { useProject } from "../api/project";

type Labels = Omit<Schemas["LabelFiles"], "ids">;

/** Gives several files labels, as one step of undo. */
export function useLabel() {
  const { act, path } = useProject();
  return (ids: readonly string[], labels: Labels, said?: string) =>
    act(
      () =>
        data(api.PATCH("/api/v1/projects/{project_id}/media", { params: path, body: { ids: [...ids], ...labels } })),
      said,
    );
}

const FIELDS = [
  ["name", "name", "of several: numbered"],
  ["camera", "camera", ""],
  ["day", "day", "kept as a tag"],
  ["place", "place", "kept as a tag"],
] as const;

/** Names of files, their camera, day and place, typed once for all that are chosen; what is left empty stays. */
export function LabelFiles({ ids }: { ids: readonly string[] }) {
  const label = useLabel();
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState<Record<string, string>>({});
  const some = FIELDS.filter(([field]) => typed[field]?.trim());
  const give = async () => {
    const labels = Object.fromEntries(some.map(([field]) => [field, typed[field]?.trim()])) as Labels;
    if (!some.length || !(await label(ids, labels, `${ids.length === 1 ? "Labelled" : `${ids.length} labelled`}`)))
      return;
    setTyped({});
    setOpen(false);
  };
  return (
    <Popover
      trigger="click"
      placement="bottom"
      open={open}
      onOpenChange={setOpen}
      content={
        <div style={{ display: "grid", gridTemplateColumns: "auto 200px", gap: 6, alignItems: "center" }}>
          {FIELDS.map(([field, word, hint]) => (
            <div key={field} style={{ display: "contents" }}>
              <span>{word}</span>
              <Input
                size="small"
                value={typed[field] ?? ""}
                placeholder={hint}
                maxLength={80}
                onChange={(e) => setTyped({ ...typed, [field]: e.target.value })}
                onPressEnter={() => void give()}
                aria-label={word}
                data-testid={`label-${field}`}
              />
            </div>
          ))}
          <span />
          <Button
            size="small"
            type="primary"
            disabled={!some.length}
            onClick={() => void give()}
            data-testid="label-give"
          >
            Label {ids.length === 1 ? "it" : `all ${ids.length}`}
          </Button>
        </div>
      }
    >
      <Button size="small" data-testid="label-files">
        Name…
      </Button>
    </Popover>
  );
}
