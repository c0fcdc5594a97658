"""Analyses kept as files beside what is derived, by content and version of the code; made again at will."""

import dataclasses
import json
from functools import lru_cache
from pathlib import Path
from typing import Any

from zembi.core.song.hits import Hit
from zembi.core.song.listen import VERSION as LISTEN_VERSION
from zembi.core.song.listen import Reading, Section, SongAnalysis
from zembi.service.workspace import write_json


def listen_file(derived: Path) -> Path:
    """Where a song's analysis lies."""
    return derived / f"listen-{LISTEN_VERSION}.json"


def save_analysis(derived: Path, analysis: SongAnalysis) -> None:
    """Keep an analysis."""
    write_json(listen_file(derived), dataclasses.asdict(analysis))


def load_analysis(derived: Path) -> SongAnalysis | None:
    """Read a kept analysis; None where there is none of this version."""
    path = listen_file(derived)
    if not path.exists():
        return None
    return _read(path, path.stat().st_mtime_ns)


@lru_cache(maxsize=8)
def _read(path: Path, _stamp: int) -> SongAnalysis:
    return analysis_from_dict(json.loads(path.read_text()))


def analysis_from_dict(data: dict[str, Any]) -> SongAnalysis:
    """The inverse of ``dataclasses.asdict`` for an analysis."""
    return SongAnalysis(**{
        **data,
        "readings": [Reading(**r) for r in data["readings"]],
        "sections": [Section(**s) for s in data["sections"]],
        "hits": {band: [Hit(**h) for h in hits] for band, hits in data["hits"].items()},
    })  # fmt: skip


@lru_cache(maxsize=64)
def _facts(path: Path, _stamp: int) -> dict[str, Any]:
    return dict(json.loads(path.read_text()))


def derived_facts(derived: Path) -> dict[str, Any] | None:
    """What was noted when a file's proxies, peaks and sound were made; None while they are not."""
    path = derived / "done.json"
    return _facts(path, path.stat().st_mtime_ns) if path.exists() else None
