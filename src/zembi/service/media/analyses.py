"""Analyses kept as files beside what is derived, by content and version of the code; made again at will."""

import dataclasses
import json
from functools import lru_cache
from math import isnan, nan
from pathlib import Path
from typing import Any

import numpy as np

from zembi.core.footage.look import Look
from zembi.core.footage.measure import Measured, over, swells
from zembi.core.footage.strokes import strokes
from zembi.core.footage.worth import worth
from zembi.core.song.hits import Hit
from zembi.core.song.listen import VERSION as LISTEN_VERSION
from zembi.core.song.listen import DoubtfulPassage, FoundSection, Reading, SongAnalysis
from zembi.core.song.stretches import TempoStretch
from zembi.core.song.sureness import Sureness
from zembi.core.sync.align import VERSION as ALIGN_VERSION
from zembi.core.sync.features import SoundSource
from zembi.core.sync.found import FoundPass, SongPlace, TakeAlignment
from zembi.media.derive import ALL, SOUND, SOUND_RATE, STILLS, facts_of
from zembi.media.spool import mapped_wave
from zembi.service.project.workspace import write_json


def listen_file(derived: Path) -> Path:
    """File of a song's analysis."""
    return derived / f"listen-{LISTEN_VERSION}.json"


def save_analysis(derived: Path, analysis: SongAnalysis) -> None:
    """Keep an analysis."""
    write_json(listen_file(derived), dataclasses.asdict(analysis))


def load_analysis(derived: Path) -> SongAnalysis | None:
    """Read a kept analysis; None where there is none of this version."""
    path = listen_file(derived)
    if not path.exists():
        return None
    return read_analysis(path, path.stat().st_mtime_ns)


@lru_cache(maxsize=8)
def read_analysis(path: Path, _stamp: int) -> SongAnalysis:
    """Read an analysis's file, as of a time stamp."""
    return analysis_from_dict(json.loads(path.read_text()))


def analysis_from_dict(data: dict[str, Any]) -> SongAnalysis:
    """The inverse of ``dataclasses.asdict`` for an analysis."""
    return SongAnalysis(**{
        **data,
        "sure": Sureness(**data["sure"]),
        "tempo": [TempoStretch(**t) for t in data["tempo"]],
        "doubtful": [DoubtfulPassage(**d) for d in data["doubtful"]],
        "readings": [Reading(**r) for r in data["readings"]],
        "sections": [FoundSection(**s) for s in data["sections"]],
        "hits": {band: [Hit(**h) for h in hits] for band, hits in data["hits"].items()},
    })  # fmt: skip


@dataclasses.dataclass(frozen=True)
class StemAnalysis:
    """Analysis of a stem, in the time of the song it fits. ``voice`` has a value every 0.1 s."""

    song: str
    role: str
    song_start_s: float
    hits: dict[str, list[Hit]]
    voice: list[float]


def save_stem(derived: Path, stem: StemAnalysis) -> None:
    """Keep what a stem holds."""
    write_json(derived / f"stem-{LISTEN_VERSION}.json", dataclasses.asdict(stem))


def load_stem(derived: Path, song: str) -> StemAnalysis | None:
    """Analysis of a stem for a song; None where it was made for another, or not yet."""
    path = derived / f"stem-{LISTEN_VERSION}.json"
    if not path.exists():
        return None
    kept = _stem(path, path.stat().st_mtime_ns)
    return kept if kept.song == song else None


@lru_cache(maxsize=16)
def _stem(path: Path, _stamp: int) -> StemAnalysis:
    data = json.loads(path.read_text())
    hits = {band: [Hit(**h) for h in hits] for band, hits in data["hits"].items()}
    return StemAnalysis(**{**data, "hits": hits})


def alignment_from_dict(data: dict[str, Any]) -> TakeAlignment:
    """The inverse of ``dataclasses.asdict`` for an alignment."""
    return TakeAlignment(**{
        **data,
        "passes": [
            FoundPass(**{
                **p,
                "residuals": [(float(t), float(r)) for t, r in p["residuals"]],
                "rivals": [SongPlace(**r) for r in p["rivals"]],
            })
            for p in data["passes"]
        ],
    })  # fmt: skip


def _alignment_file(derived: Path, song_content: str) -> Path:
    return derived / f"align-{ALIGN_VERSION}-{song_content}.json"


def save_alignment(derived: Path, song_content: str, found: TakeAlignment) -> None:
    """Keep what alignment found of a take for a song."""
    if derived.exists():
        write_json(_alignment_file(derived, song_content), dataclasses.asdict(found))


def load_alignment(derived: Path, song_content: str) -> TakeAlignment | None:
    """Alignment of a take to a song; None where it has not been looked for by this version."""
    path = _alignment_file(derived, song_content)
    return alignment_from_dict(json.loads(path.read_text())) if path.exists() else None


@lru_cache(maxsize=1024)
def _facts(derived: Path, _stamps: tuple[int, ...]) -> dict[str, Any]:
    return facts_of(derived)


