"""A small synthesiser: drums, bass, chords and a voice-like lead, played from a plan with known truth."""

from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

Audio = NDArray[np.float32]

CHORDS: dict[str, tuple[int, ...]] = {
    "Am": (57, 60, 64), "F": (53, 57, 60), "C": (48, 55, 64), "G": (55, 59, 62),
    "Dm": (50, 57, 65), "Em": (52, 59, 67),
}  # fmt: skip
VOWELS: dict[str, tuple[float, float, float, float]] = {
    # first three formants in Hz, and how far the mouth opens
    "a": (760.0, 1250.0, 2600.0, 1.0),
    "o": (480.0, 850.0, 2500.0, 0.75),
    "e": (520.0, 1850.0, 2550.0, 0.6),
    "i": (310.0, 2250.0, 2950.0, 0.35),
    "u": (330.0, 780.0, 2350.0, 0.25),
}


@dataclass(frozen=True)
class SongPart:
    """A section of the plan: its bars, the chord of each bar (cycled), and what plays."""

    name: str
    bars: int
    chords: tuple[str, ...]
    drums: str = "full"  # "none", "light" or "full"
    bass: bool = True
    pad: float = 0.5
    lead: tuple[
        tuple[float, float, int, str], ...
    ] = ()  # (beat in phrase, length in beats, MIDI note, vowel)
    lead_beats: int = 16
    level: float = 1.0
    seed: int = 0  # parts with the same seed and content sound the same, sample for sample
    bpm: float = 0.0  # 0: the song's
    metre: int = 0  # beats in a bar; 0: the song's
    sway: float = 0.0  # how freely it is played: share by which beats may be longer or shorter
    style: str = "rock"  # how full drums play: "rock", "four", "half", "shuffle", "six" or "broken"


@dataclass(frozen=True)
class SongPlan:
    """A whole made-up song."""

    bpm: float
    parts: tuple[SongPart, ...]
    metre: int = 4
    sample_rate: int = 48_000
    head_s: float = 0.35  # quiet before the first beat
    tail_s: float = 1.2


@dataclass(frozen=True)
class Performance:
    """A song as played, with what is true about it."""

    audio: Audio  # (samples, 2)
    sample_rate: int
    beats_s: list[float]
    downbeats_s: list[float]
    sections: list[tuple[float, float, str]]
    syllables: list[tuple[float, float, float]] = field(default_factory=list)  # start, end, mouth 0..1


