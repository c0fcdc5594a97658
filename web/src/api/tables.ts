import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, data, type Schemas } from "./client";
import { useProject } from "./project";

export type TableFile = Schemas["TableFile"];
export type KeptTable = Schemas["KeepCube"] | Schemas["KeepCurve"];

/** Tables of colours of the project, and how to bring another. */
export function useTables() {
  const { id } = useProject();
  const queries = useQueryClient();
  const params = { path: { project_id: id } };
  const known = useQuery({
    queryKey: ["tables", id],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/tables", { params })),
  });
  return {
    known: known.data ?? [],
    /** Keep a table with the project; rejects in words where it is damaged. */
    bring: async (body: KeptTable): Promise<TableFile> => {
      const kept = await data(api.POST("/api/v1/projects/{project_id}/tables", { params, body }));
      await queries.invalidateQueries({ queryKey: ["tables", id] });
      return kept;
    },
  };
}
