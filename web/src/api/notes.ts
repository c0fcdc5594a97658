import { useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "./client";
import { useEdit, useProject } from "./project";

export type Note = Schemas["ListedNote"];
export type Understood = Schemas["UnderstoodNote"];

const OF_EDIT = "/api/v1/projects/{project_id}/edits/{edit_id}/notes";
const ONE = "/api/v1/projects/{project_id}/notes/{note}";

/** True for a note about the whole film: it has no place of its own. */
export const isOfAll = (note: Pick<Note, "first" | "end">, film: { first: number; end: number }): boolean =>
  note.first <= film.first && note.end >= film.end;

/** Notes on all versions in the order of their music, and what can be done with them. */
export function useNotes() {
  const { id, act, path } = useProject();
  const edit = useEdit();
  const found = useQuery({
    // With the project: what changes the song moves notes, what is cut does not.
    queryKey: ["state", id, "notes"],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/notes", { params: path })),
    placeholderData: (before) => before,
  });
  const ofEdit = { path: { project_id: id, edit_id: edit?.id ?? 0 } };
  const of = (note: number) => ({ path: { project_id: id, note } });
  // What is done fetches the project anew, and notes with it.
  const changed = async (work: () => Promise<object>) => (await act(work)) !== undefined;
  return {
    all: found.data ?? [],
    write: (body: Schemas["WriteNote"]) => changed(() => data(api.POST(OF_EDIT, { params: ofEdit, body }))),
    take: (text: string, who: string) =>
      changed(() => data(api.POST(`${OF_EDIT}/taken`, { params: ofEdit, body: { text, who } }))),
    answer: (note: number, body: Schemas["AnswerNote"]) =>
      changed(() => data(api.PATCH(ONE, { params: of(note), body }))),
    drop: (note: number) => changed(() => data(api.DELETE(ONE, { params: of(note) }))),
  };
}

/** What of a pasted list would be taken. */
export function useUnderstood(text: string) {
  const { id } = useProject();
  const edit = useEdit();
  return useQuery({
    queryKey: ["understood", id, edit?.id, text],
    queryFn: () =>
      data(
        api.POST(`${OF_EDIT}/understood`, {
          params: { path: { project_id: id, edit_id: edit?.id ?? 0 } },
          body: { text, who: "" },
        }),
      ),
    enabled: edit !== undefined && text.trim() !== "",
    placeholderData: (before) => before,
    retry: false,
  });
}