def derived_facts(derived: Path) -> dict[str, Any] | None:
    """Facts noted when a file's sound, stills and proxies were made, as far as they are; None before any is."""
    stamps = tuple(p.stat().st_mtime_ns if (p := derived / n).exists() else 0 for n in (SOUND, STILLS, ALL))
    return _facts(derived, stamps) if any(stamps) else None


#: Raise when what is measured of a picture changes.
_MEASURED = "measured-1.json"


def save_measured(derived: Path, measured: Measured) -> None:
    """Keep what was measured of a picture."""
    write_json(derived / _MEASURED, dataclasses.asdict(measured))


def load_measured(derived: Path) -> Measured | None:
    """Measurements of a picture, moment by moment; None before that. It grows with the footage and is not held."""
    path = derived / _MEASURED
    return Measured(**json.loads(path.read_text())) if path.exists() else None


def light_and_motion(derived: Path, start_s: float, end_s: float) -> tuple[float, float]:
    """Mean luma and motion in a range of a file; NaN where nothing is measured."""
    path = derived / _MEASURED
    return _light_and_motion(path, path.stat().st_mtime_ns, start_s, end_s) if path.exists() else (nan, nan)


def look_of(derived: Path, start_s: float, end_s: float) -> Look | None:
    """Look of a range of a file; None where nothing of it is measured."""
    path = derived / _MEASURED
    return _look(path, path.stat().st_mtime_ns, start_s, end_s) if path.exists() else None


@lru_cache(maxsize=1 << 14)
def _light_and_motion(path: Path, _stamp: int, start_s: float, end_s: float) -> tuple[float, float]:
    known = Measured(**json.loads(path.read_text()))
    return over(known.light, start_s, end_s), over(known.motion, start_s, end_s)


@lru_cache(maxsize=1 << 14)
def _look(path: Path, stamp: int, start_s: float, end_s: float) -> Look | None:
    light, motion = _light_and_motion(path, stamp, start_s, end_s)
    return None if isnan(light) or isnan(motion) else Look(light, motion, tuple(_colours(path, stamp)))


def movements(derived: Path) -> tuple[float, ...]:
    """Seconds of a file at which more begins to move than around it; none before it is measured."""
    path = derived / _MEASURED
    return _movements(path, path.stat().st_mtime_ns) if path.exists() else ()


@lru_cache(maxsize=1 << 10)
def _movements(path: Path, _stamp: int) -> tuple[float, ...]:
    return swells(Measured(**json.loads(path.read_text())).motion)


def heard_strokes(derived: Path) -> tuple[float, ...]:
    """Seconds at which something strikes in a file's own sound; none before that is there."""
    path = derived / "sound.wav"
    return _strokes(path, path.stat().st_mtime_ns) if path.exists() else ()


@lru_cache(maxsize=64)
def _strokes(path: Path, _stamp: int) -> tuple[float, ...]:
    return strokes(np.asarray(mapped_wave(path)[:], np.float32), SOUND_RATE)


def worths(derived: Path) -> tuple[float, ...]:
    """Worth of each moment of a file; none before it is measured."""
    path = derived / _MEASURED
    return _worths(path, path.stat().st_mtime_ns) if path.exists() else ()


@lru_cache(maxsize=1 << 10)
def _worths(path: Path, _stamp: int) -> tuple[float, ...]:
    return worth(Measured(**json.loads(path.read_text())))


def load_colours(derived: Path) -> list[float] | None:
    """The shares of a file's colours; None before they are measured."""
    path = derived / _MEASURED
    return _colours(path, path.stat().st_mtime_ns) if path.exists() else None


@lru_cache(maxsize=4096)
def _colours(path: Path, _stamp: int) -> list[float]:
    return list(json.loads(path.read_text())["colours"])


_SHOTS = "shots-1.json"


def save_shots(derived: Path, cutting: dict[str, Any]) -> None:
    """Keep where a film is cut."""
    write_json(derived / _SHOTS, cutting)


def load_shots(derived: Path) -> dict[str, Any] | None:
    """Cuts found in a film; None before it was analysed."""
    path = derived / _SHOTS
    return dict(json.loads(path.read_text())) if path.exists() else None


def cuts_within(derived: Path) -> tuple[float, ...]:
    """Seconds at which a file is cut within; none before its cuts were found."""
    found = load_shots(derived)
    return tuple(s["in_s"] for s in found["shots"][1:]) if found else ()


def take_moments(derived: Path) -> list[dict[str, Any]]:
    """Claps and flashes seen in a take's picture; none where it has not been prepared."""
    path = derived / "moments.json"
    return list(json.loads(path.read_text())) if path.exists() else []


def sync_sound(derived: Path) -> SoundSource:
    """A prepared file's sound at the alignment's rate; empty where it has none."""
    path = derived / "sync.wav"
    return mapped_wave(path) if path.exists() else np.zeros(0, np.float32)
