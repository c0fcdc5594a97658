"""Comparing two versions of the cut, of a project or as timelines."""

import json
from dataclasses import asdict
from fractions import Fraction
from pathlib import Path
from typing import Any

from zembi.cli.shared import AsJson, app
from zembi.core.errors import BadInput


@app.command()
def compare(a: str, b: str, as_json: AsJson = False) -> None:
    """Compare two versions: a project's folder with #name of the version, or .otio files."""
    from zembi.core.programme.comparing import compare as compared
    from zembi.core.timebase import frame_to_timecode

    (here, rate), (there, other) = _programme(a), _programme(b)
    if rate != other:
        raise BadInput(f"{a} is at {rate} frames a second, {b} at {other}: they cannot be compared.")
    found = compared(here, there, rate)
    if as_json:
        differ = [{k: v for k, v in asdict(d).items() if k not in ("here", "there")} for d in found.differ]
        moved = [{"from": m.here, "to": m.there} for m in found.moved]
        print(json.dumps({"same": found.same, "differ": differ, "moved_cuts": moved, "cuts": [*found.cuts]}))
        return
    print(f"{found.same} frames are the same; {len(found.differ)} runs differ; {len(found.moved)} cuts moved")
    for d in found.differ:
        print(f"{frame_to_timecode(d.first, rate)} to {frame_to_timecode(d.end, rate)}  {d.lane}: {d.what}")


def _programme(of: str) -> tuple[Any, Fraction]:
    """A programme and its rate, by a project's folder and the name of a version, or by a timeline."""
    from zembi.core.interchange.timeline import read_timeline
    from zembi.jobs.apart import apart
    from zembi.service.edit.versions import version_named
    from zembi.service.project.snapshot import current_edit, edit_of, snapshot_of
    from zembi.service.project.workspace import open_folder

    path = Path(of)
    if path.suffix == ".otio" and path.is_file():
        try:
            text = path.read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError) as fault:
            raise BadInput(f"{path} cannot be read as an .otio timeline ({fault}).") from None
        read = apart(path.name, read_timeline, text, rate=None)
        return read.programme, read.rate
    folder, mark, name = of.rpartition("#")
    if not mark:
        folder, name = of, ""
    project = open_folder(Path(folder))
    edit_id = version_named(project, name) if name else current_edit(project)
    return snapshot_of(project).programme(edit_of(project, edit_id)), project.rate
