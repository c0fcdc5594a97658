"""The edit: a base lane of shots without gaps over the whole song, and a cutaway lane above it."""

from dataclasses import dataclass
from typing import Any

from zembi.core.errors import BadInput, Refused
from zembi.core.treatments.model import Treated, Treatment


@dataclass(frozen=True)
class AngleSource:
    """A numbered angle; its source time follows from the pass, so lip-sync cannot slip by accident.

    ``slip`` is how many frames later than in sync it is shown, on purpose.
    """

    angle: int
    slip: int = 0


@dataclass(frozen=True)
class ClipSource:
    """A stretch of a file from ``in_s`` (seconds from its first picture frame) at ``speed``."""

    media: str
    in_s: float = 0.0
    speed: float = 1.0


@dataclass(frozen=True)
class Black:
    """No picture."""


@dataclass(frozen=True)
class Empty:
    """A slot that asks for a picture."""


Source = AngleSource | ClipSource | Black | Empty


@dataclass(frozen=True)
class Shot:
    """What shows from ``start`` to the next shot. A held shot is left alone by filling.

    ``whole`` are the frames (half-open) that its source and treatments were meant for, where it is a part of them: so
    that a cut through a treated shot changes no picture.
    """

    start: int
    source: Source
    held: bool = False
    treatments: tuple[Treatment, ...] = ()
    whole: tuple[int, int] | None = None


@dataclass(frozen=True)
class Cutaway:
    """A shot laid over the base lane, frames ``start`` (inclusive) to ``end`` (exclusive); see :class:`Shot`."""

    start: int
    end: int
    source: Source
    treatments: tuple[Treatment, ...] = ()
    whole: tuple[int, int] | None = None


@dataclass(frozen=True)
class Edit:
    """A version of the cut; ``length`` in frames is the whole song. ``treated`` ranges lie over whatever is cut there."""

    length: int
    shots: tuple[Shot, ...]
    cutaways: tuple[Cutaway, ...] = ()
    treated: tuple[Treated, ...] = ()

    def end_of(self, index: int) -> int:
        """Frame at which a shot ends (exclusive)."""
        return self.shots[index + 1].start if index + 1 < len(self.shots) else self.length

    def index_at(self, frame: int) -> int:
        """Index of the shot on the base lane at a frame."""
        low, high = 0, len(self.shots) - 1
        while low < high:
            middle = (low + high + 1) // 2
            if self.shots[middle].start <= frame:
                low = middle
            else:
                high = middle - 1
        return low


def new_edit(length: int) -> Edit:
    """An uncut edit: one empty slot over the whole song; black is what somebody chose."""
    return Edit(length, (Shot(0, Empty()),))


def checked(edit: Edit) -> Edit:
    """Return the edit if it keeps every rule.

    Raises:
        Refused: in plain words, which rule it would break.
    """
    if not edit.shots or edit.shots[0].start != 0:
        raise Refused("The first shot has to start with the song.")
    for a, b in zip(edit.shots, edit.shots[1:], strict=False):
        if b.start <= a.start:
            raise Refused(f"Two cuts cannot share frame {b.start}: a shot is at least one frame long.")
    if edit.shots[-1].start >= edit.length:
        raise Refused("A cut has to lie inside the song.")
    at = 0
    for c in edit.cutaways:
        if not 0 <= c.start < c.end <= edit.length:
            raise Refused("A cutaway has to lie inside the song and be at least one frame long.")
        if c.start < at:
            raise Refused("Two cutaways cannot overlap.")
        at = c.end
    for t in edit.treated:
        if not 0 <= t.first < t.end <= edit.length:
            raise Refused("A treated range has to lie inside the song and be at least one frame long.")
    return edit


def source_to_dict(source: Source) -> dict[str, Any]:
    """A source as plain data for storage and exchange."""
    if isinstance(source, AngleSource):
        slipped = {"slip": source.slip} if source.slip else {}
        return {"kind": "angle", "angle": source.angle, **slipped}
    if isinstance(source, ClipSource):
        return {"kind": "clip", "media": source.media, "in_s": source.in_s, "speed": source.speed}
    return {"kind": "empty" if isinstance(source, Empty) else "black"}


def source_from_dict(data: dict[str, Any]) -> Source:
    """The inverse of :func:`source_to_dict`.

    Raises:
        BadInput: an unknown kind or a missing value.
    """
    try:
        if data["kind"] == "angle":
            return AngleSource(int(data["angle"]), int(data.get("slip", 0)))
        if data["kind"] == "clip":
            return ClipSource(str(data["media"]), float(data["in_s"]), float(data.get("speed", 1.0)))
        if data["kind"] == "black":
            return Black()
        if data["kind"] == "empty":
            return Empty()
    except (KeyError, TypeError, ValueError) as fault:
        raise BadInput(f"A shot's source is damaged: {data!r} ({fault}).") from None
    raise BadInput(f"A shot's source of kind {data['kind']!r} is not known.")
