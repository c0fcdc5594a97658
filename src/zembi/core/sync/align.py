"""Aligning a take to the song: at normal speed first, then at every other, piece by piece where it is long."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np

from zembi.core.sync import confidence as sure
from zembi.core.sync.features import (
    RATE,
    WINDOW_S,
    Singles,
    SoundFeatures,
    SoundSource,
    at_speed,
    is_silent,
    prepare,
)
from zembi.core.sync.found import FoundPass, SongPlace, TakeAlignment, at_take_speed, joined, judged, moved
from zembi.core.sync.locate import passes_at_speed, verify
from zembi.core.sync.refine import Line
from zembi.core.sync.search import OffsetCandidate, Vote, flux_votes, gather
from zembi.core.sync.speed import Guess, guess_speeds
from zembi.core.sync.stretched import find_stretched, follow_guess

__all__ = ["VERSION", "FoundPass", "SongPlace", "TakeAlignment", "align"]

#: Raise when results change, so that kept alignments are made again.
VERSION = 4
#: A take is compared in pieces of this length that overlap, so that memory does not grow with it.
PIECE_S, OVERLAP_S = 600.0, 40.0
#: Joint evidence of a take's windows for one place, below which only chance speaks (talk: 8; a clock 0.1 % off: 300).
_LEAST_VOTES = 14.0
#: Passes at normal speed that are no longer than this may really be of another; they are when that holds so many times
#: as much of the take.
_TELLS_S, _CLEARLY = 20.0, 1.2
#: Speeds next to normal, as differences of it; how much more of the windows' evidence one has to have than normal speed,
#: how far apart two are that are both tried, and how many are.
_LEANINGS = np.arange(-24, 25) * 0.0005
_LEANS, _NEXT_RATE, _MOST_LEANINGS = 1.1, 0.0012, 2
#: Evidence of a pass, by the square root of its seconds, below which another version of the song may be what sounds.
_THIN = 3.5
#: Guesses of other speeds that are proved, the likeliest first.
_MOST_GUESSES = 6

Report = Callable[[float, str], None]
#: Makes another version of the song ready; None where there is none.
Version = Callable[[], SoundFeatures | None]


def align(
    song: SoundFeatures,
    take_sound: SoundSource,
    *,
    others: Sequence[Version] = (),
    progress: Report = lambda _share, _what: None,
) -> TakeAlignment:
    """Find every pass of the song in a take.

    Args:
        song: The song, from :func:`zembi.core.sync.features.prepare`.
        take_sound: The take's mono sound at 8 kHz; sample 0 is the first picture frame's presentation time. May be
            a file mapped into memory: it is read in pieces.
        others: Other versions of the song, made ready only where it is found nowhere by the first: one channel, what
            the channels differ by, an instrumental.
        progress: Told the share done, 0..1, and what is being done; may raise to stop.

    Returns:
        "silent" for no usable sound, "unmatched" for no place, "choose" where places fit equally well or
        the evidence is thin, "locked" where every pass is settled.
    """
    seconds = len(take_sound) / RATE
    starts = [0.0]
    while starts[-1] + PIECE_S < seconds:
        starts.append(starts[-1] + PIECE_S - OVERLAP_S)
    found: list[FoundPass] = []
    sounding = False
    for number, start in enumerate(starts):

        def report(share: float, what: str, number: int = number) -> None:
            progress((number + share) / len(starts), what)

        first = int(start * RATE)
        piece = np.asarray(take_sound[first : first + int(PIECE_S * RATE)], dtype=np.float32)
        if len(piece) < RATE or is_silent(piece):
            continue
        sounding = True
        found += [moved(p, start) for p in _passes(song, others, piece, report)]
    if not sounding:
        return TakeAlignment("silent", 1.0, [])
    return judged(joined(found) if len(starts) > 1 else found)


def _passes(
    song: SoundFeatures, others: Sequence[Version], sound: Singles, report: Report
) -> list[FoundPass]:
    """The passes of one piece by the version of the song that it holds, where the first hardly sounds in it."""
    take = prepare(sound)
    best = _against(song, take, report)
    if _any_sure(best) and (best[0].pitch_kept or max(p.z / np.sqrt(_length(p)) for p in best) >= _THIN):
        return best
    for make in others:
        version = make()
        if version is None:
            continue
        found = passes_at_speed(
            version, take, progress=lambda s: report(0.97, "Comparing with other versions of the song")
        )
        if _any_sure(found) and (not _any_sure(best) or _evidence(found) > _CLEARLY * _evidence(best)):
            best = found
    return best


def _against(song: SoundFeatures, take: SoundFeatures, report: Report) -> list[FoundPass]:
    """The passes at the speed at which most of the take is sure; else what is likeliest at normal speed."""
    report(0.08, "Comparing at normal speed")
    plain = passes_at_speed(
        song, take, progress=lambda s: report(0.08 + 0.4 * s, "Comparing at normal speed")
    )
    if (
        plain
        and all(p.locked for p in plain)
        and max(p.take_end_s - p.take_start_s for p in plain) > _TELLS_S
    ):
        return plain
    best = plain
    for number, guess in enumerate(_leanings(song, take)):
        report(0.5 + 0.05 * number, f"Comparing at {guess.line.rate:.4f} times the speed")
        found = _moved_pitch(song, take, guess)
        if _any_sure(found) and _sure_s(found) > _CLEARLY * _sure_s(best):
            best = found
            break
    if _any_sure(best):
        return best
    found = _at_other_speeds(song, take, report)
    return found if _any_sure(found) or not plain else plain


def _any_sure(passes: list[FoundPass]) -> bool:
    """True if a pass surely lies in the song, be it in one place or in several that are equal."""
    return any(_is_sure(p) for p in passes)


def _is_sure(p: FoundPass) -> bool:
    return p.confidence * max(1, len(p.rivals)) >= sure.LOCK_AT


def _length(p: FoundPass) -> float:
    return max(p.take_end_s - p.take_start_s, 1.0)


def _evidence(passes: list[FoundPass]) -> float:
    return max((p.z for p in passes), default=0.0)


def _sure_s(passes: list[FoundPass]) -> float:
    return sum(p.take_end_s - p.take_start_s for p in passes if _is_sure(p))


def _leanings(song: SoundFeatures, take: SoundFeatures) -> list[Guess]:
    """Speeds next to normal at which the take's windows agree best on one place, the likeliest first.

    A window's peak hardly moves at such a speed; the places of windows far apart do. A take is too short to tell where
    they move by less than a frame or two.
    """
    votes = flux_votes(song, take, [(0.0, take.seconds)])
    guesses = []
    for rate in 1 + _LEANINGS:
        there = [Vote(v.at_s * rate, v.song_s, v.z) for v in votes]
        for c in gather(there, bin_s=0.03, count=1):
            if c.score >= _LEAST_VOTES:
                line = Line(c.offset_s, float(rate))
                guesses.append(Guess(line, "moved", c.score, c.start_s / rate, c.end_s / rate + WINDOW_S))
    straight = max((g.score for g in guesses if g.line.rate == 1.0), default=0.0)
    guesses.sort(key=lambda g: -g.score)
    kept: list[Guess] = []
    for g in guesses:
        if g.score > _LEANS * straight and all(abs(g.line.rate - k.line.rate) > _NEXT_RATE for k in kept):
            kept.append(g)
    return kept[:_MOST_LEANINGS]


def _at_other_speeds(song: SoundFeatures, take: SoundFeatures, report: Report) -> list[FoundPass]:
    """The passes at the likeliest speed that can be proved."""
    report(0.7, "Comparing at other speeds")
    guesses = guess_speeds(song, take, progress=lambda s: report(0.7 + 0.2 * s, "Comparing at other speeds"))
    for guess in [g for g in guesses if g.pitch == "moved"][:_MOST_GUESSES]:
        report(0.92, f"Proving {guess.line.rate:.2f} times the speed")
        found = _moved_pitch(song, take, guess) if guess.score >= sure.LEAST_GUESS else []
        if found:
            return found
    # Next to normal speed the pitch hardly moves: such a guess may be either.
    for guess in [g for g in guesses if g.pitch == "kept" or abs(g.line.rate - 1) < 0.012][:2]:
        report(0.96, f"Proving {guess.line.rate:.2f} times the speed, pitch kept")
        found = _kept_pitch(song, take, guess) if guess.score >= sure.LEAST_GUESS_STRETCHED else []
        if found:
            return found
    return []


def _moved_pitch(song: SoundFeatures, take: SoundFeatures, guess: Guess) -> list[FoundPass]:
    """Slow the take to the song's speed, and go on as at normal speed."""
    rough = Fraction(guess.line.rate).limit_denominator(60)
    near = _at_rate(take.raw, rough)
    ratio = guess.line.rate / float(rough)
    line = replace(guess.line, rate=ratio)
    close = replace(guess, line=line, start_s=guess.start_s * float(rough), end_s=guess.end_s * float(rough))
    followed = follow_guess(song, near, close)
    if followed is None:
        return []
    line, extent, _ = followed
    exact = Fraction(float(rough) * line.rate).limit_denominator(10_000)
    slowed = prepare(at_speed(take.raw, exact.numerator, exact.denominator))
    scale = float(exact) / float(rough)
    candidate = OffsetCandidate(
        line.offset_s, guess.score, extent[0] * scale, max(extent[0], extent[1] - 8.0) * scale
    )
    if verify(song, slowed, candidate, either_way=True).z < sure.LEAST_Z:
        return []
    return [at_take_speed(p, float(exact)) for p in passes_at_speed(song, slowed)]


