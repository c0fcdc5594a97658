"""A project of 300 takes and clips, an hour of footage: how fast the state comes, and what it costs to keep.

Prints the time of the project's state beside that of a bare request and beside the same project with 30 files, the
answer's size, and the server's memory with one and with ten hours of footage in the same number of files. The page
sifts in the browser: ``cd web && npx vitest bench`` times that.

Usage: python benchmarks/footage.py
"""

import json
import resource
import sys
import tempfile
import time
import tracemalloc
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient

sys.path.insert(0, str(Path(__file__).parent))

from editing import project_with

from zembi.api.app import create_app
from zembi.core.footage.measure import BINS, Measured
from zembi.jobs.runner import JobRunner
from zembi.service.application.studio import Studio
from zembi.service.application.work import works
from zembi.service.media.analyses import save_measured
from zembi.service.project.workspace import Project, Workspace
from zembi.store import tables

TIMES = 15


def fill(project: Project, angles: list[int], files: int, hours: float) -> None:
    """Fill a project: a seventh takes with two passes each, the others clips with two selects each."""
    rng = np.random.default_rng(files)
    each = hours * 3600 / files
    facts = {
        "duration_s": each, "width": 1920, "height": 1080, "rate": "25", "frames": int(25 * each), "has_video": True,
        "has_sound": True, "size": 0, "mtime_ns": 0,
    }  # fmt: skip
    with project.database.writing() as connection:
        for n in range(files):
            kind = "take" if n % 7 == 0 else "broll"
            key, content = f"file{n}", f"content{n:05d}"
            path = project.folder / "media" / f"{key}.mp4"
            path.touch()
            derived = project.cache / f"{content}-2"
            derived.mkdir(parents=True)
            stamp = path.stat()
            known = {**facts, "size": stamp.st_size, "mtime_ns": stamp.st_mtime_ns}
            (derived / "done.json").write_text(
                json.dumps({"stills": int(2 * each), "frames": known["frames"]})
            )
            moments = max(1, int(each))
            save_measured(derived, Measured(
                *(rng.random(moments).round(3).tolist() for _ in range(5)), rng.dirichlet(np.ones(BINS**3)).tolist(),
            ))  # fmt: skip
            connection.execute(tables.media.insert().values(
                id=key, kind=kind, name=f"{'TAKE' if kind == 'take' else 'clip'} {n}", root="project",
                path=f"media/{key}.mp4", content=content, facts=known, state="ready",
                tags={"rating": n % 6, "tags": [f"place: {n % 5}", f"day: {n % 3}"]},
            ))  # fmt: skip
            if kind == "take":
                for k in range(2):
                    connection.execute(tables.pass_.insert().values(
                        media=key, take_start_s=40.0 * k, take_end_s=40.0 * k + 38, song_start_s=50.0 * k, status="locked",
                        angle=angles[n % 3], position=n,
                    ))  # fmt: skip
            else:
                for k in range(2):
                    connection.execute(tables.select.insert().values(
                        media=key, in_s=k, out_s=k + 0.8, name=f"clip {n} {k}", said={"rating": k, "tags": ["beam"]},
                    ))  # fmt: skip


def timed(client: TestClient, url: str) -> tuple[float, float, int]:
    """Median and 95th percentile of a request in ms, and the bytes of its answer."""
    took, size = [], 0
    for _ in range(TIMES):
        begin = time.perf_counter()
        size = len(client.get(url).content)
        took.append(1000 * (time.perf_counter() - begin))
    return float(np.median(took)), float(np.quantile(took, 0.95)), size


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder))
        plan = (("large", 300, 1.0), ("small", 30, 0.1), ("long", 300, 10.0))
        for name, files, hours in plan:
            angles = project_with(workspace, name, 120)
            fill(workspace.open(name), angles, files, hours)
        studio = Studio(workspace, JobRunner(works(workspace)))
        with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
            bare, _, _ = timed(client, "/api/v1/folders")
            print(f"a bare request: {bare:.1f} ms")
            for name, files, hours in plan:
                tracemalloc.start()
                client.get(f"/api/v1/projects/{name}")
                kept, _ = tracemalloc.get_traced_memory()
                tracemalloc.stop()
                median, most, size = timed(client, f"/api/v1/projects/{name}")
                print(
                    f"{files} files, {hours:g} h: state in {median:.0f} ms (95 % {most:.0f} ms), {size / 1e6:.2f} MB, "
                    f"{kept / 1e6:.1f} MB kept (target: within a second, memory not growing with length)"
                )
    print(f"peak memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")


if __name__ == "__main__":
    main()
