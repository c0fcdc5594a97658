"""The wheel in an environment of its own: without this checkout and without Node, it serves the built page."""

import os
import subprocess
import sysconfig
import urllib.request
import venv
from pathlib import Path

import pytest

from tests.serving import free_port

WHEELS = Path(__file__).parents[1] / "build/dist"


@pytest.fixture(scope="module")
def installed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The ``bin`` folder of an environment that holds the wheel, and the libraries that it asks for beside it."""
    wheel = next(iter(WHEELS.glob("zembi-*.whl")), None)
    if wheel is None:
        pytest.skip("make dist builds the wheel")
    place = tmp_path_factory.mktemp("dist") / "env"
    venv.create(place, with_pip=True)
    python = place / "bin/python"
    site = subprocess.run(
        [python, "-c", "import sysconfig; print(sysconfig.get_path('purelib'))"],
        capture_output=True, text=True, check=True,
    ).stdout.strip()  # fmt: skip
    # A path named in a .pth file gives its modules, and none of what is installed there for development.
    Path(site, "libraries.pth").write_text(sysconfig.get_path("purelib") + "\n")
    pip = [python, "-m", "pip", "install", "-q", "--disable-pip-version-check", "--no-deps", "--no-index"]
    subprocess.run([*pip, str(wheel)], check=True)
    return place / "bin"


def run(installed: Path, *arguments: str, cwd: Path) -> subprocess.CompletedProcess[str]:
    # Nothing of Node's is on the path.
    env = {"PATH": str(installed), "HOME": str(cwd), "LANG": "C.UTF-8"}
    return subprocess.run(
        [installed / "zembi", *arguments], capture_output=True, text=True, cwd=cwd, env=env, check=False
    )


def test_the_wheel_is_what_is_run(installed: Path, tmp_path: Path) -> None:
    where = subprocess.run(
        [installed / "python", "-c", "import zembi; print(zembi.__file__)"],
        capture_output=True, text=True, cwd=tmp_path, check=True,
    ).stdout  # fmt: skip
    assert str(installed.parent) in where
    done = run(installed, "--version", cwd=tmp_path)
    assert done.stdout.startswith("zembi "), done.stderr


def test_the_doctor_finds_everything(installed: Path, tmp_path: Path) -> None:
    done = run(installed, "doctor", "--data", str(tmp_path / "data"), cwd=tmp_path)
    assert done.returncode == 0, done.stdout + done.stderr


def test_it_serves_the_page_with_all_that_the_page_asks_for(installed: Path, tmp_path: Path) -> None:
    port = free_port()
    env = {**os.environ, "PATH": str(installed), "PYTHONPATH": ""}
    command = [installed / "zembi", "serve", "--data", str(tmp_path / "data"), "--port", str(port)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=tmp_path, env=env) as server:
        try:
            assert server.stdout is not None
            assert "ready" in server.stdout.readline()
            address = f"http://127.0.0.1:{port}"
            page = urllib.request.urlopen(f"{address}/").read().decode()
            scripts = [part.split('"')[0] for part in page.split('src="')[1:]]
            assert scripts
            for script in scripts:
                assert len(urllib.request.urlopen(address + script).read()) > 1000
            assert urllib.request.urlopen(f"{address}/api/v1/projects").status == 200
        finally:
            server.terminate()
