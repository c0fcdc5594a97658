"""Results of alignment: places, passes and the take's status."""

from dataclasses import dataclass, field, replace
from typing import Literal

from zembi.core.sync import confidence as sure
from zembi.core.sync.refine import Line

Status = Literal["locked", "choose", "unmatched", "silent"]


@dataclass(frozen=True)
class SongPlace:
    """One place at which a stretch of take fits the song.

    Attributes:
        take_start_s, take_end_s: The stretch, on the take's picture clock.
        song_start_s: Song time at ``take_start_s``.
        rate: Song seconds a take second.
        score: Relative to the best (1.0).
    """

    take_start_s: float
    take_end_s: float
    song_start_s: float
    rate: float
    score: float


@dataclass(frozen=True)
class FoundPass:
    """One unbroken run of the song inside a take.

    Attributes:
        take_start_s, take_end_s: Take range, seconds of the take's picture clock.
        song_start_s: Song time at ``take_start_s``.
        rate: Song seconds a take second.
        confidence: 0..1.
        z: Evidence in standard deviations of chance.
        residuals: (take time, residual in seconds) of each measured window.
        rivals: Every place that fits equally well, this one included; empty where the place is settled.
        pitch_kept: Whether playback had another speed but the song's pitch, so that only envelopes could be measured.
    """

    take_start_s: float
    take_end_s: float
    song_start_s: float
    rate: float
    confidence: float
    z: float
    residuals: list[tuple[float, float]] = field(default_factory=list)
    rivals: list[SongPlace] = field(default_factory=list)
    pitch_kept: bool = False

    @property
    def locked(self) -> bool:
        """True if the place is settled by computation."""
        return not self.rivals and self.confidence >= sure.LOCK_AT

    @property
    def line(self) -> Line:
        """Song time over take time."""
        return Line(self.song_start_s - self.rate * self.take_start_s, self.rate)


@dataclass(frozen=True)
class TakeAlignment:
    """All passes of one take, in take order."""

    status: Status
    confidence: float
    passes: list[FoundPass]


def judged(passes: list[FoundPass]) -> TakeAlignment:
    """A take's status from its passes: "locked" only where every one is settled."""
    if not passes:
        return TakeAlignment("unmatched", 1.0, [])
    status: Status = "locked" if all(p.locked for p in passes) else "choose"
    return TakeAlignment(
        status, min(p.confidence for p in passes), sorted(passes, key=lambda p: p.take_start_s)
    )


def at_take_speed(found: FoundPass, speed: float) -> FoundPass:
    """Turn a pass found in a take stretched by ``speed`` back to the take's own clock."""
    if speed == 1.0:
        return found
    places = [
        replace(p, take_start_s=p.take_start_s / speed, take_end_s=p.take_end_s / speed, rate=p.rate * speed)
        for p in found.rivals
    ]
    return replace(
        found, take_start_s=found.take_start_s / speed, take_end_s=found.take_end_s / speed,
        rate=found.rate * speed, residuals=[(t / speed, r) for t, r in found.residuals], rivals=places,
    )  # fmt: skip


def moved(found: FoundPass, seconds: float) -> FoundPass:
    """The same pass in a take that begins ``seconds`` earlier."""
    if not seconds:
        return found
    places = [
        replace(p, take_start_s=p.take_start_s + seconds, take_end_s=p.take_end_s + seconds)
        for p in found.rivals
    ]
    return replace(
        found, take_start_s=found.take_start_s + seconds, take_end_s=found.take_end_s + seconds,
        residuals=[(t + seconds, r) for t, r in found.residuals], rivals=places,
    )  # fmt: skip


def same_line(weak: FoundPass, strong: FoundPass) -> bool:
    """True if one pass lies where the other's line puts it: the song ran on between them."""
    middle = (weak.take_start_s + weak.take_end_s) / 2
    return abs(strong.line.song(middle) - weak.line.song(middle)) < 0.004


def joined(passes: list[FoundPass]) -> list[FoundPass]:
    """Passes in take order; neighbours that lie on one line are one, whatever was heard between them.

    Of two that claim the same stretch of take on different lines, the one with more evidence keeps it.
    """
    out: list[FoundPass] = []
    for p in sorted(passes, key=lambda p: p.take_start_s):
        last = out[-1] if out else None
        if last is None:
            out.append(p)
            continue
        strong, weak = (last, p) if last.z >= p.z else (p, last)
        if same_line(weak, strong):
            start, end = last.take_start_s, max(last.take_end_s, p.take_end_s)
            rivals = strong.rivals if last.rivals and p.rivals else []
            out[-1] = replace(
                strong, take_start_s=start, take_end_s=end, song_start_s=strong.line.song(start),
                residuals=last.residuals + p.residuals, rivals=_widened(rivals, strong, start, end),
            )  # fmt: skip
        elif (
            p.take_start_s < last.take_end_s - 0.5
            and (p.take_end_s - p.take_start_s) * 0.5 < min(last.take_end_s, p.take_end_s) - p.take_start_s
        ):
            out[-1] = strong
        else:
            out.append(p)
    return out


def _widened(rivals: list[SongPlace], whole: FoundPass, start_s: float, end_s: float) -> list[SongPlace]:
    shift = whole.take_start_s - start_s
    return [
        replace(p, take_start_s=start_s, take_end_s=end_s, song_start_s=p.song_start_s - p.rate * shift)
        for p in rivals
    ]
