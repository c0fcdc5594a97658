"""Takes as hard as shoots make them, with known truth: bad playback, loud places, songs cut differently, short bits."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
import scipy
import soxr
from takes import (
    RATE,
    Case,
    Maker,
    Mono,
    Original,
    TruePass,
    equal_places,
    faster,
    through_codec,
)

from zembi.demo.camera import Room, drift, stretch

#: Length of song that most takes hold, in seconds.
_USUAL_S = 75.0
#: A part that is left out, or comes again, has so many bars.
_BARS = (4, 8, 16)
_ROOM = Room(0.6, -22)


def _rms(x: Mono) -> float:
    return float(np.sqrt(np.mean(x.astype(float) ** 2))) + 1e-12


def beside(sound: Mono, other: Mono, db: float) -> Mono:
    """A sound with another over it, so many dB above it."""
    over = np.resize(other, len(sound))
    return np.asarray(sound + over / _rms(over) * _rms(sound) * 10 ** (db / 20), np.float32)


def loudspeaker(sound: Mono) -> Mono:
    """A small loudspeaker, driven too hard."""
    sos = scipy.signal.butter(2, [350, 5500], "band", fs=RATE, output="sos")
    x = scipy.signal.sosfilt(sos, sound)
    return np.asarray(np.tanh(4 * x / (np.abs(x).max() + 1e-9)), np.float32)


def gain_control(sound: Mono) -> Mono:
    """A phone's automatic gain: fast down, slow up, 12 dB deep."""
    block = RATE // 100
    power = np.sqrt(np.add.reduceat(sound.astype(float) ** 2, np.arange(0, len(sound), block)) / block) + 1e-4
    level, held = np.empty(len(power)), float(power[0])
    for k, p in enumerate(power):
        held += (p - held) * (0.4 if p > held else 0.01)
        level[k] = held
    gain = np.clip(np.median(level) / level, 0.25, 4)
    return np.asarray(
        sound * np.interp(np.arange(len(sound)) / block, np.arange(len(gain)), gain), np.float32
    )


def singing(seconds: float, rng: np.random.Generator) -> Mono:
    """Somebody who sings along beside the tune: harmonic tones with vibrato, in notes of their own."""
    n = int(seconds * RATE)
    out, at = np.zeros(n), 0
    while at < n:
        count = min(n - at, int(rng.uniform(0.2, 1.1) * RATE))
        t = np.arange(count) / RATE
        pitch = 220 * 2 ** (rng.integers(-5, 15) / 12) * (1 + 0.012 * np.sin(2 * np.pi * 5.5 * t))
        phase = 2 * np.pi * np.cumsum(pitch) / RATE
        tone = sum(np.sin(k * phase) / k for k in range(1, 12))
        out[at : at + count] = tone * np.minimum(1, np.minimum(t, t[::-1]) / 0.03)
        at += count + int(rng.uniform(0.02, 0.4) * RATE)
    return out.astype(np.float32)


