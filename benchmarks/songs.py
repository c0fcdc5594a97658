"""Songs with known beats, bars and sections: made ones in many styles, and any folder with truth files."""

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline

from zembi.demo.song import PLAN
from zembi.demo.synth import Part, Performance, SongPlan, play
from zembi.media.sound import read_sound

SOUNDS = {".wav", ".flac", ".mp3", ".m4a", ".ogg", ".opus", ".aac", ".aif", ".aiff"}


@dataclass(frozen=True)
class Truth:
    """A song with what is true about it; empty lists where the truth is not known."""

    name: str
    audio: NDArray[np.float32]
    rate: int
    beats: NDArray[np.float64]
    downbeats: NDArray[np.float64]
    sections: list[tuple[float, float, str]]


def _parts(style: str, **more: float | int) -> tuple[Part, ...]:
    return tuple(replace(p, style=style, **more) for p in PLAN.parts)  # type: ignore[arg-type]


def _without_drums() -> tuple[Part, ...]:
    return tuple(replace(p, drums="none") for p in PLAN.parts)


def _pads() -> tuple[Part, ...]:
    return tuple(replace(p, drums="none", bass=False, lead=(), pad=1.2) for p in PLAN.parts)


def swayed(performance: Performance, amount: float) -> Performance:
    """The same song with its tempo moving slowly by a share of itself, as a live drummer's does."""
    n, rate = len(performance.audio), performance.sample_rate
    new = np.cumsum(1 / (1 + amount * np.sin(2 * np.pi * np.arange(n) / rate / 40))) / rate
    source = np.interp(np.arange(int(new[-1] * rate)) / rate, new, np.arange(n))
    audio = np.stack([np.interp(source, np.arange(n), performance.audio[:, c]) for c in (0, 1)], axis=1)

    def at(times: list[float]) -> list[float]:
        return [float(np.interp(t * rate, np.arange(n), new)) for t in times]

    sections = [(at([a])[0], at([b])[0], name) for a, b, name in performance.sections]
    return replace(
        performance, audio=audio.astype(np.float32), beats_s=at(performance.beats_s),
        downbeats_s=at(performance.downbeats_s), sections=sections,
    )  # fmt: skip


def _silenced(performance: Performance, start_s: float, end_s: float) -> Performance:
    audio = performance.audio.copy()
    audio[int(start_s * performance.sample_rate) : int(end_s * performance.sample_rate)] = 0
    return replace(performance, audio=audio)


def _plans() -> dict[str, SongPlan]:
    free = Part("Free intro", 4, ("Am", "F"), drums="none", pad=1.0, sway=0.12, seed=21)
    odd = Part("Turn", 1, ("G",), metre=2, pad=0.6, seed=22)
    bridge = [replace(p, bpm=84.0) if p.name == "Bridge" else p for p in PLAN.parts]
    bridge = [replace(p, drums="half", style="half") if p.name == "Bridge" else p for p in bridge]
    slower = [replace(p, bpm=98.0) if i >= 5 else p for i, p in enumerate(PLAN.parts)]
    return {
        "demo 112": PLAN,
        "slow 70": replace(PLAN, bpm=70.0),
        "84.3, late start": replace(PLAN, bpm=84.3, head_s=2.3),
        "128 four to the floor": replace(PLAN, bpm=128.0, parts=_parts("four")),
        "fast 174, broken": replace(PLAN, bpm=174.0, parts=_parts("broken")),
        "half-time 140": replace(PLAN, bpm=140.0, parts=_parts("half")),
        "shuffle 92": replace(PLAN, bpm=92.0, parts=_parts("shuffle")),
        "waltz 100": replace(PLAN, bpm=100.0, metre=3),
        "waltz 152": replace(PLAN, bpm=152.0, metre=3),
        "6/8, 62 dotted": replace(PLAN, bpm=62.0, metre=2, parts=_parts("six")),
        "no drums 96": replace(PLAN, bpm=96.0, parts=_without_drums()),
        "only pads 90": replace(PLAN, bpm=90.0, parts=_pads()),
        "free intro": replace(PLAN, parts=(free, *PLAN.parts)),
        "odd bars": replace(PLAN, parts=(*PLAN.parts[:2], odd, *PLAN.parts[2:4], odd, *PLAN.parts[4:])),
        "bridge at 84": replace(PLAN, parts=tuple(bridge)),
        "98 after verse 2": replace(PLAN, parts=tuple(slower)),
        "played freely": replace(PLAN, bpm=104.0, parts=_parts("rock", sway=0.05)),
    }


