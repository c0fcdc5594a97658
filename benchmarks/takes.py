"""Camera-like takes with known truth: rooms, talk, codecs, clocks, speeds, restarts and decoys, over any song."""

import json
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from hashlib import sha256
from pathlib import Path

import av
import numpy as np
import soxr
from numpy.typing import NDArray
from scipy.signal import correlate

from zembi.demo.camera import Room, chatter, drift, record, stretch
from zembi.demo.song import PLAN
from zembi.demo.synth import SongPlan, play
from zembi.media.sound import read_sound
from zembi.media.spool import spooled_take

Mono = NDArray[np.float32]
RATE = 48_000
#: Places more alike than this over the whole take count as equally true.
EQUAL = 0.999


@dataclass(frozen=True)
class TruePass:
    """Take seconds ``start_s`` to ``end_s`` hold the song from ``song_s`` on at ``rate`` song seconds a take second."""

    start_s: float
    end_s: float
    song_s: float
    rate: float = 1.0

    def song(self, take_s: float) -> float:
        """Song time at a take time."""
        return self.song_s + self.rate * (take_s - self.start_s)


@dataclass(frozen=True)
class Case:
    """A take, the status it deserves, its passes, and every song time that would be as true (one pass only)."""

    kind: str
    sound: Mono
    status: str
    passes: tuple[TruePass, ...] = ()
    equal_s: tuple[float, ...] = ()


@dataclass(frozen=True)
class Original:
    """A song in the versions a take may be shot to.

    Attributes:
        other: A different song at the same tempo; one of the synthesiser's has the very same samples.
        same_drums: The same drums under other notes.
        bpm: Its tempo, where it is known.
        stereo: The mix before its channels were joined, shape (samples, 2).
        downbeats: Its bars, in seconds; empty where they are not known.
    """

    name: str
    mix: Mono
    instrumental: Mono | None = None
    other: Mono | None = None
    same_drums: Mono | None = None
    bpm: float | None = None
    stereo: Mono | None = None
    downbeats: tuple[float, ...] = ()


def _plan(seed: int) -> SongPlan:
    style = ("rock", "four", "shuffle", "broken")[seed % 4]
    bpm = (112.0, 124.0, 92.0, 168.0, 84.3, 101.5)[seed % 6]
    parts = tuple(replace(p, seed=p.seed + 20 * seed, style=style) for p in PLAN.parts)
    return replace(PLAN, bpm=bpm, parts=parts)


def _mono(plan: SongPlan) -> Mono:
    return np.asarray(play(plan).audio.mean(axis=1), dtype=np.float32)


def made_original(seed: int) -> Original:
    """A song of the project's synthesiser."""
    plan = _plan(seed)
    bare = tuple(replace(p, lead=()) for p in plan.parts)
    others = {"Am": "Dm", "F": "Em", "C": "F", "G": "Am", "Dm": "C", "Em": "G"}
    notes = tuple(
        replace(
            p,
            chords=("G", "C") if p.chords == ("Am", "F") else tuple(others[c] for c in p.chords),
            lead=tuple((a, b, n + 3, v) for a, b, n, v in reversed(p.lead)),
        )
        for p in plan.parts
    )
    strokes = tuple(replace(p, seed=p.seed + 700) for p in notes)
    played = play(plan)
    stereo = np.asarray(played.audio, np.float32)
    return Original(
        f"made {seed}", np.asarray(stereo.mean(axis=1), np.float32), _mono(replace(plan, parts=bare)),
        _mono(replace(plan, parts=strokes)), _mono(replace(plan, parts=notes)), plan.bpm, stereo,
        tuple(played.downbeats_s),
    )  # fmt: skip


def folder_originals(folder: Path, half: str = "both") -> Iterator[Original]:
    """Every song of a folder, or of one half of them by their names; each is the decoy of the one after it.

    Bars are read from a truth file of the same name, where there is one.
    """
    endings = {".wav", ".flac", ".mp3", ".m4a", ".ogg", ".opus", ".aac", ".aif", ".aiff"}
    files = sorted(p for p in folder.iterdir() if p.suffix.lower() in endings)
    if half != "both":
        files = [p for p in files if (sha256(p.stem.encode()).digest()[0] % 2 == 0) == (half == "first")]
    stereo = [_read(p) for p in files]
    for i, (path, sound) in enumerate(zip(files, stereo, strict=True)):
        told = path.with_suffix(".json")
        truth = json.loads(told.read_text()) if told.exists() else {}
        other = np.asarray(stereo[i - 1].mean(axis=1), np.float32) if len(files) > 1 else None
        yield Original(
            path.stem, np.asarray(sound.mean(axis=1), np.float32), other=other,
            stereo=sound if sound.shape[1] == 2 else None, downbeats=tuple(truth.get("downbeats", ())),
        )  # fmt: skip


def _read(path: Path) -> Mono:
    sound, rate = read_sound(path)
    return np.asarray(soxr.resample(sound, rate, RATE), np.float32)


