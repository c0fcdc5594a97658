import { useMemo } from "react";
import { api, data } from "../../api/client";
import { useProject } from "../../api/project";
import type { components } from "../../api/schema";

type Schemas = components["schemas"];
export type PlacePass = Schemas["PlacePass"];
export type BatchAction = Schemas["TakesBatch"]["action"];

/** Everything that the Line-up view can ask of the server. */
export function useLineupActions() {
  const { act, id, path } = useProject();
  return useMemo(
    () => ({
      place: (pass: number, body: PlacePass) =>
        act(() =>
          data(
            api.PATCH("/api/v1/projects/{project_id}/lineup/passes/{pass_id}", {
              params: { path: { project_id: id, pass_id: pass } },
              body,
            }),
          ),
        ),
      lock: (media: string, pairs: [number, number][]) =>
        act(
          () =>
            data(
              api.POST("/api/v1/projects/{project_id}/lineup/takes/{media_id}/passes", {
                params: { path: { project_id: id, media_id: media } },
                body: { pairs },
              }),
            ),
          "Locked by hand",
        ),
      batch: async (action: BatchAction, takes: string[]) =>
        (
          await act(() =>
            data(api.PATCH("/api/v1/projects/{project_id}/lineup/takes", { params: path, body: { action, takes } })),
          )
        )?.note,
      again: (media: string, failed: boolean) => {
        const params = { path: { project_id: id, media_id: media } };
        return act(async () =>
          data(
            failed
              ? api.POST("/api/v1/projects/{project_id}/media/{media_id}/preparations", { params })
              : api.POST("/api/v1/projects/{project_id}/media/{media_id}/alignments", { params }),
          ),
        );
      },
      slate: (media: string, slate: string) =>
        act(() =>
          data(
            api.PATCH("/api/v1/projects/{project_id}/media/{media_id}", {
              params: { path: { project_id: id, media_id: media } },
              body: { slate },
            }),
          ),
        ),
      leaveOut: (start_s: number, end_s: number) =>
        act(() =>
          data(
            api.POST("/api/v1/projects/{project_id}/song/cutdown", {
              params: path,
              body: { action: "leave out", start_s, end_s },
            }),
          ),
        ),
      giveOut: () => act(() => data(api.POST("/api/v1/projects/{project_id}/lineup/exports", { params: path }))),
      read: (file: File) =>
        act(async () => {
          const answer = await fetch(`/api/v1/projects/${id}/lineup/timeline?name=${encodeURIComponent(file.name)}`, {
            method: "POST",
            body: file,
          });
          const said = (await answer.json()) as { note?: string; detail?: string };
          if (!answer.ok) throw new Error(said.detail ?? `${file.name} could not be read.`);
          return said.note ?? "";
        }),
    }),
    [act, id, path],
  );
}