def made_songs() -> Iterator[Truth]:
    """Songs of the project's own synthesiser, one at a time."""
    songs: dict[str, Performance] = {}
    for name, plan in _plans().items():
        songs = {name: play(plan)}
        if name == "demo 112":
            whole = songs[name]
            songs |= {
                "swaying 3 %": swayed(whole, 0.03),
                "swaying 8 %": swayed(whole, 0.08),
                "a stop of 3 s": _silenced(whole, 40.0, 43.0),
            }
        for key, p in songs.items():
            yield Truth(key, p.audio, p.sample_rate, np.array(p.beats_s), np.array(p.downbeats_s), p.sections)


def _times(values: object) -> NDArray[np.float64]:
    return np.asarray(values if isinstance(values, list) else [], dtype=float)


def folder_songs(folder: Path) -> Iterator[Truth]:
    """Songs of a folder that have a truth file beside them.

    ``NAME.json`` holds "beats", "downbeats" (seconds) and "sections" (start_s, end_s, label), any of them;
    ``NAME.beats`` holds a line a beat: seconds, and the beat's number in its bar where known.
    """
    for path in sorted(p for p in folder.iterdir() if p.suffix.lower() in SOUNDS):
        beats, downbeats, sections = _times([]), _times([]), []
        told, lines = path.with_suffix(".json"), path.with_suffix(".beats")
        if told.exists():
            data = json.loads(told.read_text())
            beats, downbeats = _times(data.get("beats")), _times(data.get("downbeats"))
            sections = [(s["start_s"], s["end_s"], s.get("label", "")) for s in data.get("sections", [])]
        elif lines.exists():
            rows = [line.split() for line in lines.read_text().splitlines() if line.strip()]
            beats = _times([float(r[0]) for r in rows])
            downbeats = _times([float(r[0]) for r in rows if len(r) > 1 and float(r[1]) == 1])
        else:
            continue
        audio, rate = read_sound(path)
        yield Truth(path.name, audio, rate, beats, downbeats, sections)


def swaying(song: Truth, share: float) -> Truth:
    """The song as a band without a click would play it: its pace goes up and down by about a share of itself."""
    seconds = len(song.audio) / song.rate
    rng = np.random.default_rng(sum(map(ord, song.name)))
    knots = rng.normal(size=int(seconds / 8) + 4)
    pace = CubicSpline(np.arange(len(knots)) * 8.0, share * knots / knots.std())
    times = np.linspace(0, seconds, int(seconds * 100))
    before = np.concatenate([[0.0], np.cumsum(1 + pace(times[:-1])) * (times[1] - times[0])])
    kept = before < seconds
    times, before = times[kept], before[kept]
    places = np.interp(np.arange(int(times[-1] * song.rate)) / song.rate, times, before) * song.rate
    frames = np.arange(len(song.audio))
    audio = np.stack([np.interp(places, frames, channel) for channel in song.audio.T], axis=1)

    def moved(at: np.ndarray) -> np.ndarray:
        return np.interp(at[at < before[-1]], before, times)

    return replace(
        song,
        audio=audio.astype(np.float32),
        beats=moved(song.beats),
        downbeats=moved(song.downbeats),
        sections=[],
    )


def middle(song: Truth, seconds: float) -> Truth:
    """So many seconds out of the song's middle."""
    start = max(0.0, len(song.audio) / song.rate / 2 - seconds / 2)

    def inside(at: np.ndarray) -> np.ndarray:
        return at[(at >= start) & (at < start + seconds)] - start

    audio = song.audio[int(start * song.rate) : int((start + seconds) * song.rate)]
    return replace(song, audio=audio, beats=inside(song.beats), downbeats=inside(song.downbeats), sections=[])
