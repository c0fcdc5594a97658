import { useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "./client";
import { useProject } from "./project";

export type Version = Schemas["ListedVersion"];
export type Comparison = Schemas["Comparison"];
export type Difference = Schemas["Difference"];

const EDIT = "/api/v1/projects/{project_id}/edits/{edit_id}";

/** Versions of the cut in the order in which they were made, and what can be done with them. */
export function useVersions() {
  const { id, act, path } = useProject();
  const found = useQuery({
    queryKey: ["state", id, "versions"],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/edits", { params: path })),
    placeholderData: (before) => before,
  });
  const of = (edit_id: number) => ({ path: { project_id: id, edit_id } });
  // What is done fetches the project anew, and its versions with it.
  const changed = async (work: () => Promise<object>) => (await act(work)) !== undefined;
  return {
    all: found.data ?? [],
    make: (of: number, name: string, note: string) =>
      changed(() => data(api.POST("/api/v1/projects/{project_id}/edits", { params: path, body: { of, name, note } }))),
    change: (version: number, body: Schemas["ChangeVersion"]) =>
      changed(() => data(api.PATCH(EDIT, { params: of(version), body }))),
    workOn: (version: number) =>
      changed(() => data(api.PUT("/api/v1/projects/{project_id}/current", { params: path, body: { edit: version } }))),
    throwAway: (version: number) => changed(() => data(api.DELETE(EDIT, { params: of(version) }))),
    /** Bring a passage of another version into one. */
    take: (version: number, body: Schemas["TakeOver"]) =>
      changed(() => data(api.POST(`${EDIT}/taken`, { params: of(version), body }))),
  };
}

/** What differs between two versions. */
export function useDifferences(here: number, there: number, version: number) {
  const { id } = useProject();
  return useQuery({
    queryKey: ["differences", id, here, there, version],
    queryFn: () =>
      data(
        api.GET(`${EDIT}/differences`, {
          params: { path: { project_id: id, edit_id: here }, query: { other: there } },
        }),
      ),
    placeholderData: (before) => before,
  });
}
