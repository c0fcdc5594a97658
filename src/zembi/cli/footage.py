"""Commands on footage: the cuts of a finished film, and takes of one camera set-up."""

import json
from pathlib import Path

from zembi.cli.shared import AsJson, app, bar


@app.command()
def shots(file: Path, as_json: AsJson = False) -> None:
    """Find where finished footage is cut."""
    from zembi.service.broll.films import shots_of

    with bar("Looking", as_json) as report:
        found = shots_of(file, report)
    if as_json:
        rows = [
            {
                "first": s.first,
                "end": s.end,
                "in": s.begins,
                **({"dissolve": list(s.dissolve)} if s.dissolve else {}),
            }
            for s in found.shots
        ]
        rate = f"{found.rate.numerator}/{found.rate.denominator}"
        print(json.dumps({"file": str(file), "rate": rate, "frames": found.frames, "shots": rows}))
        return
    for n, s in enumerate(found.shots, 1):
        mixed = f", dissolved from frame {s.dissolve[0]} to {s.dissolve[1]}" if s.dissolve else ""
        print(f"{n:4d}  frames {s.first} to {s.end} ({s.end - s.first}){mixed}")


@app.command()
def group(takes: list[Path], as_json: AsJson = False) -> None:
    """Group takes by the camera set-up that shot them."""
    from zembi.service.lineup.grouping import groups_of

    with bar("Looking", as_json) as report:
        found = groups_of(takes, report)
    documents = [
        {"name": g.name, "files": [str(takes[i]) for i in g.takes], "because": g.because} for g in found
    ]
    if as_json:
        print(json.dumps({"groups": documents}))
        return
    for d in documents:
        print(f"{d['name']} ({d['because']})")
        for name in d["files"]:
            print(f"    {name}")
