"""Songs with known beats, bars and sections: made ones in many styles, any folder with truth files, and what befalls them."""

import io
import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray
from repeats import notes_of
from scipy.interpolate import CubicSpline

from zembi.demo.song import PLAN
from zembi.demo.synth import Performance, SongPart, SongPlan, play
from zembi.media.sound import read_sound

SOUNDS = {".wav", ".flac", ".mp3", ".m4a", ".ogg", ".opus", ".aac", ".aif", ".aiff"}


@dataclass(frozen=True)
class Truth:
    """A song with what is true about it; empty lists where the truth is not known.

    ``borders`` are the times at which its tempo jumps, where it was made to; ``notes`` rows of second, channel, pitch.
    """

    name: str
    audio: NDArray[np.float32]
    rate: int
    beats: NDArray[np.float64]
    downbeats: NDArray[np.float64]
    sections: list[tuple[float, float, str]]
    borders: tuple[float, ...] = ()
    notes: NDArray[np.float64] | None = None


def _parts(style: str, **more: float | int) -> tuple[SongPart, ...]:
    return tuple(replace(p, style=style, **more) for p in PLAN.parts)  # type: ignore[arg-type]


def _without_drums() -> tuple[SongPart, ...]:
    return tuple(replace(p, drums="none") for p in PLAN.parts)


def _pads() -> tuple[SongPart, ...]:
    return tuple(replace(p, drums="none", bass=False, lead=(), pad=1.2) for p in PLAN.parts)


def swayed(performance: Performance, amount: float) -> Performance:
    """The same song with its tempo moving slowly by a share of itself, as a live drummer's does."""
    n, rate = len(performance.audio), performance.sample_rate
    new = np.cumsum(1 / (1 + amount * np.sin(2 * np.pi * np.arange(n) / rate / 40))) / rate
    old = np.arange(n)
    source = np.interp(np.arange(int(new[-1] * rate)) / rate, new, old)
    audio = np.stack([np.interp(source, old, performance.audio[:, c]) for c in (0, 1)], axis=1)

    def at(times: list[float]) -> list[float]:
        return np.interp(np.array(times) * rate, old, new).tolist()

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
    free = SongPart("Free intro", 4, ("Am", "F"), drums="none", pad=1.0, sway=0.12, seed=21)
    odd = SongPart("Turn", 1, ("G",), metre=2, pad=0.6, seed=22)
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
    ``NAME.beats`` holds a line a beat: seconds, and the beat's number in its bar where known; ``NAME.mid``, where there is
    one, the notes that are played.
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
        played = path.with_suffix(".mid")
        notes = notes_of(played) if played.exists() else None
        yield Truth(path.name, audio, rate, beats, downbeats, sections, notes=notes)


