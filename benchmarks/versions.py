"""Versions of 2,000 shots: switched between and compared, beside a bare request.

Usage: python benchmarks/versions.py
"""

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from editing import project_with
from fastapi.testclient import TestClient

from zembi.api.app import create_app
from zembi.jobs.runner import JobRunner
from zembi.service.application.studio import Studio
from zembi.service.project.workspace import Workspace

COUNT = 2000


def took(work: Callable[[], object], times: int) -> list[float]:
    """Milliseconds of each time."""
    out = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        out.append(1000 * (time.perf_counter() - begin))
    return out


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder))
        angles = project_with(workspace, "Bench", COUNT)
        url = "/api/v1/projects/bench"
        with TestClient(create_app(Studio(workspace, JobRunner({}))), base_url="http://127.0.0.1") as client:
            print(
                f"bare request            median {np.median(took(lambda: client.get('/api/v1/rates'), 50)):7.1f} ms"
            )
            made = client.post(f"{url}/edits", json={"of": 1, "name": "other"}).json()["id"]
            items = [i["id"] for i in client.get(f"{url}/edits/{made}").json()["lanes"][0]["items"]]
            for n in range(0, COUNT, 20):
                client.post(
                    f"{url}/edits/{made}",
                    json={"op": "angle", "item": items[n], "angle": angles[(n + 1) % 3]},
                )
                if n % 40 == 0 and n:
                    client.post(f"{url}/edits/{made}", json={"op": "move", "item": items[n], "to": 3 * n + 1})
            turn = [1, made]

            def switch() -> None:
                turn.reverse()
                client.put(f"{url}/current", json={"edit": turn[0]})
                client.get(url)
                client.get(f"{url}/edits/{turn[0]}")

            spent = took(switch, 20)
            print(
                f"a version switched      median {np.median(spent):7.1f} ms, longest {max(spent):.1f} (asked: 300)"
            )
            compare = f"{url}/edits/1/differences?other={made}"
            spent = took(lambda: client.get(compare), 20)
            found = client.get(compare).json()
            print(
                f"two compared            median {np.median(spent):7.1f} ms, longest {max(spent):.1f} (asked: 200); "
                f"{len(found['differ'])} places differ, {len(found['moved'])} cuts moved"
            )


if __name__ == "__main__":
    main()
