import { useMemo } from "react";
import { api, data } from "../../api/client";
import { useProject } from "../../api/project";
import type { components } from "../../api/schema";

type Schemas = components["schemas"];
export type Correction = Schemas["CorrectGrid"];
export type Follow = Schemas["Follow"];
type Given<T> = Partial<T>;

/** Everything that the Song view can ask of the server, each a journaled change. */
export function useSongActions() {
  const { act, id, path } = useProject();
  return useMemo(() => {
    const on = (key: string, value: number) => ({ path: { project_id: id, [key]: value } }) as never;
    return {
      grid: (correction: Correction) =>
        act(() => data(api.PATCH("/api/v1/projects/{project_id}/song/grid", { params: path, body: correction }))),
      bringAlong: (edits: Follow["edits"]) =>
        act(
          () =>
            data(
              api.PATCH("/api/v1/projects/{project_id}/song/grid/cuts", {
                params: path,
                body: { edits: edits as Schemas["BringAlong"]["edits"] },
              }),
            ),
          `${edits.reduce((all, e) => all + e.moves.length, 0)} cuts brought along`,
        ),
      section: (section: number, body: Given<Schemas["ChangeSection"]>) =>
        act(() =>
          data(
            api.PATCH("/api/v1/projects/{project_id}/song/sections/{section_id}", {
              params: on("section_id", section),
              body: { snap: true, ...body },
            }),
          ),
        ),
      splitSection: (song_s: number) =>
        act(() => data(api.POST("/api/v1/projects/{project_id}/song/sections", { params: path, body: { song_s } }))),
      joinSection: (section: number) =>
        act(() =>
          data(
            api.DELETE("/api/v1/projects/{project_id}/song/sections/{section_id}", {
              params: on("section_id", section),
            }),
          ),
        ),
      nameRepeats: (section: number) =>
        act(() =>
          data(
            api.POST("/api/v1/projects/{project_id}/song/sections/{section_id}/repeats", {
              params: on("section_id", section),
            }),
          ),
        ),
      addMark: (song_s: number, set_id: number | null) =>
        act(() =>
          data(
            api.POST("/api/v1/projects/{project_id}/song/marks", {
              params: path,
              body: { times_s: [song_s], set_id, working: false },
            }),
          ),
        ),
      mark: (mark: number, body: Given<Schemas["ChangeMark"]>) =>
        act(() =>
          data(api.PATCH("/api/v1/projects/{project_id}/song/marks/{mark_id}", { params: on("mark_id", mark), body })),
        ),
      marks: (body: Schemas["ChangeMarks"]) =>
        act(() => data(api.PATCH("/api/v1/projects/{project_id}/song/marks", { params: path, body }))),
      newSet: (body: Schemas["NewMarkSet"]) =>
        act(() => data(api.POST("/api/v1/projects/{project_id}/song/mark-sets", { params: path, body }))),
      set: (set: number, body: Given<Schemas["ChangeMarkSet"]>) =>
        act(() =>
          data(api.PATCH("/api/v1/projects/{project_id}/song/mark-sets/{set_id}", { params: on("set_id", set), body })),
        ),
      deleteSet: (set: number) =>
        act(() =>
          data(api.DELETE("/api/v1/projects/{project_id}/song/mark-sets/{set_id}", { params: on("set_id", set) })),
        ),
      /** All lyrics anew; ``known`` is the tag of those that they replace. */
      lyrics: (text: string, name: string, known: string) =>
        act(() =>
          data(
            api.PUT("/api/v1/projects/{project_id}/song/lyrics", {
              params: { ...path, header: { "if-match": known } },
              body: { text, name },
            }),
          ),
        ),
      line: (line: number, body: Given<Schemas["ChangeLine"]>) =>
        act(() =>
          data(
            api.PATCH("/api/v1/projects/{project_id}/song/lyrics/{line_id}", {
              params: on("line_id", line),
              body,
            }),
          ),
        ),
      deleteLine: (line: number) =>
        act(() =>
          data(api.DELETE("/api/v1/projects/{project_id}/song/lyrics/{line_id}", { params: on("line_id", line) })),
        ),
      cut: (action: "leave out" | "use only", start_s: number, end_s: number) =>
        act(() =>
          data(
            api.POST("/api/v1/projects/{project_id}/song/cutdown", { params: path, body: { action, start_s, end_s } }),
          ),
        ),
      movePassage: (passage: number, start_s: number, end_s: number) =>
        act(() =>
          data(
            api.PUT("/api/v1/projects/{project_id}/song/cutdown/{passage_id}", {
              params: on("passage_id", passage),
              body: { start_s, end_s },
            }),
          ),
        ),
      bringBack: (passage: number) =>
        act(() =>
          data(
            api.DELETE("/api/v1/projects/{project_id}/song/cutdown/{passage_id}", {
              params: on("passage_id", passage),
            }),
          ),
        ),
      level: (body: Given<Schemas["Level"]>) =>
        act(() => data(api.PUT("/api/v1/projects/{project_id}/song/level", { params: path, body }))),
      read: (file: File) =>
        act(async () => {
          const answer = await fetch(`/api/v1/projects/${id}/song/marks/file?name=${encodeURIComponent(file.name)}`, {
            method: "POST",
            body: file,
          });
          const said = (await answer.json()) as { note?: string; detail?: string };
          if (!answer.ok) throw new Error(said.detail ?? `${file.name} could not be read.`);
          return said.note ?? "";
        }),
    };
  }, [act, id, path]);
}

export type SongActions = ReturnType<typeof useSongActions>;
