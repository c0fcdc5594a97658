import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "../../../api/client";
import { useEdit, useProject } from "../../../api/project";

/** Contrast of the titles of the edit, or of one, against the pictures under them; measured again when the edit changes. */
export function useContrasts(item?: number): Schemas["TitleContrast"][] | undefined {
  const { id } = useProject();
  const edit = useEdit();
  return useQuery({
    queryKey: ["contrasts", id, edit?.id, edit?.version, item],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/titles/contrast", {
          params: { path: { project_id: id, edit_id: edit?.id ?? 0 }, query: item === undefined ? {} : { item } },
        }),
      ),
    enabled: edit !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  }).data;
}
