"""Rules by which a place in the cut is filled: each one small function that gives points, named, and can be switched off."""

import math
import random
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from zembi.core.edit.model import AngleSource, ClipSource, Source
from zembi.core.edit.stretches import shown_of
from zembi.core.footage.look import Look, unlike
from zembi.core.footage.tags import tagged_for

#: What no other points make good.
NEVER = -math.inf
#: Shots during which an angle rests, and the points that it costs to bring it back before.
_REST, _TIRED = 2, 6.0
#: Beats after which a clip may come back without a loss of points, and after which an angle was away for long; points
#: that coming back at once costs.
_APART, _LONG_AWAY, _AT_ONCE = 16.0, 32.0, 6.0
#: Points that each use of a clip costs: more than all else gives, so that all are used before one is again.
_USED = 15.0
#: Points above the mean from which a rule speaks for a candidate.
_SPEAKS_FOR = 0.1
#: Points by which like ones are shuffled.
_CHANCE = 0.3


@dataclass(frozen=True)
class SlotContext:
    """A place to fill, and the music there.

    Attributes:
        start, end: Frames (half-open).
        beats: Its length.
        section: Name of its section.
        energy: Of the music, 0 to 1.
        sung: Share of it that is sung.
        leads: Angles that lead in its section; empty where none is preferred.
    """

    start: int
    end: int
    beats: float
    section: str = ""
    energy: float = 0.5
    sung: float = 0.0
    leads: frozenset[int] = frozenset()


@dataclass(frozen=True)
class Candidate:
    """Something that could be shown.

    Attributes:
        source: An angle, or a clip from its in point.
        close: Whether an angle is a close one.
        tags: What a clip is tagged with, in lower case.
        moves: How much moves in a clip against the others, 0 (the stillest) to 1; None where nothing is known.
        light: How light a clip is against the others, likewise.
        look: Of a clip, where it was measured.
        seconds: How long a clip is.
        rest: Whether something else was kept of a clip's file.
        name: What to call a clip.
    """

    source: AngleSource | ClipSource
    close: bool = False
    tags: frozenset[str] = frozenset()
    moves: float | None = None
    light: float | None = None
    look: Look | None = None
    seconds: float = math.inf
    rest: bool = False
    name: str = ""


@dataclass
class Past:
    """History of what was shown before a slot, and what stays elsewhere.

    Attributes:
        between: Beats from one frame to another, as long as they are there.
        shots: Start, end and source of what is shown, in the order in which it was chosen.
        after: What follows the place.
        looks: Looks of files that were measured.
        rate: Programme rate.
    """

    between: Callable[[int, int], float]
    shots: list[tuple[int, int, Source]] = field(default_factory=list)
    after: Source | None = None
    looks: Mapping[str, Look] = field(default_factory=dict)
    rate: Fraction = Fraction(24)

    def shown_of(self, media: str) -> list[tuple[float, float]]:
        """Parts of a file that are shown, in its seconds."""
        return [
            shown_of(source, end - start, self.rate)
            for start, end, source in self.shots
            if isinstance(source, ClipSource) and source.media == media
        ]

    def lately(self, start: int, count: int) -> list[Source]:
        """The last few sources before a frame, the last one first."""
        before = sorted((s for s in self.shots if s[0] < start), key=lambda s: s[0], reverse=True)
        return [source for _, _, source in before[:count]]

    def beside(self, place: SlotContext) -> list[Look]:
        """Looks of the clips that are shown right before and after a place."""
        return [
            self.looks[source.media]
            for start, end, source in self.shots
            if isinstance(source, ClipSource)
            and source.media in self.looks
            and (end == place.start or start == place.end)
        ]

    def away(self, source: Source, place: SlotContext) -> float:
        """Beats between a place and the nearest that shows an angle or a file; without end where none does."""
        near = math.inf
        for start, end, other in self.shots:
            if _same(source, other):
                gap = (end, place.start) if end <= place.start else (place.end, start)
                near = min(near, max(0.0, self.between(*gap)) if gap[0] < gap[1] else 0.0)
        return near

    def uses(self, source: Source) -> int:
        """Number of times that an angle or a file is shown."""
        return sum(_same(source, other) for _, _, other in self.shots)


def _same(one: Source, other: Source) -> bool:
    if isinstance(one, ClipSource) and isinstance(other, ClipSource):
        return one.media == other.media
    return isinstance(one, AngleSource) and isinstance(other, AngleSource) and one.angle == other.angle


@dataclass(frozen=True)
class Rule:
    """A rule: its name, what the page says of it, what it fills with, and its points."""

    name: str
    words: str
    fills: type[AngleSource] | type[ClipSource]
    points: Callable[[SlotContext, Candidate, Past], float]


def _leads(place: SlotContext, candidate: Candidate, _past: Past) -> float:
    return 2.0 if isinstance(candidate.source, AngleSource) and candidate.source.angle in place.leads else 0.0


def _rests(place: SlotContext, candidate: Candidate, past: Past) -> float:
    lately = past.lately(place.start, _REST)
    if past.after is not None and _same(candidate.source, past.after):
        return -_TIRED
    return -_TIRED * sum(_same(candidate.source, other) for other in lately)


def _close_when_sung(place: SlotContext, candidate: Candidate, _past: Past) -> float:
    return 1.5 * place.sung if candidate.close else 0.0


