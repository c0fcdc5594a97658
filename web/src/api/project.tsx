import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { createContext, type ReactNode, useCallback, useContext, useMemo } from "react";
import { broughtUp } from "./changes";
import { api, data, derivedUrl, type EditView, type Made, type Operation, type ProjectState } from "./client";
import { useJobNews } from "./jobs";
import { tell } from "../parts/Told";
import { ordered } from "./ordered";

export type Path = { project_id: string };

/** The address of an edit. */
export const editPath = (project_id: string, edit_id: number) => ({ path: { project_id, edit_id } });

/** Actions on the open project; the same object as long as it is open, so nothing is drawn again for it. */
interface Commands {
  id: string;
  path: { path: Path };
  /** The address of the edit that is worked on, for what is asked of it. */
  ofEdit: () => ReturnType<typeof editPath>;
  rate: number;
  /** Run a change: refusals are shown in words, what the page knows is fetched again. */
  act: <T>(work: () => Promise<T>, done?: string) => Promise<T | undefined>;
  /** Do an operation on the edit; gives the edit after it, or nothing where it was refused. */
  operate: (operation: Operation) => Promise<EditView | undefined>;
  /** The edit as an operation would make it; nothing is changed, and what stays is the very same object. */
  ahead: (operation: Operation) => Promise<EditView>;
  /** The project and its edit as they are now, for what is done at a key: nothing is drawn again for it. */
  now: () => { state: ProjectState; edit: EditView | undefined };
  /** Undo the last thing done, or do again what was undone. */
  turn: (way: "undo" | "redo") => Promise<void>;
}

const CommandsContext = createContext<Commands | null>(null);
const StateContext = createContext<ProjectState | null>(null);
const EditContext = createContext<EditView | undefined>(undefined);
const AddressContext = createContext<AddressOf>(() => "");

/** Address of something made from a file of the open project, by the file's id; "" where there is no such file. */
export type AddressOf = (media: string, what: string) => string;

/** Addresses of what is made from files: another function only once a file's content changed or was prepared. */
export function useAddresses(): AddressOf {
  return useContext(AddressContext);
}

function useAddressesOf(id: string, media: readonly Made[]): AddressOf {
  const known = JSON.stringify(media.map((m) => [m.id, m.made_of, m.prepared]));
  return useMemo(() => {
    const files = new Map<string, Made>();
    for (const [file, made_of, prepared] of JSON.parse(known) as [string, string, boolean][])
      files.set(file, { id: file, made_of, prepared });
    return (name, what) => {
      const file = files.get(name);
      return file ? derivedUrl(id, file, what) : "";
    };
  }, [id, known]);
}

/** Actions on the open project; only inside {@link ProjectProvider}. */
export function useCommands(): Commands {
  const commands = useContext(CommandsContext);
  if (!commands) throw new Error("useCommands outside a project");
  return commands;
}

/** The open project and what can be done to it; only inside {@link ProjectProvider}. */
export function useProject(): Commands & { state: ProjectState } {
  const commands = useCommands();
  const state = useContext(StateContext);
  if (!state) throw new Error("useProject outside a project");
  return useMemo(() => ({ ...commands, state }), [commands, state]);
}

/** The edit being worked on; undefined until it is there. What an operation did not change keeps its identity. */
export function useEdit(): EditView | undefined {
  return useContext(EditContext);
}

/** Inside, the song is the whole song, in its own time, whatever the cutdown leaves out. */
export function WholeSong({ on, children }: { on: boolean; children: ReactNode }) {
  const { state } = useProject();
  const inner = useMemo(() => (on && state.whole ? { ...state, song: state.whole } : state), [on, state]);
  return <StateContext.Provider value={inner}>{children}</StateContext.Provider>;
}

const NO_MEDIA: readonly Made[] = [];