def at_pace(song: Truth, times: NDArray[np.float64], before: NDArray[np.float64]) -> Truth:
    """The song run so that what is at ``before`` comes at ``times``; both in seconds, ascending from 0."""
    places = np.interp(np.arange(int(times[-1] * song.rate)) / song.rate, times, before) * song.rate
    frames = np.arange(len(song.audio))
    audio = np.stack([np.interp(places, frames, channel) for channel in song.audio.T], axis=1)

    def moved(at: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.interp(at[at < before[-1]], before, times)

    beats, downbeats = moved(song.beats), moved(song.downbeats)
    return replace(
        song, audio=audio.astype(np.float32), beats=beats, downbeats=downbeats, sections=[], notes=None
    )


def _seed(song: Truth) -> np.random.Generator:
    return np.random.default_rng(sum(map(ord, song.name)))


def swaying(song: Truth, share: float) -> Truth:
    """The song as a band without a click would play it: its pace goes up and down by about a share of itself."""
    seconds = len(song.audio) / song.rate
    knots = _seed(song).normal(size=int(seconds / 8) + 4)
    pace = CubicSpline(np.arange(len(knots)) * 8.0, share * knots / knots.std())
    times = np.linspace(0, seconds, int(seconds * 100))
    before = np.concatenate([[0.0], np.cumsum(1 + pace(times[:-1])) * (times[1] - times[0])])
    kept = before < seconds
    return at_pace(song, times[kept], before[kept])


def with_passage(song: Truth, seconds: float = 15.0) -> Truth:
    """The song with so many seconds of it, from a beat to a beat, a tenth to a third faster or slower."""
    rng, end = _seed(song), len(song.audio) / song.rate
    start = song.beats[np.searchsorted(song.beats, end * rng.uniform(0.3, 0.6))]
    faster = float(rng.choice([0.72, 0.8, 0.87, 1.12, 1.2, 1.3]))
    stop = song.beats[min(np.searchsorted(song.beats, start + seconds * faster), len(song.beats) - 1)]
    times = np.cumsum([0.0, start, (stop - start) / faster, end - stop])
    made = at_pace(song, times, np.array([0.0, start, stop, end]))
    return replace(made, borders=(float(times[1]), float(times[2])))


def drifting(song: Truth, share: float) -> Truth:
    """A tape that runs faster all the time, by a share of its speed over the song."""
    seconds = len(song.audio) / song.rate
    times = np.linspace(0, seconds, 2000)
    before = times * (1 - share / 2) + share * times**2 / 2 / seconds
    return at_pace(song, times, before)


def with_wow(song: Truth, share: float) -> Truth:
    """A record pressed off its centre: the speed goes round by a share of itself, 33 times a minute."""
    seconds, turn = len(song.audio) / song.rate, 2 * np.pi * 33.3 / 60
    times = np.linspace(0, seconds, int(seconds * 40))
    return at_pace(song, times, times + share / turn * (1 - np.cos(turn * times)))


def too_fast(song: Truth, share: float) -> Truth:
    """A record player that runs a share too fast."""
    seconds = len(song.audio) / song.rate
    return at_pace(song, np.array([0.0, seconds / (1 + share)]), np.array([0.0, seconds]))


def _later(song: Truth, before: NDArray[np.float64]) -> Truth:
    """The song after something else, which sounds as loud as it does; ``before`` is of one channel."""
    level = float(np.sqrt(np.mean(song.audio**2))) / max(float(np.sqrt(np.mean(before**2))), 1e-9)
    head = np.repeat((0.7 * level * before)[:, None], song.audio.shape[1], axis=1).astype(np.float32)
    by = len(before) / song.rate
    return replace(
        song,
        audio=np.concatenate([head, song.audio]),
        beats=song.beats + by,
        downbeats=song.downbeats + by,
        sections=[(a + by, b + by, name) for a, b, name in song.sections],
        notes=None,
    )


def after_noise(song: Truth, seconds: float = 10.0) -> Truth:
    """The song after seconds of noise."""
    return _later(song, _seed(song).normal(size=int(seconds * song.rate)))


def after_talk(song: Truth, seconds: float = 10.0) -> Truth:
    """The song after seconds of something like talk: buzzing syllables of changing colour and pitch, with pauses."""
    rng, count = _seed(song), int(seconds * song.rate)
    out, at = np.zeros(count), 0
    while at < count:
        length = int(rng.uniform(0.08, 0.28) * song.rate)
        t = np.arange(length) / song.rate
        pitch = rng.uniform(95, 150) * (1 + rng.uniform(-0.15, 0.1) * t / t[-1])
        phase = 2 * np.pi * np.cumsum(pitch) / song.rate
        tops = rng.uniform((300, 900, 2200), (800, 2000, 3200))
        buzz = sum(
            np.exp(-((120.0 * k - tops[:, None]) ** 2 / 250.0**2)).sum() * np.sin(k * phase) / k
            for k in range(1, 30)
        )
        hiss = 0.6 * rng.normal(size=length) * (t < rng.choice([0.0, 0.05]))
        piece = ((buzz + hiss) * np.hanning(length))[: count - at]
        out[at : at + len(piece)] = piece
        at += length + int(rng.choice([0.01, 0.03, 0.4], p=[0.6, 0.25, 0.15]) * song.rate)
    return _later(song, out)


def fading_in(song: Truth, seconds: float = 15.0) -> Truth:
    """The song coming up out of silence."""
    rise = np.minimum(1.0, np.arange(len(song.audio)) / song.rate / seconds) ** 2
    return replace(song, audio=(song.audio * rise[:, None]).astype(np.float32))


def one_channel(song: Truth) -> Truth:
    """The song by its first channel alone."""
    return replace(song, audio=song.audio[:, :1])


def as_mp3(song: Truth, bits: int = 96_000) -> Truth:
    """The song through MP3 and back."""
    memory = io.BytesIO()
    sound = song.audio if song.audio.shape[1] == 2 else np.repeat(song.audio[:, :1], 2, axis=1)
    with av.open(memory, "w", format="mp3") as out:
        stream = out.add_stream("libmp3lame", rate=song.rate)
        stream.bit_rate, stream.layout = bits, "stereo"
        for at in range(0, len(sound), 1152):
            block = np.ascontiguousarray(sound[at : at + 1152].T)
            frame = av.AudioFrame.from_ndarray(block, "fltp", "stereo")
            frame.rate, frame.pts = song.rate, at
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    memory.seek(0)
    with av.open(memory) as container:
        heard = [frame.to_ndarray() for frame in container.decode(audio=0)]
    return replace(song, audio=np.concatenate(heard, axis=1).T.astype(np.float32))


def middle(song: Truth, seconds: float) -> Truth:
    """So many seconds out of the song's middle."""
    start = max(0.0, len(song.audio) / song.rate / 2 - seconds / 2)

    def inside(at: np.ndarray) -> np.ndarray:
        return at[(at >= start) & (at < start + seconds)] - start

    audio = song.audio[int(start * song.rate) : int((start + seconds) * song.rate)]
    return replace(
        song, audio=audio, beats=inside(song.beats), downbeats=inside(song.downbeats), sections=[], notes=None
    )


#: What befalls a song before it is heard, by name.
VARIANTS: dict[str, Callable[[Truth], Truth]] = {
    "clean": lambda song: song,
    "sway 1 %": lambda song: swaying(song, 0.01),
    "sway 2 %": lambda song: swaying(song, 0.02),
    "passage": with_passage,
    "20 s": lambda song: middle(song, 20.0),
    "40 s": lambda song: middle(song, 40.0),
    "fade-in": fading_in,
    "noise before": after_noise,
    "talk before": after_talk,
    "record 0.4 % fast": lambda song: too_fast(song, 0.004),
    "tape drift 0.5 %": lambda song: drifting(song, 0.005),
    "wow 0.3 %": lambda song: with_wow(song, 0.003),
    "one channel": one_channel,
    "MP3 96 kbit/s": as_mp3,
}
