"""Edit operations on a 500-shot edit at the API, beside one bare request.

Usage: python benchmarks/editing.py
"""

import tempfile
import time
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient

from zembi.api.app import create_app
from zembi.core.edit.model import AngleSource, Edit, Shot
from zembi.demo.song import perform
from zembi.jobs.runner import JobRunner
from zembi.media.derive import write_flac
from zembi.service import work
from zembi.service.library import add_rows
from zembi.service.studio import Studio
from zembi.service.workspace import Workspace
from zembi.store import tables
from zembi.store.edits import load_edit, save_edit


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder))
        project = workspace.create("Bench", "24", 1920, 1080)
        (project.folder / "media").mkdir()
        song = perform()
        write_flac(project.folder / "media" / "song.flac", song.audio, song.sample_rate)
        (media,) = add_rows(workspace, project, [str(project.folder / "media" / "song.flac")], "song")
        work.prepare(project.folder, {"media": media}, lambda _s, _w: None)
        with project.database.changing("Angles") as change:
            angles = [
                change.insert(tables.angle, {"number": n, "name": f"A{n}", "hue": n})["id"] for n in (1, 2, 3)
            ]
        length = project.database.one(tables.edit, id=1)["length"]
        shots = tuple(Shot(n * 5, AngleSource(angles[n % 3])) for n in range(500))
        with project.database.changing("500 shots") as change:
            save_edit(change, 1, Edit(length, shots), load_edit(change.connection, 1))
        with TestClient(create_app(Studio(workspace, JobRunner({}))), base_url="http://127.0.0.1") as client:
            url = "/api/projects/bench"

            def timed(method: str, path: str, **more: object) -> float:
                begin = time.perf_counter()
                answer = client.request(method, path, **more)  # type: ignore[arg-type]
                assert answer.status_code in (200, 409), answer.text
                return (time.perf_counter() - begin) * 1000

            bare = [timed("GET", "/api/projects/rates") for _ in range(50)]
            rng = np.random.default_rng(0)
            took = []
            for _ in range(200):
                start = int(rng.integers(1, 490)) * 5
                took.append(
                    timed("POST", f"{url}/edit", json={"op": "move", "start": start, "to": start + 1})
                )
                took.append(
                    timed(
                        "POST",
                        f"{url}/edit",
                        json={
                            "op": "angle",
                            "start": int(rng.integers(0, 3)) * 5,
                            "angle": angles[int(rng.integers(3))],
                        },
                    )
                )
                took.append(timed("POST", f"{url}/undo"))
            print(f"bare request      median {np.median(bare):6.2f} ms")
            print(
                f"edit operation    median {np.median(took):6.2f} ms   95 % {np.percentile(took, 95):6.2f} ms   max {max(took):6.2f} ms (target 95 % under 50)"
            )


if __name__ == "__main__":
    main()