/** Loads a project, listens to its jobs, and offers the ways to change it. */
export function ProjectProvider({
  id,
  children,
  waiting,
}: {
  id: string;
  children: ReactNode;
  waiting: (error: string | null) => ReactNode;
}) {
  const client = useQueryClient();
  const path = useMemo(() => ({ path: { project_id: id } }), [id]);
  const state = useQuery({
    queryKey: ["state", id],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}", { params: path })),
    retry: false,
  });
  const hasSong = Boolean(state.data?.length && state.data.song);
  const editId = state.data?.edit ?? null;
  const edit = useQuery({
    queryKey: ["edit", id, editId],
    queryFn: () =>
      data(api.GET("/api/v1/projects/{project_id}/edits/{edit_id}", { params: editPath(id, editId as number) })),
    enabled: hasSong && editId !== null,
  });
  const again = useCallback(
    (...keys: ("state" | "edit" | "detail")[]) =>
      Promise.all(keys.map((key) => client.invalidateQueries({ queryKey: [key, id] }))),
    [client, id],
  );
  useJobNews(
    id,
    useCallback(() => void again("state", "edit", "detail"), [again]),
  );
  const rate = (state.data?.rate_num ?? 24) / (state.data?.rate_den ?? 1);
  const commands = useCommandsOf(id, path, rate, again);
  const addresses = useAddressesOf(id, state.data?.media ?? NO_MEDIA);
  if (!state.data) return waiting(state.error ? state.error.message : null);
  return (
    <CommandsContext.Provider value={commands}>
      <StateContext.Provider value={state.data}>
        <AddressContext.Provider value={addresses}>
          <EditContext.Provider value={hasSong ? edit.data : undefined}>{children}</EditContext.Provider>
        </AddressContext.Provider>
      </StateContext.Provider>
    </CommandsContext.Provider>
  );
}

function useCommandsOf(
  id: string,
  path: { path: Path },
  rate: number,
  again: (...keys: ("state" | "edit" | "detail")[]) => Promise<unknown>,
): Commands {
  const client = useQueryClient();
  const { message } = App.useApp();
  const inTurn = useMemo(ordered, []);
  const act = useCallback(
    async <T,>(work: () => Promise<T>, done?: string): Promise<T | undefined> => {
      try {
        const result = await work();
        if (done) void message.success(done, 2);
        await again("state", "edit");
        return result;
      } catch (fault) {
        void message.error((fault as Error).message, 6);
        return undefined;
      }
    },
    [message, again],
  );
  // Children render once the project's state is there.
  const nowState = useCallback(() => client.getQueryData(["state", id]) as ProjectState, [client, id]);
  const ofEdit = useCallback(() => editPath(id, nowState().edit as number), [id, nowState]);
  const known = useCallback(() => client.getQueryData<EditView>(["edit", id, nowState().edit]), [client, id, nowState]);
  const told = useCallback(
    async <T extends object>(ask: (since: { since?: number }) => Promise<EditView | T>) => {
      const before = known();
      const answer = await ask(before ? { since: before.version } : {});
      if (!("lanes" in answer)) return answer;
      const after = before ? broughtUp(before, answer) : answer;
      client.setQueryData(["edit", id, answer.id], after);
      return after;
    },
    [client, id, known],
  );
  const operate = useCallback(
    async (body: Operation) => {
      try {
        const after = await inTurn(() =>
          told((query) =>
            data(api.POST("/api/v1/projects/{project_id}/edits/{edit_id}", { params: { ...ofEdit(), query }, body })),
          ),
        );
        tell(after.undo);
        return after;
      } catch (fault) {
        void message.warning((fault as Error).message, 4);
        return undefined;
      }
    },
    [message, ofEdit, inTurn, told],
  );
  const ahead = useCallback(
    async (body: Operation) => {
      const before = known();
      const query = before ? { since: before.version } : {};
      const params = { ...ofEdit(), query };
      const would = await data(api.POST("/api/v1/projects/{project_id}/edits/{edit_id}/preview", { params, body }));
      return before ? broughtUp(before, would) : would;
    },
    [known, ofEdit],
  );
  const turn = useCallback(
    async (way: "undo" | "redo") => {
      try {
        const { undo, redo } = known() ?? nowState();
        await inTurn(() =>
          told((since) => {
            const params = { params: { ...path, query: { ...since, edit: nowState().edit } } };
            return data(
              way === "undo"
                ? api.POST("/api/v1/projects/{project_id}/undo", params)
                : api.POST("/api/v1/projects/{project_id}/redo", params),
            );
          }),
        );
        const what = way === "undo" ? undo : redo;
        if (what) tell(way === "undo" ? `Undone: ${what}` : `Done again: ${what}`);
        await again("state", "detail");
      } catch (fault) {
        void message.warning((fault as Error).message, 4);
        await again("state", "edit");
      }
    },
    [message, path, inTurn, again, told, nowState, known],
  );
  return useMemo(() => {
    const now = () => ({ state: nowState(), edit: known() });
    return { id, path, ofEdit, rate, act, operate, ahead, now, turn };
  }, [id, path, ofEdit, rate, act, operate, ahead, turn, nowState, known]);
}