def claps(seconds: float, rng: np.random.Generator) -> Mono:
    """People who clap, more or less together."""
    n = int(seconds * RATE)
    out = np.zeros(n)
    noise = rng.standard_normal(RATE // 20) * np.exp(-np.arange(RATE // 20) / (0.006 * RATE))
    for at in np.arange(0.3, seconds - 0.2, rng.uniform(0.4, 0.7)):
        for _ in range(5):
            first = int((at + rng.normal(0, 0.02)) * RATE)
            out[max(0, first) : max(0, first) + len(noise)] += noise[
                : max(0, n - max(0, first))
            ] * rng.uniform(0.4, 1)
    return out.astype(np.float32)


def wind(seconds: float, rng: np.random.Generator) -> Mono:
    """Gusts in the microphone."""
    n = int(seconds * RATE)
    low = scipy.signal.sosfilt(
        scipy.signal.butter(2, 300, fs=RATE, output="sos"), rng.standard_normal(n + RATE)
    )[RATE:]
    gusts = np.interp(
        np.arange(n) / RATE,
        np.arange(0, seconds + 2, 0.7),
        rng.gamma(1.0, 1.0, int((seconds + 2) / 0.7) + 1)[: len(np.arange(0, seconds + 2, 0.7))],
    )
    return np.asarray(low * gusts, np.float32)


def hum(seconds: float, rng: np.random.Generator) -> Mono:
    """A generator near by."""
    t = np.arange(int(seconds * RATE)) / RATE
    turns = rng.uniform(45, 60)
    return np.asarray(
        sum(
            rng.uniform(0.3, 1) * np.sin(2 * np.pi * k * turns * t + rng.uniform(0, 6)) for k in range(1, 40)
        ),
        np.float32,
    )


def cars(seconds: float, rng: np.random.Generator) -> Mono:
    """Cars that pass."""
    n = int(seconds * RATE)
    sos = scipy.signal.butter(1, [80, 1800], "band", fs=RATE, output="sos")
    noise = scipy.signal.sosfilt(sos, rng.standard_normal(n))
    t, level = np.arange(n) / RATE, np.full(n, 0.15)
    for at in np.arange(rng.uniform(0, 4), seconds, rng.uniform(5, 9)):
        level += np.exp(-(((t - at) / rng.uniform(0.8, 2.0)) ** 2))
    return np.asarray(noise * level, np.float32)


def crowd(seconds: float, rng: np.random.Generator, talk: Callable[[float], Mono]) -> Mono:
    """Many people at once."""
    return np.asarray(sum(np.roll(talk(seconds), int(rng.integers(1, RATE))) for _ in range(6)), np.float32)


@dataclass(frozen=True)
class _Wow:
    """A player whose speed is off by a share and sways."""

    off: float
    sway: float = 0.0
    turns_s: float = 20.0

    def play(self, sound: Mono) -> Mono:
        n = int(len(sound) / (1 + self.off))
        t = np.arange(n) / RATE
        at = (1 + self.off) * t + self.sway * self.turns_s / (2 * np.pi) * np.sin(
            2 * np.pi * t / self.turns_s
        )
        wide = soxr.resample(sound, RATE, 2 * RATE)
        return np.interp(at * 2 * RATE, np.arange(len(wide)), wide).astype(np.float32)


class HardMaker(Maker):
    """Makes hard takes of one song."""

    def some(self, seconds: float = _USUAL_S) -> tuple[float, float]:
        """A stretch of the song."""
        length = min(seconds, self.length - 4)
        start = float(self.rng.uniform(1, self.length - length - 1))
        return start, start + length

    def one(
        self, kind: str, change: Callable[[Mono], Mono] = lambda x: x, room: Room = _ROOM,
        mixed: Mono | None = None, seconds: float = _USUAL_S,
    ) -> Case:  # fmt: skip
        """A stretch of the song, or of another mix of it, changed after it was recorded."""
        start, end = self.some(seconds)
        head = float(self.rng.uniform(2, 6))
        song = self.song if mixed is None else mixed
        part = song[int(start * RATE) : int(end * RATE)]
        sound = change(self.heard(self.talk(head), part, self.talk(3), room=room))
        equal = equal_places(self.song, start, end)
        truth = TruePass(head, head + end - start, start)
        return Case(kind, sound, "locked" if len(equal) < 2 else "choose", (truth,), equal)

    def under(self, kind: str, other: Callable[[float], Mono], db: float) -> Case:
        """A stretch of the song with something over all of the take."""
        return self.one(kind, lambda x: beside(x, other(len(x) / RATE), db))

    def off_speed(
        self, kind: str, wow: _Wow, room: Room = _ROOM, over: Mono | None = None, db: float = 0
    ) -> Case:
        """A player that runs off speed."""
        start, end = self.some()
        played = wow.play(self.part(start, end))
        sound = self.heard(self.talk(3), played, self.talk(3), room=room)
        if over is not None:
            sound = beside(sound, over, db)
        return Case(kind, sound, "locked", (TruePass(3.0, 3.0 + len(played) / RATE, start, 1 + wow.off),))

    def scrubbed(self, kind: str) -> Case:
        """Somebody who looks for a place: many short stretches, hardly anything between them."""
        parts, passes, at = [self.talk(2)], [], 2.0
        for _ in range(int(self.rng.integers(5, 9))):
            seconds = float(self.rng.uniform(5, 15))
            start = float(self.rng.uniform(0, self.length - seconds))
            gap = float(self.rng.uniform(0.2, 2.0))
            parts += [self.part(start, start + seconds), self.talk(gap)]
            passes.append(TruePass(at, at + seconds, start))
            at += seconds + gap
        return Case(kind, self.heard(*parts), "locked", tuple(passes))

    def bars(self) -> list[float]:
        """Downbeats, made up at the usual tempo where they are not known."""
        known = self.original.downbeats
        return (
            list(known)
            if len(known) > 40
            else list(np.arange(0, self.length - 1, 240 / (self.original.bpm or 120)))
        )

    def cut_on_set(self, kind: str, again: bool) -> Case:
        """The song with bars left out, or with a part played twice; on its bars, as an editor would cut it."""
        bars = self.bars()
        for _ in range(200):
            count = int(self.rng.choice(_BARS))
            k = int(self.rng.integers(4, max(5, len(bars) - count - 5)))
            if k + count >= len(bars):
                continue
            a, b = bars[k], bars[k + count]
            if a > 15 and self.length - b > 15:
                break
        first, second = max(0.0, a - 45), min(self.length, (a if again else b) + 45)
        until, since = (b, a) if again else (a, b)
        until = min(until, first + 70)
        joint = 3.0 + until - first
        passes = (
            TruePass(3.0, joint, first), TruePass(joint, joint + max(second, since + 15) - since, since),
        )  # fmt: skip
        sound = self.heard(
            self.talk(3),
            self.part(first, until),
            self.part(since, max(second, since + 15)),
            self.talk(3),
            room=_ROOM,
        )
        return Case(kind, sound, "locked", passes)

    def by_another_clock(self, kind: str, ppm: float) -> Case:
        """A camera whose clock is off."""
        case, rate = self.one(kind), 1 + ppm * 1e-6
        truth = case.passes[0]
        passes = (TruePass(truth.start_s / rate, truth.end_s / rate, truth.song_s, rate),)
        return Case(kind, drift(case.sound, RATE, ppm), case.status, passes, case.equal_s)

    def not_it(self, kind: str, other: Mono) -> Case:
        """A take of something else."""
        return Case(kind, self.heard(self.talk(2), other, room=_ROOM), "unmatched")

    def bit(self, kind: str, seconds: float) -> Case:
        """A few seconds of the song amid talk."""
        start, end = self.some(seconds)
        sound = self.heard(self.talk(4), self.part(start, end), self.talk(4), room=_ROOM)
        equal = equal_places(self.song, start, end)
        return Case(
            kind,
            sound,
            "locked" if len(equal) < 2 else "choose",
            (TruePass(4.0, 4.0 + end - start, start),),
            equal,
        )


def other_mixes(original: Original) -> dict[str, Callable[[], Mono]]:
    """Mixes of the song that are not the one it is lined up to, each with what makes it."""
    mix, peak = original.mix, float(np.abs(original.mix).max()) + 1e-9

    def low() -> Mono:
        sos = scipy.signal.butter(2, 700, fs=RATE, output="sos")
        return np.asarray(scipy.signal.sosfiltfilt(sos, mix), np.float32)

    mixes: dict[str, Callable[[], Mono]] = {
        "mix, other balance": lambda: np.asarray(1.6 * mix - 1.3 * low(), np.float32),
        "mix, rough": lambda: np.asarray(np.tanh(3 * mix / peak) - 0.5 * low() / peak, np.float32),
    }
    stereo = original.stereo
    if stereo is not None and _rms(stereo[:, 0] - stereo[:, 1]) > 0.05 * _rms(mix):
        mixes["mix without its middle"] = lambda: np.ascontiguousarray(stereo[:, 0] - stereo[:, 1])
        mixes["one channel only"] = lambda: np.ascontiguousarray(stereo[:, 0])
    return mixes


def hard_cases(original: Original, seed: int) -> Iterator[tuple[str, Callable[[], Case]]]:
    """Hard takes of every kind of one song, each with what makes it; each is the same whichever others are made."""

    def making(make: Callable[[HardMaker, np.random.Generator], Case], number: int) -> Callable[[], Case]:
        def made() -> Case:
            m = HardMaker(original, 1000 * seed + number)
            return make(m, m.rng)

        return made

    for number, (kind, make) in enumerate(_kinds(original)):
        yield kind, making(make, number)


_Make = Callable[[HardMaker, np.random.Generator], Case]


def _kinds(original: Original) -> Iterator[tuple[str, _Make]]:
    def either(rng: np.random.Generator, low: float, high: float) -> float:
        return float(rng.choice([-1, 1]) * rng.uniform(low, high))

    yield (
        kind := "playback",
        lambda m, _r: m.one("playback", lambda x: through_codec(loudspeaker(x), "aac", 48_000, ".m4a")),
    )
    yield (
        kind,
        lambda m, _r: m.one(
            "playback", lambda x: through_codec(gain_control(x), "aac", 64_000, ".m4a"), Room(0.8, -12)
        ),
    )
    yield kind, lambda m, _r: m.one("playback", room=Room(0.5, -18, pumping=0.9, clip=0.1))
    for over in (wind, hum, cars):
        yield (
            "wind, hum, cars",
            lambda m, r, over=over: m.under("wind, hum, cars", lambda s: over(s, r), float(r.uniform(0, 12))),
        )
    for _ in range(3):
        yield "hall", lambda m, r: m.one("hall", room=Room(2.5, -15, direct_db=-float(r.uniform(6, 10))))
    for over in (singing, singing, claps):
        yield (
            "live voice, claps",
            lambda m, r, over=over: m.under(
                "live voice, claps", lambda s: over(s, r), float(r.uniform(0, 10))
            ),
        )
    for db in (12, 18, 22):
        name = f"talk {db} dB above"
        yield name, lambda m, _r, name=name, db=db: m.one(name, room=Room(0.5, -20, float(db)))
    for _ in range(2):
        yield "scrubbed", lambda m, _r: m.scrubbed("scrubbed")
    for low, high, sway in ((0.001, 0.006, 0.0), (0.0009, 0.002, 0.0), (0.001, 0.003, 0.0006)):
        yield (
            "player off speed",
            lambda m, r, low=low, high=high, sway=sway: m.off_speed(
                "player off speed", _Wow(either(r, low, high), sway)
            ),
        )
    yield "camera clock", lambda m, r: m.by_another_clock("camera clock", either(r, 30, 80))
    for speed in (1.2, 1.5, 2.0):
        name = "faster, pitch moved"
        yield name, lambda m, _r, v=speed: m.fast("faster, pitch moved", v, faster, _USUAL_S)
        yield (
            "faster, pitch kept",
            lambda m, _r, v=speed: m.fast(
                "faster, pitch kept", v, lambda x, w: stretch(x, RATE, w), _USUAL_S
            ),
        )
    for seconds in (3, 3, 5, 8):
        yield f"{seconds} s", lambda m, _r, s=seconds: m.bit(f"{s} s", s)
    for name in other_mixes(original):
        yield name, lambda m, _r, name=name: m.one(name, mixed=other_mixes(original)[name]())
    for again in (False, True, False, True):
        name = "a part twice" if again else "bars left out"
        yield name, lambda m, _r, name=name, again=again: m.cut_on_set(name, again)
    yield (
        "hall, crowd, off speed",
        lambda m, r: m.off_speed(
            "hall, crowd, off speed", _Wow(either(r, 0.001, 0.004)), Room(2.0, -15, direct_db=-6),
            crowd(_USUAL_S + 8, r, m.talk), 3.0,
        ),
    )  # fmt: skip
    if original.other is not None:
        other = original.other[: int(_USUAL_S * RATE)]
        yield "not the song", lambda m, _r: m.not_it("not the song", other)
        yield (
            "not the song",
            lambda m, _r: m.not_it("not the song", stretch(faster(other, 1.07), RATE, 1 / 1.07)),
        )
