"""The command that checks everything that Zembi needs."""

import os
import sys
from collections.abc import Iterator
from pathlib import Path

from zembi import __version__
from zembi.cli.shared import DataFolder, app


@app.command()
def doctor(data: DataFolder = None) -> None:
    """Check everything that Zembi needs, one line each."""
    failed = 0
    for name, problem in _checks(data):
        print(f"{'ok' if not problem else 'NO':3} {name}{': ' + problem if problem else ''}")
        failed += bool(problem)
    if failed:
        raise SystemExit(1)


def _checks(data: Path | None) -> Iterator[tuple[str, str]]:
    import importlib

    from zembi.api.app import PAGE
    from zembi.service.project.workspace import default_data_folder, free_bytes

    version = ".".join(str(v) for v in sys.version_info[:3])
    yield f"Zembi {__version__}", ""
    yield f"Python {version}", "" if sys.version_info >= (3, 11) else "install Python 3.11 or newer"
    for module in (
        "numpy",
        "scipy",
        "soxr",
        "av",
        "opentimelineio",
        "mido",
        "PIL",
        "cv2",
        "fastapi",
        "sqlalchemy",
        "alembic",
    ):
        try:
            importlib.import_module(module)
            yield f"library {module}", ""
        except ImportError as fault:
            yield f"library {module}", f"{fault}; run make install"
    import av

    for codec, mode in (
        ("libx264", "w"),
        ("aac", "w"),
        ("flac", "w"),
        ("h264", "r"),
        ("hevc", "r"),
        ("prores", "r"),
        ("mp3", "r"),
        ("vorbis", "r"),
    ):
        try:
            av.codec.Codec(codec, mode)  # type: ignore[arg-type]
            yield f"codec {codec} ({'encode' if mode == 'w' else 'decode'})", ""
        except Exception:
            yield f"codec {codec}", "missing from the installed PyAV; run make install"
    folder = (data or default_data_folder()).expanduser()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe_file = folder / f".doctor-{os.getpid()}"
        probe_file.touch()
        probe_file.unlink()
        free = free_bytes(folder)
        yield f"data folder {folder}", "" if free > 2 << 30 else f"only {free / 1e9:.1f} GB free; make room"
    except OSError as fault:
        yield f"data folder {folder}", f"cannot be written ({fault.strerror}); choose another with --data"
    yield "browser build of the page", "" if (PAGE / "index.html").is_file() else "not built; run make build"