def _longest_away(place: SlotContext, candidate: Candidate, past: Past) -> float:
    return min(past.away(candidate.source, place), _LONG_AWAY) / _LONG_AWAY


def _tagged(place: SlotContext, candidate: Candidate, _past: Past) -> float:
    return 3.0 if tagged_for(place.section, candidate.tags) else 0.0


def _as_the_music(place: SlotContext, candidate: Candidate, _past: Past) -> float:
    return 0.0 if candidate.moves is None else -2.0 * abs(place.energy - candidate.moves)


def _as_light(place: SlotContext, candidate: Candidate, _past: Past) -> float:
    return 0.0 if candidate.light is None else -abs(place.energy - candidate.light)


def _keeps_its_look(place: SlotContext, candidate: Candidate, past: Past) -> float:
    near = past.beside(place) if candidate.look else []
    return (
        -2.0 * sum(unlike(candidate.look, other) for other in near) / len(near)
        if near and candidate.look
        else 0.0
    )


def _unused_and_long(_place: SlotContext, candidate: Candidate, past: Past) -> float:
    return min(candidate.seconds, 20.0) / 40 - _USED * past.uses(candidate.source)


def _apart(place: SlotContext, candidate: Candidate, past: Past) -> float:
    return _AT_ONCE * (min(past.away(candidate.source, place), _APART) / _APART - 1)


def _once(place: SlotContext, candidate: Candidate, past: Past) -> float:
    if not isinstance(candidate.source, ClipSource):
        return 0.0
    first, end = shown_of(candidate.source, place.end - place.start, past.rate)
    shown = past.shown_of(candidate.source.media)
    return NEVER if any(a < end - 1e-6 and first < b - 1e-6 for a, b in shown) else 0.0


def _kept(_place: SlotContext, candidate: Candidate, _past: Past) -> float:
    return -4.0 if candidate.rest else 0.0


def _faces(place: SlotContext, candidate: Candidate, _past: Past) -> float:
    return 2.0 * place.sung if {"face", "faces"} & candidate.tags else 0.0


RULES: tuple[Rule, ...] = (
    Rule("lead", "the angles that lead come first", AngleSource, _leads),
    Rule("rest", f"an angle rests for {_REST} shots where others can be shown", AngleSource, _rests),
    Rule("close", "sung lines favour close angles", AngleSource, _close_when_sung),
    Rule("away", "the angle that was away for longest", AngleSource, _longest_away),
    Rule("tags", "clips tagged for the section", ClipSource, _tagged),
    Rule("movement", "movement in a clip as the energy of the music", ClipSource, _as_the_music),
    Rule("light", "bright clips where the music has energy, dark ones where it rests", ClipSource, _as_light),
    Rule("look", "clips like the ones beside them in light and colours", ClipSource, _keeps_its_look),
    Rule(
        "unused",
        "a clip is used again when all others are used as often; the longest first",
        ClipSource,
        _unused_and_long,
    ),
    Rule(
        "apart",
        f"clips come back as late as can be, at best after {_APART:.0f} beats",
        ClipSource,
        _apart,
    ),
    Rule("kept", "what was kept of a clip before the rest of it", ClipSource, _kept),
    Rule("once", "no stretch of a clip twice", ClipSource, _once),
    Rule("faces", "faces on sung lines, where they are tagged", ClipSource, _faces),
)


def best(
    place: SlotContext, candidates: Sequence[Candidate], past: Past, seed: int, without: Collection[str] = ()
) -> Candidate | None:
    """The candidate with most points at a place; None where a rule forbids all.

    Args:
        place: What is to be filled.
        candidates: That are long enough for it.
        past: What is shown elsewhere.
        seed: The same one chooses the same.
        without: Names of rules that are switched off.
    """
    chance = random.Random(f"{seed} {place.start}")
    found, most = None, NEVER
    for candidate in candidates:
        points = chance.uniform(0, _CHANCE) + sum(points_of(place, candidate, past, without).values())
        if points > most:
            found, most = candidate, points
    return found


def points_of(
    place: SlotContext, candidate: Candidate, past: Past, without: Collection[str] = ()
) -> dict[str, float]:
    """Points that each rule gives a candidate at a place."""
    return {
        r.name: r.points(place, candidate, past)
        for r in RULES
        if r.name not in without and isinstance(candidate.source, r.fills)
    }


def in_order(
    place: SlotContext, candidates: Sequence[Candidate], past: Past, without: Collection[str] = ()
) -> list[tuple[Candidate, str]]:
    """Candidates that no rule forbids, the one with most points first, each with the rule that speaks for it most.

    That is the one by which it is furthest above the mean of all; "" where none is.
    """
    given = [(c, points_of(place, c, past, without)) for c in candidates]
    given = [(c, points) for c, points in given if sum(points.values()) > NEVER]
    words = {r.name: r.words for r in RULES}
    out = []
    for candidate, points in sorted(given, key=lambda g: -sum(g[1].values())):
        above = {n: p - sum(other[n] for _, other in given) / len(given) for n, p in points.items()}
        name = max(above, key=lambda n: above[n], default="")
        out.append((candidate, words[name] if name and above[name] > _SPEAKS_FOR else ""))
    return out
