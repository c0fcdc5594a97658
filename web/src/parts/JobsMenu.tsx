import { Badge, Button, Popover, Progress } from "antd";
import { api, data, type JobView } from "../api/client";
import { isOpen, useJobs } from "../api/jobs";
import { useCommands } from "../api/project";
import styles from "./JobsMenu.module.css";
import { classes } from "./classes";

const cx = classes(styles);

/** Long works under way: what, how far, and a way to stop each. */
export function JobsMenu() {
  const { jobs } = useJobs();
  const active = jobs.filter(isOpen);
  const share = active.length ? active.reduce((sum, j) => sum + j.progress, 0) / active.length : 0;
  return (
    <Popover trigger="click" placement="bottomRight" content={<JobList jobs={jobs} />} title="Work in the background">
      <Button type="text" size="small" className={cx("jobs-button")} data-testid="jobs">
        {active.length ? (
          <>
            {active.length} {active.length === 1 ? "job" : "jobs"}{" "}
            <Progress aria-label="Jobs" percent={100 * share} showInfo={false} size={[44, 6]} />
          </>
        ) : (
          <Badge
            status={jobs.some((j) => j.state === "failed") ? "error" : "default"}
            text={jobs.some((j) => j.state === "failed") ? "jobs failed" : "no jobs"}
          />
        )}
      </Button>
    </Popover>
  );
}

function JobList({ jobs }: { jobs: readonly JobView[] }) {
  const { act, id } = useCommands();
  if (!jobs.length) return <p className="soft list-note">Nothing has run yet.</p>;
  const stop = (job: number) =>
    act(() =>
      data(
        api.DELETE("/api/v1/projects/{project_id}/jobs/{job_id}", {
          params: { path: { project_id: id, job_id: job } },
        }),
      ),
    );
  return (
    <ul className={cx("job-list")}>
      {jobs.slice(0, 30).map((job) => (
        <li key={job.id}>
          <div className="job-title">{job.title}</div>
          {isOpen(job) ? (
            <>
              <Progress aria-label="Jobs" percent={Math.round(100 * job.progress)} size="small" />
              <div className={cx("job-note")}>
                {job.state === "waiting" ? "waiting" : job.message}{" "}
                <Button size="small" onClick={() => stop(job.id)}>
                  Stop
                </Button>
              </div>
            </>
          ) : (
            <div className={cx(job.state === "failed" ? "job-note bad" : "job-note")}>
              {job.error || (job.state === "done" ? "done" : "stopped")}
            </div>
          )}
        </li>
      ))}
    </ul>
  );
}