def through_codec(sound: Mono, codec: str, bit_rate: int, suffix: str) -> Mono:
    """Encode and decode, as a cheap camera does; sample 0 stays sample 0."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"take{suffix}"
        with av.open(str(path), "w") as container:
            stream = container.add_stream(codec, rate=RATE)
            stream.layout = "mono"  # type: ignore[union-attr]
            stream.bit_rate = bit_rate  # type: ignore[union-attr]
            frame = av.AudioFrame.from_ndarray((sound[None] * 32767).astype(np.int16), "s16", "mono")
            frame.rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
            for packet in (*stream.encode(frame), *stream.encode(None)):  # type: ignore[union-attr]
                container.mux(packet)
        return spooled_take(path, 0.0, RATE, Path(folder))[:]


def write_sound(path: Path, sound: Mono, seconds: float) -> None:
    """Write sound over and over until it is so long, as AAC of 128 kbit/s, never holding more than one of it."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("aac", rate=RATE)
        stream.layout, stream.bit_rate = "mono", 128_000  # type: ignore[union-attr]
        at = 0
        while at < seconds * RATE:
            for start in range(0, len(sound), RATE):
                block = np.ascontiguousarray(sound[None, start : start + RATE])
                frame = av.AudioFrame.from_ndarray(block, "fltp", "mono")
                frame.rate, frame.pts, frame.time_base = RATE, at, Fraction(1, RATE)
                container.mux(stream.encode(frame))  # type: ignore[union-attr]
                at += block.shape[1]
                if at >= seconds * RATE:
                    break
        container.mux(stream.encode(None))  # type: ignore[union-attr]


def faster(sound: Mono, speed: float) -> Mono:
    """Played ``speed`` times as fast, pitch moving along."""
    return np.asarray(soxr.resample(sound, RATE * speed, RATE), dtype=np.float32)


def click(seconds: float, bpm: float) -> Mono:
    """A click track, the first beat of four higher."""
    out = np.zeros(int(seconds * RATE), np.float32)
    times = np.arange(int(0.02 * RATE)) / RATE
    for beat in range(int(seconds * bpm / 60)):
        at = int(beat * 60 / bpm * RATE)
        tone = np.sin(2 * np.pi * (1_000 if beat % 4 else 1_500) * times) * np.exp(-times / 0.004)
        out[at : at + len(tone)] += tone[: len(out) - at]
    return out


def equal_places(song: Mono, start_s: float, end_s: float) -> tuple[float, ...]:
    """Every song time at which the clean song holds what it holds from ``start_s`` to ``end_s``, that one included."""
    low = soxr.resample(song, RATE, 8_000)
    piece = low[int(start_s * 8_000) : int(end_s * 8_000)]
    row = correlate(low, piece, mode="valid", method="fft")
    power = np.convolve(np.concatenate([[0.0], low.astype(float) ** 2]).cumsum(), [1], "same")
    power = power[len(piece) :] - power[: -len(piece)]
    score = row / np.sqrt(np.maximum(power[: len(row)] * float((piece**2).sum()), 1e-12))
    places = []
    while score.max() > EQUAL:
        i = int(np.argmax(score))
        places.append(i / 8_000)
        score[max(0, i - 4_000) : i + 4_000] = 0
    return tuple(sorted(places))


class Maker:
    """Makes takes of one song, the same ones for the same seed."""

    def __init__(self, original: Original, seed: int) -> None:
        self.rng = np.random.default_rng(seed)
        self.original, self.song, self.seed = original, original.mix, seed
        self.length = len(self.song) / RATE

    def talk(self, seconds: float) -> Mono:
        """People on the set."""
        return 0.2 * chatter(seconds, RATE, int(self.rng.integers(1 << 30)))

    def part(self, start: float, end: float) -> Mono:
        """A stretch of the song."""
        return self.song[int(start * RATE) : int(end * RATE)]

    def heard(self, *parts: Mono, room: Room | None = None) -> Mono:
        """Record parts, one after the other, with the camera."""
        usual = Room(self.rng.uniform(0.2, 0.8), self.rng.uniform(-30, -12))
        return record(np.concatenate(parts), RATE, room or usual, int(self.rng.integers(1 << 20)))

    def whole(self, kind: str, room: Room | None = None, after: Callable[[Mono], Mono] = lambda x: x) -> Case:
        """The whole song after some talk."""
        head = float(self.rng.uniform(1, 9))
        sound = after(self.heard(self.talk(head), self.song, self.talk(3), room=room))
        return Case(kind, sound, "locked", (TruePass(head, head + self.length, 0.0),))

    def piece(self, kind: str, seconds: float) -> Case:
        """A stretch amid talk: locked, or a choice where the song repeats it."""
        start = float(self.rng.uniform(2, self.length - seconds - 2))
        sound = self.heard(self.talk(6), self.part(start, start + seconds), self.talk(6))
        equal = equal_places(self.song, start, start + seconds)
        status = "locked" if len(equal) < 2 else "choose"
        return Case(kind, sound, status, (TruePass(6.0, 6.0 + seconds, start),), equal)

    def clocked(self, kind: str, ppm: float) -> Case:
        """The whole song, recorded by a camera whose clock is off."""
        head, rate = float(self.rng.uniform(1, 9)), 1 + ppm * 1e-6
        sound = drift(self.heard(self.talk(head), self.song), RATE, ppm)
        return Case(kind, sound, "locked", (TruePass(head / rate, (head + self.length) / rate, 0.0, rate),))

    def fast(self, kind: str, speed: float, change: Callable[[Mono, float], Mono], seconds: float) -> Case:
        """A take to playback at another speed."""
        start = float(self.rng.uniform(0, max(0.1, self.length - seconds)))
        end = min(self.length, start + seconds)
        played = change(self.part(start, end), speed)
        sound = self.heard(self.talk(3), played, self.talk(2))
        truth = TruePass(3.0, 3.0 + (end - start) / speed, start, speed)
        equal = equal_places(self.song, start, end)
        return Case(kind, sound, "locked" if len(equal) < 2 else "choose", (truth,), equal)

    def restarted(self, kind: str, stretches: tuple[tuple[float, float], ...]) -> Case:
        """Playback stopped and started again."""
        parts, passes, at = [self.talk(2)], [], 2.0
        for a, b in stretches:
            gap = float(self.rng.uniform(2.5, 6))
            parts += [self.part(a, b), self.talk(gap)]
            passes.append(TruePass(at, at + b - a, a))
            at += b - a + gap
        return Case(kind, self.heard(*parts), "locked", tuple(passes))


