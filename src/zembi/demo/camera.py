"""Simulation of a camera's microphone and of a song played from a speaker across a room. Seeded, so repeatable."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import av
import numpy as np
import scipy
import soxr
from numpy.typing import NDArray

Mono = NDArray[np.float32]


@dataclass(frozen=True)
class Room:
    """A recording situation.

    Attributes:
        reverb_s: Time for the room to fade by 60 dB; 0 for none.
        noise_db: Room noise relative to the song; None for none.
        talk_db: Somebody talking over it, relative to the song; None for none.
        low_hz, high_hz: What the microphone passes.
        pumping: Depth 0..1 of automatic gain.
        clip: Level at which the recording clips, relative to its peak; None for none.
        direct_db: Direct sound relative to the room's sound.
    """

    reverb_s: float = 0.5
    noise_db: float | None = -25.0
    talk_db: float | None = None
    low_hz: float = 110.0
    high_hz: float = 9_000.0
    pumping: float = 0.0
    clip: float | None = None
    direct_db: float = 3.0


def _rms(x: NDArray[Any]) -> float:
    return float(np.sqrt(np.mean(x**2))) + 1e-12


def chatter(seconds: float, rate: int, seed: int) -> Mono:
    """Something like talk: a wandering buzz through moving resonances, in syllables with pauses."""
    rng = np.random.default_rng(seed)
    count = int(seconds * rate)
    out = np.zeros(count)
    at = 0.0
    while at < seconds:
        length = rng.uniform(0.08, 0.3)
        if rng.random() < 0.75:
            n = int(length * rate)
            t = np.arange(n) / rate
            pitch = rng.uniform(95, 210) * (1 + 0.1 * np.sin(2 * np.pi * rng.uniform(1, 4) * t))
            buzz = np.sign(np.sin(2 * np.pi * np.cumsum(pitch) / rate)) + 0.3 * rng.standard_normal(n)
            low = rng.uniform(250, 800)
            sos = scipy.signal.butter(1, [low, low * rng.uniform(2.2, 4.5)], "band", fs=rate, output="sos")
            sound = scipy.signal.sosfilt(sos, buzz) * np.hanning(n)
            begin = int(at * rate)
            end = min(count, begin + n)
            out[begin:end] += sound[: end - begin]
        at += length * rng.uniform(0.8, 1.6)
    return out.astype(np.float32)


def impulse(room: Room, rate: int, seed: int) -> Mono:
    """The room's response; the direct sound is its first sample."""
    rng = np.random.default_rng(seed)
    if room.reverb_s <= 0:
        return np.ones(1, np.float32)
    count = int(room.reverb_s * 1.2 * rate)
    t = np.arange(count) / rate
    tail = rng.standard_normal(count) * 10 ** (-3 * t / room.reverb_s)
    tail[: int(0.004 * rate)] = 0
    for _ in range(6):  # early reflections
        k = int(rng.uniform(0.005, 0.05) * rate)
        if k < count:
            tail[k] += rng.choice([-1, 1]) * rng.uniform(2, 6)
    tail /= np.sqrt(np.sum(tail**2))
    tail *= 10 ** (-room.direct_db / 20)
    tail[0] += 1.0
    return tail.astype(np.float32)


def record(song: Mono, rate: int, room: Room, seed: int = 0) -> Mono:
    """Record mono ``song`` in a room; same length, the direct sound not delayed."""
    rng = np.random.default_rng(seed + 1000)
    heard = scipy.signal.oaconvolve(song, impulse(room, rate, seed))[: len(song)]
    level = _rms(heard[np.abs(heard) > 1e-4]) if np.any(np.abs(heard) > 1e-4) else 0.1
    if room.noise_db is not None:
        noise = np.cumsum(rng.standard_normal(len(song)))
        noise -= scipy.signal.sosfilt(scipy.signal.butter(1, 60, "low", fs=rate, output="sos"), noise)
        noise = noise / _rms(noise) + 0.5 * rng.standard_normal(len(song))
        heard = heard + noise / _rms(noise) * level * 10 ** (room.noise_db / 20)
    if room.talk_db is not None:
        talk = np.resize(chatter(len(song) / rate + 0.1, rate, seed + 7), len(song))
        heard = heard + talk / _rms(talk) * level * 10 ** (room.talk_db / 20)
    top = min(room.high_hz, rate * 0.45)
    heard = scipy.signal.sosfilt(
        scipy.signal.butter(2, [room.low_hz, top], "band", fs=rate, output="sos"), heard
    )
    if room.pumping:
        envelope = (
            np.sqrt(np.maximum(0, scipy.ndimage.uniform_filter1d(heard**2, rate // 5, mode="constant")))
            + 1e-6
        )
        heard = heard * (np.median(envelope) / envelope) ** room.pumping
    heard = heard / max(float(np.abs(heard).max()), 1e-9)
    if room.clip is not None:
        heard = np.clip(heard, -room.clip, room.clip) / room.clip
    return np.asarray(0.6 * heard, dtype=np.float32)


def drift(sound: Mono, rate: int, ppm: float) -> Mono:
    """Resample as a camera whose clock runs ``ppm`` slow records it: the take is shorter by that much."""
    return np.asarray(soxr.resample(sound, rate * (1 + ppm * 1e-6), rate), dtype=np.float32)


def stretch(sound: Mono, rate: int, speed: float) -> Mono:
    """Play ``speed`` times as fast (0.5 to 2) with the pitch kept: similar pieces overlapped, by FFmpeg's atempo."""
    graph = av.filter.Graph()
    source = graph.add_abuffer(format="flt", sample_rate=rate, layout="mono", time_base=Fraction(1, rate))
    tempo, sink = graph.add("atempo", f"{speed}"), graph.add("abuffersink")
    source.link_to(tempo)
    tempo.link_to(sink)
    graph.configure()
    parts: list[Mono] = []

    def drain() -> None:
        while True:
            try:
                parts.append(np.asarray(graph.pull().to_ndarray().ravel(), np.float32))
            except (BlockingIOError, EOFError):
                return

    for at in range(0, len(sound), rate):
        block = np.ascontiguousarray(sound[None, at : at + rate], dtype=np.float32)
        frame = av.AudioFrame.from_ndarray(block, "flt", "mono")
        frame.sample_rate, frame.pts, frame.time_base = rate, at, Fraction(1, rate)
        graph.push(frame)
        drain()
    graph.push(None)
    drain()
    return np.concatenate(parts)
