"""Edit operations at the API on edits of 500 and 2,000 shots, beside one bare request.

Usage: python benchmarks/editing.py [--profile]
"""

import cProfile
import pstats
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient

from zembi.api.app import create_app
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, Item
from zembi.demo.song import perform
from zembi.jobs.runner import JobRunner
from zembi.media.derive import write_flac
from zembi.service.answers.edit import edit_view
from zembi.service.application import work
from zembi.service.application.studio import Studio
from zembi.service.media.library import add_rows
from zembi.service.project.workspace import Workspace
from zembi.store import tables
from zembi.store.edits import load_edit, save_edit
from zembi.store.entities import Version


def project_with(workspace: Workspace, name: str, count: int) -> list[int]:
    """A project with the demo's song and an edit of so many shots, three frames each; returns its angles."""
    project = workspace.create(name, "60", 1920, 1080)
    (project.folder / "media").mkdir()
    song = perform()
    write_flac(project.folder / "media" / "song.flac", song.audio, song.sample_rate)
    (media,) = add_rows(workspace, project, [str(project.folder / "media" / "song.flac")], "song")
    work.prepare(project.folder, {"media": media}, lambda _s, _w: None)
    with project.database.changing("Angles") as change:
        angles = [
            change.insert(tables.angle, {"number": n, "name": f"A{n}", "hue": n})["id"] for n in (1, 2, 3)
        ]
        for n, angle in enumerate(angles):
            take = {
                "id": f"take{n}",
                "kind": "take",
                "name": f"TAKE_{n}",
                "root": "project",
                "path": "media/song.flac",
            }
            change.insert(tables.media, take | {"facts": {"duration_s": 300.0}, "state": "ready"})
            found = {"take_start_s": 0.0, "take_end_s": 300.0, "song_start_s": 0.0, "status": "locked"}
            change.insert(tables.pass_, found | {"media": f"take{n}", "angle": angle})
    length = project.database.one(Version, id=1).length
    shots = tuple(Item(n * 3, AngleSource(angles[n % 3])) for n in range(count))
    with project.database.changing(f"{count} shots") as change:
        save_edit(change, 1, new_edit(length, shots), load_edit(change.connection, 1))
    return angles


def measure(client: TestClient, url: str, angles: list[int], count: int) -> list[float]:
    """Milliseconds of operations and undoing, in turn."""

    edit = client.get(f"{url}/edits/1").json()
    known, ids = edit["version"], [i["id"] for i in edit["lanes"][0]["items"]]

    def timed(path: str, body: dict[str, object] | None = None) -> float:
        nonlocal known
        begin = time.perf_counter()
        answer = client.post(f"{url}{path}", json=body, params={"since": known})
        took = (time.perf_counter() - begin) * 1000
        assert answer.status_code in (200, 409), answer.text
        known = answer.json().get("version", known)
        return took

    rng = np.random.default_rng(0)
    took = []
    for _ in range(150):
        number = int(rng.integers(1, count - 10))
        took.append(timed("/edits/1", {"op": "move", "item": ids[number], "to": number * 3 + 1}))
        angle = angles[int(rng.integers(3))]
        took.append(timed("/edits/1", {"op": "angle", "item": ids[int(rng.integers(0, 3))], "angle": angle}))
        took.append(timed("/undo"))
    return took


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder))
        made = {count: project_with(workspace, f"Bench {count}", count) for count in (500, 2000)}
        with TestClient(create_app(Studio(workspace, JobRunner({}))), base_url="http://127.0.0.1") as client:
            bare = []
            for _ in range(50):
                begin = time.perf_counter()
                client.get("/api/v1/rates")
                bare.append((time.perf_counter() - begin) * 1000)
            print(f"bare request                  median {np.median(bare):6.2f} ms")
            for count, angles in made.items():
                profile = cProfile.Profile() if "--profile" in sys.argv else None
                took = measure(client, f"/api/v1/projects/bench-{count}", angles, count)
                if profile is not None:
                    profile.enable()
                    edit_view(workspace.open(f"bench-{count}"), 1)
                    profile.disable()
                    pstats.Stats(profile).sort_stats("cumulative").print_stats(25)
                print(
                    f"operation, {count:5d} shots      median {np.median(took):6.2f} ms   95 % "
                    f"{np.percentile(took, 95):6.2f} ms   max {max(took):6.2f} ms (target 95 % under 35)"
                )


if __name__ == "__main__":
    main()