def _at_rate(sound: Singles, rate: Fraction) -> SoundFeatures:
    stretched = at_speed(sound, rate.numerator, rate.denominator)
    # Only envelopes are compared at this step: nothing is whitened.
    return SoundFeatures(stretched[:0], np.zeros((0, 1), np.float32), len(stretched) / RATE, stretched)


def _kept_pitch(song: SoundFeatures, take: SoundFeatures, guess: Guess) -> list[FoundPass]:
    """A pass by envelopes and tones alone; its rivals are the places that both like about as well."""
    found = find_stretched(song, take, guess)
    if found is None:
        return []
    length = found.line.rate * (found.end_s - found.start_s)
    confidence = sure.stretched_confidence(guess.score, found.harmony, found.spread_s, length)
    if confidence < sure.BELIEVE_AT:
        return []
    start, rate = found.line.song(found.start_s), found.line.rate
    places = [
        SongPlace(found.start_s, found.end_s, start + shift, rate, min(1.0, share))
        for shift, share, harmony in found.rivals
        if share >= sure.EQUAL_LIKENESS and harmony >= sure.EQUAL_HARMONY * found.harmony
    ]
    if places:
        places = sorted(
            [SongPlace(found.start_s, found.end_s, start, rate, 1.0), *places], key=lambda p: p.song_start_s
        )
    return [
        FoundPass(
            found.start_s, found.end_s, start, rate, confidence / max(1, len(places)), guess.score,
            found.residuals, places, pitch_kept=True,
        )
    ]  # fmt: skip