def cases(original: Original, seed: int) -> Iterator[Case]:
    """Takes of every kind of one song."""
    m = Maker(original, seed)
    rng, length = m.rng, m.length
    yield m.whole("full")
    yield m.whole("noise -6 dB, 1.2 s", Room(1.2, 6.0, None, direct_db=0))
    yield m.whole("talk over, pumping", Room(0.8, -15, 2.0, pumping=0.8))
    yield m.whole("clipped", Room(0.5, -25, clip=0.15))
    yield m.whole("telephone", Room(0.6, -15, low_hz=400, high_hz=3000))
    yield m.whole("upside down", None, np.negative)
    yield m.whole("AAC 24 kbit/s", None, lambda x: through_codec(x, "aac", 24_000, ".m4a"))
    yield m.whole("Opus 12 kbit/s", None, lambda x: through_codec(x, "libopus", 12_000, ".ogg"))
    yield m.whole("buried -12 dB, echo", Room(1.2, 12.0, None, direct_db=-3))
    yield m.piece("35 s", 35)
    yield m.piece("10 s", 10)
    a = float(rng.uniform(0, 4))
    third = length / 3
    yield m.restarted("two passes", ((a, a + third), (a + 0.6 * third, a + 1.7 * third)))
    yield m.restarted("section three times", tuple((third * 0.9, third * 0.9 + 22) for _ in range(3)))
    yield m.clocked("drift 20-200 ppm", float(rng.choice([-1, 1]) * rng.uniform(20, 200)))
    yield m.clocked("pull-down 0.1 %", float(rng.choice([-1000, 1000])))
    for _ in range(2):
        speed = float(rng.choice([0.5, 2.0, 1.25, 0.75, 4 / 3, 25 / 24, rng.uniform(0.55, 1.9)]))
        yield m.fast("speed, pitch moved", speed, faster, float(rng.uniform(25, 70)))
        speed = float(rng.choice([0.5, 2.0, 1.5, 0.8, rng.uniform(0.55, 1.9)]))
        yield m.fast("speed, pitch kept", speed, lambda x, v: stretch(x, RATE, v), float(rng.uniform(25, 70)))
    if original.instrumental is not None:
        sound = m.heard(m.talk(4), original.instrumental)
        yield Case("instrumental", sound, "locked", (TruePass(4.0, 4.0 + length, 0.0),))
    extra = min(9.0, length / 4)
    sound = m.heard(m.talk(2), faster(m.part(length / 2, length / 2 + extra), 0.87), m.song)
    yield Case("longer intro", sound, "locked", (TruePass(2 + extra / 0.87, 2 + extra / 0.87 + length, 0.0),))
    if original.other is not None:
        other = stretch(faster(original.other, 1.07), RATE, 1 / 1.07)
        yield Case("another song, its tempo", m.heard(m.talk(2), other), "unmatched")
        yield Case("another song, faster", m.heard(faster(original.other, 1.23)), "unmatched")
    if original.same_drums is not None and original.other is not None:
        yield Case("another, same samples", m.heard(m.talk(2), original.other), "unmatched")
        yield Case("another, same drums", m.heard(m.talk(2), original.same_drums), "unmatched")
    if original.bpm is not None:
        yield Case("click at its tempo", m.heard(click(60, original.bpm)), "unmatched")
    yield Case("talk only", m.heard(m.talk(90)), "unmatched")
    yield Case("room tone", (1e-3 * rng.standard_normal(RATE * 40)).astype(np.float32), "unmatched")
    yield Case("no sound", np.zeros(RATE * 20, np.float32), "silent")