def _envelope(count: int, attack: int, release: int) -> NDArray[np.float64]:
    shape = np.ones(count)
    attack, release = min(attack, count // 2), min(release, count // 2)
    shape[:attack] = np.linspace(0, 1, attack, endpoint=False)
    if release:
        shape[-release:] *= np.linspace(1, 0, release)
    return shape


@lru_cache(maxsize=8)
def _design(order: int, hz: float | tuple[float, float], kind: str, rate: int) -> NDArray[np.float64]:
    return np.asarray(scipy.signal.butter(order, hz, kind, fs=rate, output="sos"))


def _filtered(
    sound: NDArray[np.float64], order: int, hz: float | tuple[float, float], kind: str, rate: int
) -> NDArray[np.float64]:
    return np.asarray(scipy.signal.sosfilt(_design(order, hz, kind, rate), sound))


@lru_cache(maxsize=1)
def kick(rate: int) -> NDArray[np.float64]:
    """A bass drum stroke."""
    t = np.arange(int(0.28 * rate)) / rate
    sweep = 48 + 130 * np.exp(-t * 34)
    body = np.sin(2 * np.pi * np.cumsum(sweep) / rate) * np.exp(-t * 11)
    click = np.exp(-t * 900) * 0.5
    return body + click


def snare(rate: int, rng: np.random.Generator) -> NDArray[np.float64]:
    """A snare stroke."""
    t = np.arange(int(0.22 * rate)) / rate
    noise = _filtered(rng.standard_normal(len(t)), 2, (700, 9000), "band", rate)
    return np.asarray(noise * np.exp(-t * 19) * 0.55 + np.sin(2 * np.pi * 192 * t) * np.exp(-t * 24) * 0.5)


def hat(rate: int, rng: np.random.Generator, *, open_: bool = False) -> NDArray[np.float64]:
    """A closed or open hi-hat stroke."""
    t = np.arange(int((0.3 if open_ else 0.07) * rate)) / rate
    noise = _filtered(rng.standard_normal(len(t)), 3, 6500, "high", rate)
    return np.asarray(noise * np.exp(-t * (12 if open_ else 60)) * 0.4)


def _hertz(note: float) -> float:
    return float(440.0 * 2 ** ((note - 69) / 12))


@lru_cache(maxsize=32)
def saw(note: float, seconds: float, rate: int, cutoff: float) -> NDArray[np.float64]:
    """A filtered sawtooth tone."""
    t = np.arange(int(seconds * rate)) / rate
    phase = (_hertz(note) * t) % 1.0
    wave = 2 * phase - 1
    return _filtered(wave, 2, cutoff, "low", rate)


@lru_cache(maxsize=64)
def voice(note: int, seconds: float, rate: int, vowel: str) -> NDArray[np.float64]:
    """A sung vowel: a pulse train with vibrato through three resonances."""
    t = np.arange(int(seconds * rate)) / rate
    bend = 1 + 0.006 * np.sin(2 * np.pi * 5.3 * t) * np.clip(t / 0.25, 0, 1) - 0.03 * np.exp(-t * 18)
    phase = np.cumsum(_hertz(note) * bend) / rate
    pulses = np.maximum(0, np.sin(2 * np.pi * phase)) ** 6 - 0.22
    out = np.zeros(len(t))
    for formant, gain in zip(VOWELS[vowel][:3], (1.0, 0.55, 0.25), strict=True):
        width = 90.0
        r = np.exp(-np.pi * width / rate)
        a = [1, -2 * r * np.cos(2 * np.pi * formant / rate), r * r]
        out += gain * scipy.signal.lfilter([1 - r], a, pulses)
    return out * _envelope(len(t), int(0.02 * rate), int(0.06 * rate))


def _add(track: NDArray[np.float64], at: int, sound: NDArray[np.float64], gain: float) -> None:
    end = min(len(track), at + len(sound))
    if at < end:
        track[at:end] += sound[: end - at] * gain


#: Strokes of a bar of four beats by style: (beat, "k"ick, "s"nare or "h"at, gain).
_PATTERNS: dict[str, tuple[tuple[float, str, float], ...]] = {
    "four": (
        *((b, "k", 0.95) for b in (0, 1, 2, 3)), (1, "s", 0.6), (3, "s", 0.6),
        *((b + 0.5, "h", 0.6) for b in (0, 1, 2, 3)),
    ),
    "half": (
        (0, "k", 0.95), (0.75, "k", 0.5), (2, "s", 0.9), (3.5, "k", 0.6), *((b / 2, "h", 0.4) for b in range(8)),
    ),
    "shuffle": (
        (0, "k", 0.95), (2, "k", 0.9), (1, "s", 0.8), (3, "s", 0.8), (1.667, "k", 0.5),
        *((b + o, "h", 0.5) for b in (0, 1, 2, 3) for o in (0, 0.667)),
    ),
    "broken": (
        (0, "k", 0.95), (1, "s", 0.8), (1.75, "s", 0.25), (2.25, "s", 0.25), (2.5, "k", 0.9), (3, "s", 0.8),
        *((b / 2, "h", 0.45) for b in range(8)),
    ),
}  # fmt: skip


def _pattern(part: SongPart, metre: int, bar: int) -> list[tuple[float, str, float]]:
    """The strokes of one bar."""
    if part.drums == "light":
        return [(0, "k", 0.6), *((float(b), "h", 0.5) for b in range(metre))]
    if part.style == "six":
        strokes = (
            [(0.0, "k", 0.95), (metre / 2, "s", 0.8)] if metre == 6 else [(0.0, "k", 0.95), (1.0, "s", 0.8)]
        )
        step = 1.0 if metre == 6 else 1 / 3
        return [
            *strokes,
            *((k * step, "h", 0.55 if k % 3 == 0 else 0.35) for k in range(round(metre / step))),
        ]
    if part.style in _PATTERNS:
        return [stroke for stroke in _PATTERNS[part.style] if stroke[0] < metre]
    strokes = []
    for beat in range(metre):
        on = beat in (0, 2) if metre == 4 else beat == 0
        strokes.append((float(beat), "k", 0.95) if on else (float(beat), "s", 0.8))
        if beat == 1 and bar % 2:
            strokes.append((1.5, "k", 0.7))
        strokes += [(float(beat), "h", 0.55), (beat + 0.5, "o" if beat == metre - 1 else "h", 0.4)]
    return strokes


def _play_drums(track: NDArray[np.float64], part: SongPart, starts: list[int], metre: int, rate: int) -> None:
    rng = np.random.default_rng(part.seed + 11)
    sounds = {
        "k": lambda: kick(rate),
        "s": lambda: snare(rate, rng),
        "h": lambda: hat(rate, rng),
        "o": lambda: hat(rate, rng, open_=True),
    }
    for bar in range(part.bars):
        for beat, kind, gain in _pattern(part, metre, bar):
            whole = bar * metre + int(beat)
            at = starts[whole] + int((beat - int(beat)) * (starts[whole + 1] - starts[whole]))
            _add(track, at, sounds[kind](), gain)


def _play_part(
    mix: NDArray[np.float64], part: SongPart, starts: list[int], metre: int, rate: int
) -> list[tuple[float, float, float]]:
    """Play one part into (samples, 2); ``starts`` holds each beat's first sample and the part's end."""
    mono = np.zeros(len(mix))
    wide = np.zeros(len(mix))
    syllables: list[tuple[float, float, float]] = []
    if part.drums != "none":
        _play_drums(mono, part, starts, metre, rate)
    for bar in range(part.bars):
        first, last = starts[bar * metre], starts[(bar + 1) * metre]
        notes = CHORDS[part.chords[bar % len(part.chords)]]
        seconds = (last - first) / rate
        for k, note in enumerate(notes):
            tone = (
                saw(note + 0.03 * k, seconds, rate, 1500)
                * _envelope(last - first, rate // 20, rate // 8)[: int(seconds * rate)]
            )
            _add(wide, first, tone, part.pad * 0.2 * (1 if k % 2 else -1))
            _add(mono, first, tone, part.pad * 0.2)
        if part.bass:
            for step in range(metre):
                at, until = starts[bar * metre + step], starts[bar * metre + step + 1]
                tone = saw(notes[0] - 12 if notes[0] > 50 else notes[0], (until - at) / rate * 0.9, rate, 420)
                _add(mono, at, tone * _envelope(len(tone), rate // 200, rate // 30), 0.34)
    beats = part.bars * metre
    for phrase in range(0, beats, part.lead_beats):
        for at_beat, length, note, vowel in part.lead:
            position = phrase + at_beat
            if position + length > beats:
                continue
            whole = int(position)
            step = starts[whole + 1] - starts[whole]
            at = starts[whole] + int((position - whole) * step)
            seconds = length * step / rate
            _add(mono, at, voice(note, seconds, rate, vowel), 0.4)
            syllables.append((at / rate, at / rate + seconds, VOWELS[vowel][3]))
    mix[:, 0] += part.level * (mono + wide)
    mix[:, 1] += part.level * (mono - wide)
    return syllables


def _beat_lengths(part: SongPart, plan: SongPlan) -> list[float]:
    """Length of each beat of a part in seconds: even, or swaying slowly as a player without a click does."""
    count = part.bars * (part.metre or plan.metre)
    step = 60 / (part.bpm or plan.bpm)
    if not part.sway:
        return [step] * count
    rng = np.random.default_rng(part.seed + 5)
    drift = np.cumsum(rng.standard_normal(count + 8))
    drift = np.convolve(drift, np.hanning(9) / np.hanning(9).sum(), mode="valid")
    drift = (drift - drift.mean()) / max(float(np.abs(drift - drift.mean()).max()), 1e-9)
    return [float(v) for v in step * (1 + part.sway * drift)]


def play(plan: SongPlan) -> Performance:
    """Perform a plan. The result is the same, sample for sample, at every call."""
    rate = plan.sample_rate
    lengths = [_beat_lengths(p, plan) for p in plan.parts]
    beats = plan.head_s + np.concatenate([[0.0], np.cumsum(np.concatenate(lengths))])
    length = int((beats[-1] + plan.tail_s) * rate)
    mix = np.zeros((length, 2))
    sections, syllables, downbeats, index = [], [], [], 0
    for part, steps in zip(plan.parts, lengths, strict=True):
        metre, count = part.metre or plan.metre, len(steps)
        origin = round(beats[index] * rate)
        # Each part is played from its own zero so that repeats are alike to the sample.
        exact = [round(v * rate) for v in np.concatenate([[0.0], np.cumsum(steps)])]
        room = np.zeros((exact[-1] + rate // 3, 2))
        syllables += [
            (a + origin / rate, b + origin / rate, m)
            for a, b, m in _play_part(room, part, exact, metre, rate)
        ]
        end = min(length, origin + len(room))
        mix[origin:end] += room[: end - origin]
        sections.append((float(beats[index]), float(beats[index + count]), part.name))
        downbeats += [float(b) for b in beats[index : index + count : metre]]
        index += count
    audio = np.tanh(mix * 0.55).astype(np.float32)
    return Performance(audio, rate, [float(b) for b in beats[:-1]], downbeats, sections, syllables)
