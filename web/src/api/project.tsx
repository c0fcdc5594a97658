import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { ordered } from "./ordered";
import { api, data, type EditView, type JobView, type Operation, type ProjectState } from "./client";

export type Path = { project_id: string };

interface ProjectContext {
  id: string;
  state: ProjectState;
  edit: EditView | undefined;
  jobs: JobView[];
  rate: number;
  /** Run a change: refusals are shown in words, what the page knows is fetched again. */
  act: <T>(work: () => Promise<T>, done?: string) => Promise<T | undefined>;
  /** Do an operation on the edit; gives the edit after it, or nothing where it was refused. */
  operate: (operation: Partial<Operation> & { op: Operation["op"] }) => Promise<EditView | undefined>;
  path: { path: Path };
}

const Context = createContext<ProjectContext | null>(null);

/** The open project; only inside {@link ProjectProvider}. */
export function useProject(): ProjectContext {
  const value = useContext(Context);
  if (!value) throw new Error("useProject outside a project");
  return value;
}

/** Inside, the song is the whole song, in its own time, whatever the cutdown leaves out. */
export function WholeSong({ on, children }: { on: boolean; children: ReactNode }) {
  const value = useProject();
  const { whole } = value.state;
  const inner = useMemo(
    () => (on && whole ? { ...value, state: { ...value.state, song: whole } } : value),
    [on, whole, value],
  );
  return <Context.Provider value={inner}>{children}</Context.Provider>;
}

/** Loads a project, listens to its jobs, and offers the two ways to change it. */
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
  const { message } = App.useApp();
  const path = useMemo(() => ({ path: { project_id: id } }), [id]);
  const state = useQuery({
    queryKey: ["state", id],
    queryFn: () => data(api.GET("/api/projects/{project_id}", { params: path })),
    retry: false,
  });
  const hasSong = Boolean(state.data?.length && state.data.song);
  const edit = useQuery({
    queryKey: ["edit", id],
    queryFn: () => data(api.GET("/api/projects/{project_id}/edit", { params: path })),
    enabled: hasSong,
  });
  const jobs = useJobs(
    id,
    useCallback(() => {
      void client.invalidateQueries({ queryKey: ["state", id] });
      void client.invalidateQueries({ queryKey: ["edit", id] });
      void client.invalidateQueries({ queryKey: ["detail", id] });
    }, [client, id]),
  );

  const refresh = useCallback(async () => {
    await Promise.all([
      client.invalidateQueries({ queryKey: ["state", id] }),
      client.invalidateQueries({ queryKey: ["edit", id] }),
    ]);
  }, [client, id]);

  const act = useCallback(
    async <T,>(work: () => Promise<T>, done?: string): Promise<T | undefined> => {
      try {
        const result = await work();
        if (done) void message.success(done, 2);
        await refresh();
        return result;
      } catch (fault) {
        void message.error((fault as Error).message, 6);
        return undefined;
      }
    },
    [message, refresh],
  );

  const later = useRef<ReturnType<typeof setTimeout> | null>(null);
  const inTurn = useRef<ReturnType<typeof ordered> | null>(null);
  inTurn.current ??= ordered();
  const operate = useCallback(
    async (operation: Partial<Operation> & { op: Operation["op"] }) => {
      try {
        const body = { beats: 0, speed: 1, held: true, unit: "beat", lead: 0, ...operation } as Operation;
        const ask = () => data(api.POST("/api/projects/{project_id}/edit", { params: path, body }));
        const after = await (inTurn.current as ReturnType<typeof ordered>)(ask);
        client.setQueryData(["edit", id], after);
        if (later.current) clearTimeout(later.current);
        later.current = setTimeout(() => void client.invalidateQueries({ queryKey: ["state", id] }), 150);
        return after;
      } catch (fault) {
        void message.warning((fault as Error).message, 4);
        return undefined;
      }
    },
    [client, id, message, path],
  );

  if (!state.data) return waiting(state.error ? state.error.message : null);
  const rate = state.data.rate_num / state.data.rate_den;
  const value = { id, state: state.data, edit: hasSong ? edit.data : undefined, jobs, rate, act, operate, path };
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

function useJobs(id: string, ended: () => void): JobView[] {
  const [jobs, setJobs] = useState<JobView[]>([]);
  const open = useRef(new Set<number>());
  useEffect(() => {
    const events = new EventSource(`/api/projects/${id}/events`);
    events.addEventListener("jobs", (event) => {
      const list = JSON.parse((event as MessageEvent<string>).data) as JobView[];
      setJobs(list);
      const now = new Set(list.filter((j) => j.state === "waiting" || j.state === "running").map((j) => j.id));
      if ([...open.current].some((job) => !now.has(job))) ended();
      open.current = now;
    });
    return () => events.close();
  }, [id, ended]);
  return jobs;
}
