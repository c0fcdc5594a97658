"""The running application: the workspace, the job runner, and what follows when a job ends."""

from pathlib import Path

from zembi.core.errors import NotFound
from zembi.jobs.runner import JobRunner
from zembi.service.analyses import derived_facts
from zembi.service.lineup import queue_alignment
from zembi.service.work import WORKS
from zembi.service.workspace import Project, Workspace
from zembi.store import tables


class Studio:
    """One serving process's workspace and workers."""

    def __init__(self, workspace: Workspace, runner: JobRunner | None = None) -> None:
        self.workspace = workspace
        self.runner = runner or JobRunner(WORKS)
        self.runner.ended = self._ended

    def resume(self) -> int:
        """Take up every project's interrupted jobs; returns how many."""
        count = 0
        for project_id in self.workspace.ids():
            count += self.runner.resume(self.workspace.open(project_id).database)
        return count

    def stop(self) -> None:
        """End the workers; their jobs are taken up at the next start."""
        self.runner.stop()

    def _ended(self, folder: Path, job_id: int, state: str) -> None:
        if state != "done" or folder.parent != self.workspace.projects_folder:
            return
        try:
            project = self.workspace.open(folder.name)
            job = project.database.one(tables.job, id=job_id)
        except NotFound:
            return
        if job["kind"] == "prepare":
            self.line_up(project)

    def line_up(self, project: Project) -> None:
        """Queue aligning every prepared take that has not been, once the song is prepared."""
        song = project.row["song"]
        if song is None or not self._prepared(project, song):
            return
        done = {r["media"] for r in project.database.all(tables.lineup)}
        busy = {
            j["arguments"].get("media")
            for j in project.database.all(tables.job, kind="align")
            if j["state"] in ("waiting", "running")
        }
        for m in project.database.all(tables.media, kind="take"):
            if m["id"] not in done | busy and self._prepared(project, m["id"]):
                queue_alignment(project, self.runner, m["id"])

    def _prepared(self, project: Project, media_id: str) -> bool:
        row = project.database.one(tables.media, id=media_id)
        return bool(row["content"]) and derived_facts(project.derived(row)) is not None
