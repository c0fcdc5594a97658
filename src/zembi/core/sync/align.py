"""Aligning a take to the song: at normal speed first, then at every other, piece by piece where it is long."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

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
from zembi.core.sync.locate import Place, first_place, passes_at_speed, verify
from zembi.core.sync.refine import Line
from zembi.core.sync.search import OffsetCandidate, Vote, flux_votes, gather
from zembi.core.sync.speed import PITCH_TELLS, Guess, SpeedSearch, half_is_all, one_is_clear
from zembi.core.sync.stretched import find_stretched, follow_guess

__all__ = ["VERSION", "FoundPass", "SongPlace", "TakeAlignment", "align"]

#: Raise when results change, so that kept alignments are made again.
VERSION = 5
#: A take is compared in pieces of this length that overlap, so that memory does not grow with it.
PIECE_S, OVERLAP_S = 600.0, 40.0
#: Joint evidence of a take's windows for one place, below which only chance speaks (talk: 8; a clock 0.1 % off: 300).
_LEAST_VOTES = 14.0
#: Passes at normal speed that are no longer than this may really be of another; they are when that holds so many times
#: as much of the take.
_TELLS_S, _CLEARLY = 20.0, 1.2
#: A speed at which so much of the take is sure ends the search.
_MOST = 0.4
#: Speeds next to normal, as differences of it; how much more of the windows' evidence one has to have than normal speed,
#: how far apart two are that are both tried, and how many are.
_LEANINGS = np.arange(-24, 25) * 0.0005
_LEANS, _NEXT_RATE, _MOST_LEANINGS = 1.1, 0.0012, 2
#: Evidence of a pass, by the square root of its seconds, below which another version of the song may be what sounds.
_THIN = 3.5
#: Speeds and places that differ by less are one.
_SAME_SPEED, _SAME_PLACE_S = 1e-4, 0.02
#: Score of a guess at normal speed that chance does not reach (another song: 5).
_HINTS = 7.0
#: Guesses of other speeds that are proved, the likeliest first, with the pitch moved and kept; how much more evidence
#: one with the pitch kept has to have than all others to be proved before them.
_MOST_GUESSES, _MOST_KEPT, _KEPT_AHEAD = 6, 2, 1.2

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
    take, report = prepare(sound), _rising(report)
    other_speeds, other_versions = _OtherSpeeds(song, take, report), _OtherVersions(others, take, report)
    best = _against(song, take, other_speeds, other_versions, report)
    if _any_sure(best) and (best[0].pitch_kept or _is_thick(best)):
        return best
    return other_versions.better(best, everywhere=bool(best) or other_speeds.normal_is_likely())


def _rising(report: Report) -> Report:
    """Report that never tells less than before, in whichever order things are tried."""
    most = 0.0

    def told(share: float, what: str) -> None:
        nonlocal most
        most = max(most, share)
        report(most, what)

    return told


def _is_thick(passes: list[FoundPass]) -> bool:
    """True if as much of the song is heard as of the very version that was compared."""
    return any(p.z >= _THIN * np.sqrt(_length(p)) for p in passes)


def _against(
    song: SoundFeatures,
    take: SoundFeatures,
    other: "_OtherSpeeds",
    versions: "_OtherVersions",
    report: Report,
) -> list[FoundPass]:
    """The passes at the speed at which most of the take is sure; else what is likeliest at normal speed.

    What is cheap and likely comes first: where no envelope speaks for normal speed, a clear other one and the places
    that envelopes name in other versions are tried before the whole song is searched sample by sample.
    """
    report(0.08, "Comparing at normal speed")
    first = first_place(song, take)
    if take.seconds > _TELLS_S and first is None:
        found = other.leaning([])
        if _sure_s(found) < _MOST * take.seconds:
            found = max(found, other.clear(), key=_sure_s)
        found = found if _any_sure(found) else versions.better([], everywhere=False)
        if _any_sure(found):
            return found
    report(0.3, "Comparing at normal speed")
    plain = passes_at_speed(
        song, take, first=first, progress=lambda s: report(0.3 + 0.2 * s, "Comparing at normal speed")
    )
    if (
        plain
        and all(p.locked for p in plain)
        and max(p.take_end_s - p.take_start_s for p in plain) > _TELLS_S
    ):
        return plain
    best = other.leaning(plain) or plain
    if _any_sure(best):
        return best
    found = other.any()
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


class _OtherVersions:
    """A take's passes by other versions of the song; what was compared once is not again."""

    def __init__(self, versions: Sequence[Version], take: SoundFeatures, report: Report) -> None:
        self._versions, self._take, self._report = versions, take, report
        self._places: dict[int, tuple[SoundFeatures | None, Place | None]] = {}
        self._found: dict[int, list[FoundPass]] = {}

    def better(self, best: list[FoundPass], *, everywhere: bool) -> list[FoundPass]:
        """The passes by the version that is heard most in the take, where that is clearly more than the ``best``.

        Args:
            best: What was found without.
            everywhere: Also search a version sample by sample in which the envelopes name no place.
        """
        for number in range(len(self._versions)):
            version, first = self._place(number)
            if version is None or (first is None and not everywhere):
                continue
            found = self._by(number, version, first)
            if _any_sure(found) and (not _any_sure(best) or _evidence(found) > _CLEARLY * _evidence(best)):
                best = found
                if _is_thick(best):
                    break
        return best

    def _place(self, number: int) -> tuple[SoundFeatures | None, Place | None]:
        if number not in self._places:
            version = self._versions[number]()
            self._places[number] = version, None if version is None else first_place(version, self._take)
        return self._places[number]

    def _by(self, number: int, version: SoundFeatures, first: Place | None) -> list[FoundPass]:
        if number not in self._found:
            self._found[number] = passes_at_speed(
                version,
                self._take,
                first=first,
                progress=lambda s: self._report(0.97, "Comparing with other versions of the song"),
            )
        return self._found[number]


