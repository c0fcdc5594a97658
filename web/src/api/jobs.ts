import { useEffect, useRef } from "react";
import { create } from "zustand";
import type { JobView } from "./client";
import { OPEN_STATES } from "./facts";

/** Long works of the open project, newest first; told by the server as they change. */
export const useJobs = create<{ jobs: readonly JobView[] }>(() => ({ jobs: [] }));

/** True for a work that is still to end. */
export function isOpen(job: JobView): boolean {
  return OPEN_STATES.includes(job.state);
}

/** True where listening to the song was stopped, or failed, and nothing has begun it again. */
export function wasStopped(jobs: readonly JobView[]): boolean {
  // Works under way come before those that have ended, and these newest first.
  const latest = jobs.find((j) => j.kind === "prepare");
  return latest?.state === "cancelled" || latest?.state === "failed";
}

/** Keep the store on a project's works; says so when one of them has ended. */
export function useJobNews(project: string, ended: () => void): void {
  const open = useRef(new Set<number>());
  useEffect(() => {
    const events = new EventSource(`/api/v1/projects/${project}/events`);
    events.addEventListener("jobs", (event) => {
      const jobs = JSON.parse((event as MessageEvent<string>).data) as JobView[];
      useJobs.setState({ jobs });
      const now = new Set(jobs.filter(isOpen).map((j) => j.id));
      if ([...open.current].some((job) => !now.has(job))) ended();
      open.current = now;
    });
    return () => {
      events.close();
      useJobs.setState({ jobs: [] });
    };
  }, [project, ended]);
}
