import { api, data, type Schemas } from "../../api/client";
import { useProject } from "../../api/project";
import type { Item } from "./items";

/** Say something of clips and selects, as one step of undo. */
export function useSay() {
  const { act, path } = useProject();
  return (
    items: readonly Pick<Item, "clip" | "select">[],
    said: Omit<Partial<Schemas["Say"]>, "media" | "selects">,
  ) => {
    const media = items.filter((i) => !i.select).map((i) => i.clip.id);
    const selects = items.flatMap((i) => (i.select ? [i.select.id] : []));
    return act(() =>
      data(
        api.PATCH("/api/v1/projects/{project_id}/broll/labels", { params: path, body: { ...said, media, selects } }),
      ),
    );
  };
}
