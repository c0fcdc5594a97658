"""Listening to a song: everything Zembi knows about it from its sound alone."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from zembi.core.song.attack import attack_rises
from zembi.core.song.bars import find_bars
from zembi.core.song.beats import Signs, track_beats
from zembi.core.song.hits import Hit, accented, band_attacks, hit_density
from zembi.core.song.loudness import HOP_S, energy_curve, loudness_of, true_peaks, weighted_power
from zembi.core.song.sections import SectionGuess, find_sections
from zembi.core.song.spectrum import RATE, Singles, describe
from zembi.core.song.stretches import TempoStretch
from zembi.core.song.strokes import find_strokes
from zembi.core.song.sureness import Doubt, Reason, Sureness, doubt_of, doubtful_passages, sureness
from zembi.core.song.tempo import FASTEST, SLOWEST
from zembi.core.song.turns import chord_changes, entries
from zembi.core.song.voice import voice_in_mix

#: Raise when results change, so that kept analyses are made again.
VERSION = 11
#: Tempi so far beyond those that are listened for are offered as the last only.
_BEYOND = 1.2


@dataclass(frozen=True)
class Reading:
    """A way to count the song: tempo, by how many beats the one is moved from the best reading, and what speaks for it."""

    tempo_bpm: float
    shift_beats: float
    score: float
    reason: str = ""


@dataclass(frozen=True)
class DoubtfulPassage:
    """A passage whose beats may be wrong though the song around is sure; song times in seconds, on beats.

    ``reason``: "free" where no tempo is kept, "unlike" where the music strikes otherwise than the click.
    """

    start_s: float
    end_s: float
    reason: Reason


@dataclass(frozen=True)
class FoundSection:
    """A section as found, in song seconds, with its repeat group."""

    start_s: float
    end_s: float
    label: str
    group: int
    bars: int


@dataclass(frozen=True)
class SongAnalysis:
    """Analysis of a song. Times are song seconds.

    ``doubtful`` are passages to look at. ``sure`` is about the grid as a whole; ``doubt`` says what it may be wrong about. ``division`` is 3 where a beat divides in three. ``lufs`` (momentary), ``short_term``, ``true_peaks`` (dBTP), ``energy``
    and ``voice`` (0..1) have a value every ``lufs_hop_s``.
    """

    duration_s: float
    tempo_bpm: float
    tempo_steady: bool
    tempo: list[TempoStretch]
    metre: int
    division: int
    sure: Sureness
    doubt: Doubt
    doubtful: list[DoubtfulPassage]
    readings: list[Reading]
    beats: list[float]
    downbeats: list[float]
    sections: list[FoundSection]
    hits: dict[str, list[Hit]]
    lufs_hop_s: float
    lufs: list[float]
    short_term: list[float]
    true_peaks: list[float]
    energy: list[float]
    voice: list[float]


def _readings(
    tempi: list[tuple[float, float]], bar_scores: list[float], first: int, signs: Signs
) -> list[Reading]:
    """Ways to count, the one used first, then the likeliest others with what speaks for each.

    Each tempo comes once before any comes again: how fast the song is is the first question.
    """
    best_bpm, best_score = tempi[0]
    surest = max(bar_scores, default=0.0)
    found = [Reading(best_bpm, 0.0, best_score)]
    for shift in range(1, len(bar_scores)):
        score = best_score * float(np.exp(bar_scores[(first + shift) % len(bar_scores)] - surest))
        found.append(Reading(best_bpm, float(shift), score, "this beat changes as much as the one does"))
    aside = float(np.exp(-signs.aside)) if signs.alike else 0.2
    found.append(Reading(best_bpm, 0.5, aside * best_score, "the strokes half-way are as clear"))
    for factor, reason in ((0.5, "every second beat stands out"), (2.0, "strokes half-way are beats too")):
        # What is not next after the one used is less likely than what is.
        near = float(np.exp(-signs.level)) * (1.0 if signs.rival == factor else 0.5) if signs.alike else 0.3
        usual = SLOWEST / _BEYOND <= best_bpm * factor <= FASTEST * _BEYOND
        found.append(
            Reading(best_bpm * factor, 0.0, (max(0.1, near) if usual else 0.02) * best_score, reason)
        )
    for bpm, score in tempi[1:]:
        if not any(abs(np.log2(r.tempo_bpm / bpm)) < 0.03 for r in found):
            likely = min(score, best_score) * float(np.exp(-signs.family))
            found.append(Reading(bpm, 0.0, likely, "another pulse fits the strokes as well"))
    found = [found[0], *sorted(found[1:], key=lambda r: -r.score)]
    again = [any(abs(r.tempo_bpm / q.tempo_bpm - 1) < 0.02 for q in found[:i]) for i, r in enumerate(found)]
    return [r for late in (False, True) for r, repeated in zip(found, again, strict=True) if repeated == late]


def _sections(guesses: list[SectionGuess], bars: np.ndarray, end_s: float) -> list[FoundSection]:
    edges = np.append(bars, end_s)
    return [
        FoundSection(
            float(edges[g.start_bar]),
            float(edges[min(g.end_bar, len(bars))]),
            g.label,
            g.group,
            g.end_bar - g.start_bar,
        )
        for g in guesses
    ]


def listen(
    audio: Singles,
    *,
    loudness_audio: Singles | None = None,
    loudness_rate: int = RATE,
    progress: Callable[[float, str], None] = lambda _share, _what: None,
) -> SongAnalysis:
    """Analyse a song.

    Args:
        audio: Mono samples at :data:`zembi.core.song.spectrum.RATE`.
        loudness_audio: Full-band samples (samples, channels) for the loudness; ``audio`` where absent.
        loudness_rate: Sample rate of ``loudness_audio``.
        progress: Told the share done, 0..1, and what is being done.

    Raises:
        BadInput: too short, or digital silence.
    """
    progress(0.05, "Hearing the strokes")
    spectrum = describe(audio)
    progress(0.45, "Following the beat")
    track = track_beats(spectrum, audio)
    beats = track.beats
    progress(0.7, "Finding the one")
    bars = find_bars(spectrum, beats)
    downbeats = beats[list(bars.downs)]
    duration = len(audio) / RATE
    progress(0.8, "Finding sections")
    guesses = find_sections(spectrum, downbeats)
    end = float(downbeats[-1] + np.median(np.diff(downbeats))) if len(downbeats) > 1 else duration
    sections = _sections(guesses, downbeats, min(duration, end)) if len(downbeats) else []
    progress(0.9, "Measuring loudness")
    loud = audio if loudness_audio is None else loudness_audio
    power = weighted_power(loud, loudness_rate)
    short_term = loudness_of(power, window_s=3.0)
    progress(0.92, "Hearing the drums")
    rises = attack_rises(audio)
    attacks = band_attacks(spectrum, rises)
    progress(0.95, "Hearing the voice")
    voice = voice_in_mix(audio)
    hits = {
        **accented(attacks, downbeats.tolist(), duration),
        **find_strokes(spectrum, rises, downbeats.tolist()),
        "chord": chord_changes(spectrum, beats.tolist(), rises),
        "entry": entries(spectrum, voice.tolist(), beats.tolist(), rises),
    }
    return SongAnalysis(
        duration_s=duration,
        tempo_bpm=track.bpm,
        tempo_steady=track.steady,
        tempo=track.stretches,
        metre=bars.metre,
        division=bars.division,
        sure=sureness(track.signs, duration, list(bars.scores)),
        doubt=doubt_of(track.signs, duration),
        doubtful=[DoubtfulPassage(*passage) for passage in doubtful_passages(track)],
        readings=_readings(
            [(r.bpm, r.score) for r in track.readings],
            list(bars.scores),
            bars.downs[0] % bars.metre if bars.downs else 0,
            track.signs,
        ),
        beats=beats.tolist(),
        downbeats=downbeats.tolist(),
        sections=sections,
        hits=hits,
        lufs_hop_s=HOP_S,
        lufs=loudness_of(power, window_s=0.4).tolist(),
        short_term=short_term.tolist(),
        true_peaks=true_peaks(loud, loudness_rate).tolist(),
        energy=energy_curve(short_term, hit_density(attacks, len(short_term))).tolist(),
        voice=voice.tolist(),
    )