class _OtherSpeeds:
    """A take's passes at other speeds than normal; what was guessed and tried once is not again."""

    def __init__(self, song: SoundFeatures, take: SoundFeatures, report: Report) -> None:
        self._song, self._take, self._report = song, take, report
        self._proofs: dict[Guess, list[FoundPass]] = {}
        self._slowed: list[tuple[_Followed, list[FoundPass]]] = []

    @cached_property
    def _search(self) -> SpeedSearch:
        return SpeedSearch(self._song, self._take)

    @cached_property
    def _next_to_normal(self) -> list[Guess]:
        return _leanings(self._song, self._take)

    @cached_property
    def _likeliest(self) -> list[Guess]:
        return self._guessed(0.55, thorough=False)

    def _guessed(self, begin: float, *, thorough: bool) -> list[Guess]:
        def told(share: float) -> None:
            self._report(begin + 0.2 * share, "Comparing at other speeds")

        return self._search.guesses(thorough=thorough, progress=told)

    def normal_is_likely(self) -> bool:
        """True if the guesses speak for normal speed more than chance does: the song may sound in another mix."""
        return any(abs(g.line.rate - 1) < PITCH_TELLS and g.score >= _HINTS for g in self._likeliest)

    def leaning(self, plain: list[FoundPass]) -> list[FoundPass]:
        """The passes at a speed next to normal that holds clearly more of the take than those at normal; else none."""
        best = plain
        for number, guess in enumerate(self._next_to_normal):
            self._report(0.5 + 0.05 * number, f"Comparing at {guess.line.rate:.4f} times the speed")
            found = self._proved(guess)
            if _any_sure(found) and _sure_s(found) > _CLEARLY * _sure_s(best):
                best = found
            if _sure_s(best) > _MOST * self._take.seconds:
                break
        return best if best is not plain else []

    def clear(self) -> list[FoundPass]:
        """The passes at the one speed that stands out; none where none does, or it cannot be proved."""
        return self._first_proved(self._likeliest) if one_is_clear(self._likeliest) else []

    def any(self) -> list[FoundPass]:
        """The passes at the likeliest speed that can be proved."""
        if half_is_all(self._take.seconds):
            return self._first_proved(self._likeliest)
        return self.clear() or self._first_proved(self._guessed(0.75, thorough=True))

    def _first_proved(self, guesses: list[Guess]) -> list[FoundPass]:
        if one_is_clear(guesses):
            guesses = [g for g in guesses if g.score > guesses[0].score / 2]
        moved = [g for g in guesses if g.pitch == "moved"][:_MOST_GUESSES]
        # Next to normal speed the pitch hardly moves: such a guess may be either.
        kept = [g for g in guesses if g.pitch == "kept" or abs(g.line.rate - 1) < PITCH_TELLS][:_MOST_KEPT]
        least = {"moved": sure.LEAST_GUESS, "kept": sure.LEAST_GUESS_STRETCHED}
        tried = [*moved, *(replace(g, pitch="kept") for g in kept)]
        # The waveform proves better: what is heard as kept pitch is tried first only where it is clearly that.
        ahead = [
            g for g in tried if g.pitch == "kept" and all(g.score > _KEPT_AHEAD * m.score for m in moved)
        ]
        best: list[FoundPass] = []
        for guess in [*ahead, *(g for g in tried if g not in ahead)]:
            self._report(0.93, f"Proving {guess.line.rate:.2f} times the speed, pitch {guess.pitch}")
            found = self._proved(guess) if guess.score >= least[guess.pitch] else []
            if found and (not best or _sure_s(found) > _sure_s(best)):
                best = found
            # A first find that holds little may be all that a wavering speed leaves of the waveform.
            if best and not 0 < _sure_s(best) < _MOST * self._take.seconds:
                break
        return best

    def _proved(self, guess: Guess) -> list[FoundPass]:
        if guess not in self._proofs:
            prove = self._moved_pitch if guess.pitch == "moved" else self._kept_pitch
            self._proofs[guess] = prove(guess)
        return self._proofs[guess]

    def _moved_pitch(self, guess: Guess) -> list[FoundPass]:
        """The passes of the take slowed to the song's speed; of guesses that lead to one speed and place, once."""
        followed = _followed(self._song, self._take, guess)
        if followed is None:
            return []
        for before, passes in self._slowed:
            if before.is_same(followed):
                return passes
        self._slowed.append((followed, _slowed_passes(self._song, self._take, followed)))
        return self._slowed[-1][1]

    def _kept_pitch(self, guess: Guess) -> list[FoundPass]:
        return _kept_pitch(self._song, self._take, guess)


