import { useMemo } from "react";
import { api, data } from "../../api/client";
import { useProject } from "../../api/project";
import type { components } from "../../api/schema";

type Schemas = components["schemas"];
export type GridAction = Schemas["CorrectGrid"]["action"];
export type Follow = Schemas["Follow"];
type Given<T> = Partial<T>;

/** Everything that the Song view can ask of the server, each a journaled change. */
export function useSongActions() {
  const { act, id, path } = useProject();
  return useMemo(() => {
    const on = (key: string, value: number) => ({ path: { project_id: id, [key]: value } }) as never;
    const note = async (call: Promise<{ note: string }>) => (await call).note;
    return {
      grid: (action: GridAction, more: Given<Schemas["CorrectGrid"]> = {}) =>
        act(() => data(api.POST("/api/projects/{project_id}/song/grid", { params: path, body: { action, ...more } }))),
      bringAlong: (edits: Follow["edits"]) =>
        act(
          () =>
            data(
              api.POST("/api/projects/{project_id}/song/grid/follow", {
                params: path,
                body: { edits: edits as Schemas["BringAlong"]["edits"] },
              }),
            ),
          `${edits.reduce((all, e) => all + e.moves.length, 0)} cuts brought along`,
        ),
      section: (section: number, body: Given<Schemas["ChangeSection"]>) =>
        act(() =>
          data(
            api.PATCH("/api/projects/{project_id}/song/sections/{section_id}", {
              params: on("section_id", section),
              body: { snap: true, ...body },
            }),
          ),
        ),
      splitSection: (song_s: number) =>
        act(() => data(api.POST("/api/projects/{project_id}/song/sections", { params: path, body: { song_s } }))),
      joinSection: (section: number) =>
        act(() =>
          data(
            api.DELETE("/api/projects/{project_id}/song/sections/{section_id}", { params: on("section_id", section) }),
          ),
        ),
      nameRepeats: (section: number) =>
        act(() =>
          data(
            api.POST("/api/projects/{project_id}/song/sections/{section_id}/repeats", {
              params: on("section_id", section),
            }),
          ),
        ),
      addMark: (song_s: number, set_id: number | null) =>
        act(() =>
          data(
            api.POST("/api/projects/{project_id}/song/marks", {
              params: path,
              body: { times_s: [song_s], set_id, working: false },
            }),
          ),
        ),
      mark: (mark: number, body: Given<Schemas["ChangeMark"]>) =>
        act(() =>
          data(api.PATCH("/api/projects/{project_id}/song/marks/{mark_id}", { params: on("mark_id", mark), body })),
        ),
      deleteMarks: (ids: number[]) =>
        act(() => data(api.POST("/api/projects/{project_id}/song/marks/delete", { params: path, body: { ids } }))),
      tidy: (body: Schemas["TidyMarks"]) =>
        act(() => data(api.POST("/api/projects/{project_id}/song/marks/tidy", { params: path, body }))),
      makeMarks: (body: Given<Schemas["MakeMarks"]>) =>
        act(() =>
          note(
            data(
              api.POST("/api/projects/{project_id}/song/marks/make", {
                params: path,
                body: { bands: [], each_bar: false, name: "", ...body },
              }),
            ),
          ),
        ),
      workMarks: (body: Given<Schemas["WorkMarks"]>) =>
        act(() =>
          data(api.POST("/api/projects/{project_id}/song/marks/work", { params: path, body: { first: 0, ...body } })),
        ),
      addSet: (name: string) =>
        act(() => data(api.POST("/api/projects/{project_id}/song/mark-sets", { params: path, body: { name } }))),
      set: (set: number, body: Given<Schemas["ChangeMarkSet"]>) =>
        act(() =>
          data(api.PATCH("/api/projects/{project_id}/song/mark-sets/{set_id}", { params: on("set_id", set), body })),
        ),
      deleteSet: (set: number) =>
        act(() =>
          data(api.DELETE("/api/projects/{project_id}/song/mark-sets/{set_id}", { params: on("set_id", set) })),
        ),
      lyrics: (text: string, name: string) =>
        act(() => data(api.PUT("/api/projects/{project_id}/song/lyrics", { params: path, body: { text, name } }))),
      line: (line: number, body: Given<Schemas["ChangeLine"]>) =>
        act(() =>
          data(
            api.PATCH("/api/projects/{project_id}/song/lyrics/{line_id}", {
              params: on("line_id", line),
              body,
            }),
          ),
        ),
      deleteLine: (line: number) =>
        act(() =>
          data(api.DELETE("/api/projects/{project_id}/song/lyrics/{line_id}", { params: on("line_id", line) })),
        ),
      cut: (action: "leave out" | "use only", start_s: number, end_s: number) =>
        act(() =>
          data(api.POST("/api/projects/{project_id}/song/cutdown", { params: path, body: { action, start_s, end_s } })),
        ),
      movePassage: (passage: number, start_s: number, end_s: number) =>
        act(() =>
          data(
            api.PUT("/api/projects/{project_id}/song/cutdown/{passage_id}", {
              params: on("passage_id", passage),
              body: { start_s, end_s },
            }),
          ),
        ),
      bringBack: (passage: number) =>
        act(() =>
          data(
            api.DELETE("/api/projects/{project_id}/song/cutdown/{passage_id}", { params: on("passage_id", passage) }),
          ),
        ),
      level: (body: Given<Schemas["Level"]>) =>
        act(() => data(api.PUT("/api/projects/{project_id}/song/level", { params: path, body }))),
      read: (file: File) =>
        act(async () => {
          const answer = await fetch(`/api/projects/${id}/song/marks/read?name=${encodeURIComponent(file.name)}`, {
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