@dataclass(frozen=True)
class _Followed:
    """The exact speed to which a guess was followed, and where in the song the take lies at that speed."""

    speed: Fraction
    candidate: OffsetCandidate

    def is_same(self, other: "_Followed") -> bool:
        """True if two differ by less than what is found out along the take anyway."""
        return (
            abs(float(self.speed - other.speed)) < _SAME_SPEED
            and abs(self.candidate.offset_s - other.candidate.offset_s) < _SAME_PLACE_S
        )


def _followed(song: SoundFeatures, take: SoundFeatures, guess: Guess) -> _Followed | None:
    """Follow a guess along the take by the envelopes, to the exact speed."""
    rough = Fraction(guess.line.rate).limit_denominator(60)
    near = _at_rate(take.raw, rough)
    ratio = guess.line.rate / float(rough)
    line = replace(guess.line, rate=ratio)
    close = replace(guess, line=line, start_s=guess.start_s * float(rough), end_s=guess.end_s * float(rough))
    followed = follow_guess(song, near, close, times=1)
    if followed is None:
        return None
    line, extent, _ = followed
    exact = Fraction(float(rough) * line.rate).limit_denominator(10_000)
    scale = float(exact) / float(rough)
    start_s, end_s = extent[0] * scale, max(extent[0], extent[1] - 8.0) * scale
    return _Followed(exact, OffsetCandidate(line.offset_s, guess.score, start_s, end_s))


def _slowed_passes(song: SoundFeatures, take: SoundFeatures, followed: _Followed) -> list[FoundPass]:
    """Slow the take to the song's speed, and go on as at normal speed where the waveform bears the place out."""
    speed = followed.speed
    slowed = prepare(at_speed(take.raw, speed.numerator, speed.denominator))
    if verify(song, slowed, followed.candidate, either_way=True).z < sure.LEAST_Z:
        return []
    return [at_take_speed(p, float(speed)) for p in passes_at_speed(song, slowed)]


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
