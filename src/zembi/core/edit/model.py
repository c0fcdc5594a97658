"""The edit: lanes of items. Every lane is moved, trimmed, carried along, compared and stored alike; its kind adds rules."""

import itertools
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from operator import lt
from typing import Any, ClassVar

from zembi.core.errors import BadInput, Refused
from zembi.core.titles.card import Card, card_from_dict, card_to_dict
from zembi.core.treatments.model import Treatment

#: Slowest and fastest speed at which a clip is laid.
SPEEDS = (0.05, 20.0)


@dataclass(frozen=True)
class AngleSource:
    """A numbered angle; its source time follows from the pass, so lip-sync cannot slip by accident.

    ``slip`` is how many frames later than in sync it is shown, on purpose.
    """

    kind: ClassVar = "angle"

    angle: int
    slip: int = 0


@dataclass(frozen=True)
class ClipSource:
    """A stretch of a file from ``in_s`` (seconds from its first picture frame) at ``speed``."""

    kind: ClassVar = "clip"

    media: str
    in_s: float = 0.0
    speed: float = 1.0


@dataclass(frozen=True)
class BlackSource:
    """No picture."""

    kind: ClassVar = "black"


@dataclass(frozen=True)
class Empty:
    """A slot that asks for a picture; ``words`` say which, where that was planned."""

    kind: ClassVar = "empty"

    words: str = ""


@dataclass(frozen=True)
class Beneath:
    """Whatever lies beneath: the source of a treated range, which has no picture of its own."""

    kind: ClassVar = "beneath"


@dataclass(frozen=True)
class CardSource:
    """Words in the frame.

    Attributes:
        card: The words and their style.
        line: The line of the lyrics that they follow; None where they follow none.
        leads: Frames that they were laid before that line begins, and after it (or the second one) ends.
    """

    kind: ClassVar = "card"

    card: Card
    line: int | None = None
    leads: tuple[int, int] | None = None


Source = AngleSource | ClipSource | BlackSource | Empty | Beneath | CardSource


@dataclass(frozen=True)
class Item:
    """Something that lies on a lane from frame ``start`` on.

    Attributes:
        start: First frame.
        source: Its content: what it shows.
        end: Frame at which it ends (exclusive); None on a lane without gaps, where the next item begins.
        held: Whether filling leaves it alone.
        treatments: In the order in which they act.
        whole: The frames (half-open) that its source and treatments were meant for, where it is a part of them: a cut
            through a treated shot changes no picture.
        accepted: Checks that the editor has accepted of it, each with a word why, in order.
        id: Names the item in operations, answers and the journal; never given twice in an edit. 0 until the edit is
            checked. No part of what the item is: a copy equals its original.
    """

    start: int
    source: Source
    end: int | None = None
    held: bool = False
    treatments: tuple[Treatment, ...] = ()
    whole: tuple[int, int] | None = None
    accepted: tuple[tuple[str, str], ...] = ()
    id: int = field(default=0, compare=False)


@dataclass(frozen=True)
class LaneKind:
    """A kind of lane and the rules in which it differs from others.

    Attributes:
        name: Stored and sent.
        title: What a lane of this kind is called to begin with.
        sources: Classes of what can lie on it.
        gaps: Whether frames may be empty; without gaps items have no ends, and cover the song.
        overlap: Whether two items may share frames.
        several: Whether an edit may have more than one such lane.
        meets: What is said where two items meet that may not.
        named: What an item is called in messages.
    """

    name: str
    title: str
    sources: tuple[type, ...]
    gaps: bool = True
    overlap: bool = False
    several: bool = True
    named: str = "item"
    meets: str = "Two items of one lane cannot overlap."


@dataclass(frozen=True)
class Lane:
    """Items of one kind in order of their start. A lane that is off is not seen; nothing on a locked one is changed."""

    kind: LaneKind
    items: tuple[Item, ...] = ()
    name: str = ""
    on: bool = True
    locked: bool = False
    id: int = field(default=0, compare=False)

    def index_of(self, item_id: int) -> int:
        """Index of an item.

        Raises:
            Refused: it is not on this lane.
        """
        for index, item in enumerate(self.items):
            if item.id == item_id:
                return index
        raise Refused(f"That {self.kind.named} is not there any more.")


@dataclass(frozen=True)
class Edit:
    """A version of the cut; ``length`` in frames is the whole song, whose first frame is 0.

    ``lanes`` lie over each other in their order, the base lane at the bottom. ``fresh`` is the next id to be given.
    ``lead`` frames of film come before the song, ``tail`` after it: the lanes over the base reach into them.
    """

    length: int
    lanes: tuple[Lane, ...]
    fresh: int = field(default=1, compare=False)
    lead: int = 0
    tail: int = 0

    @property
    def first(self) -> int:
        """The film's first frame: 0, or below where it has a lead-in."""
        return -self.lead

    @property
    def end(self) -> int:
        """Frame at which the film ends (exclusive)."""
        return self.length + self.tail

    @property
    def shots(self) -> tuple[Item, ...]:
        """Items of the base lane."""
        return self.lanes[0].items

    def end_of(self, index: int) -> int:
        """Frame at which a shot ends (exclusive)."""
        shots = self.shots
        return shots[index + 1].start if index + 1 < len(shots) else self.length

    def index_at(self, frame: int) -> int:
        """Index of the shot on the base lane at a frame."""
        shots = self.shots
        low, high = 0, len(shots) - 1
        while low < high:
            middle = (low + high + 1) // 2
            if shots[middle].start <= frame:
                low = middle
            else:
                high = middle - 1
        return low

    def of_kind(self, kind: LaneKind) -> list[Lane]:
        """Lanes of a kind, from the bottom up."""
        return [lane for lane in self.lanes if lane.kind is kind]

    def lane(self, lane_id: int) -> Lane:
        """A lane by its id.

        Raises:
            Refused: there is none.
        """
        for lane in self.lanes:
            if lane.id == lane_id:
                return lane
        raise Refused("That lane is not there any more.")

    def find(self, item_id: int) -> tuple[Lane, int]:
        """The lane on which an item lies, and its index there.

        Raises:
            Refused: it is not there.
        """
        for lane in self.lanes:
            for index, item in enumerate(lane.items):
                if item.id == item_id:
                    return lane, index
        raise Refused("What was meant is not there any more.")

    def placed(self, lanes: Iterable[Lane] | None = None) -> list[tuple[Item, int]]:
        """Items with their ends (exclusive), lane by lane; of all lanes that are on, or of these."""
        chosen = [lane for lane in self.lanes if lane.on] if lanes is None else lanes
        return [pair for lane in chosen for pair in zip(lane.items, ends_of(lane, self.length), strict=True)]

    def with_lane(self, lane: Lane) -> "Edit":
        """The edit with a lane in the place of the one with its id (on the base lane: in the place of that)."""
        lanes = tuple(lane if one.id == lane.id else one for one in self.lanes)
        return replace(self, lanes=lanes)

    def with_items(self, lane: Lane, items: Iterable[Item]) -> "Edit":
        """The edit with other items on a lane, brought into order and checked.

        Raises:
            Refused: as :func:`checked`.
        """
        ordered = tuple(sorted(items, key=lambda i: i.start))
        return checked(self.with_lane(replace(lane, items=ordered)))


def ends_of(lane: Lane, length: int) -> list[int]:
    """End (exclusive) of each item of a lane of an edit of so many frames."""
    if lane.kind.gaps:
        return [length if i.end is None else i.end for i in lane.items]
    return [*[i.start for i in lane.items[1:]], length]


def checked(edit: Edit) -> Edit:
    """The edit with an id for everything in it, if it keeps every rule of its lanes.

    Of two items with one id, as a split leaves them, the first keeps it.

    Raises:
        Refused: in plain words, which rule it would break.
    """
    base, *above = edit.lanes
    if base.kind.gaps or any(not lane.kind.gaps for lane in above):
        raise Refused("An edit has one base lane, and it lies beneath all others.")
    for lane in edit.lanes:
        _check_lane(lane, edit)
    return _numbered(edit)


def _check_lane(lane: Lane, edit: Edit) -> None:
    kind, items = lane.kind, lane.items
    if not kind.gaps:
        if not items or items[0].start != 0:
            raise Refused("The first shot has to start with the song.")
        starts = [item.start for item in items]
        if not all(map(lt, starts, starts[1:])):
            twice = next(b for a, b in itertools.pairwise(starts) if b <= a)
            raise Refused(f"Two cuts cannot share frame {twice}: a shot is at least one frame long.")
        if items[-1].start >= edit.length:
            raise Refused("A cut has to lie inside the song.")
        return
    before: Item | None = None
    for item in items:
        if item.end is None or not edit.first <= item.start < item.end <= edit.end:
            inside = "the film" if edit.lead or edit.tail else "the song"
            raise Refused(f"A {kind.named} has to lie inside {inside} and be at least one frame long.")
        if not kind.overlap and before is not None and before.end is not None and item.start < before.end:
            raise Refused(kind.meets)
        before = item


def _numbered(edit: Edit) -> Edit:
    """The edit with ids of its own for lanes and items that have none, or one that stands before them already."""
    ids = [lane.id for lane in edit.lanes] + [i.id for lane in edit.lanes for i in lane.items]
    if 0 not in ids and len(set(ids)) == len(ids):
        return edit
    known: set[int] = set()
    fresh = edit.fresh
    lanes: list[Lane] = []
    for lane in edit.lanes:
        if lane.id in known or lane.id == 0:
            lane, fresh = replace(lane, id=fresh), fresh + 1
        known.add(lane.id)
        lanes.append(lane)
    for n, lane in enumerate(lanes):
        items: list[Item] | None = None
        for k, item in enumerate(lane.items):
            if item.id in known or item.id == 0:
                items = list(lane.items) if items is None else items
                items[k] = replace(item, id=fresh)
                fresh += 1
            else:
                known.add(item.id)
        if items is not None:
            lanes[n] = replace(lane, items=tuple(items))
    if fresh == edit.fresh:
        return edit
    return replace(edit, lanes=tuple(lanes), fresh=fresh)


def source_to_dict(source: Source) -> dict[str, Any]:
    """A source as plain data for storage and exchange."""
    if isinstance(source, AngleSource):
        slipped = {"slip": source.slip} if source.slip else {}
        return {"kind": source.kind, "angle": source.angle, **slipped}
    if isinstance(source, ClipSource):
        return {"kind": source.kind, "media": source.media, "in_s": source.in_s, "speed": source.speed}
    if isinstance(source, CardSource):
        follows: dict[str, Any] = {} if source.line is None else {"line": source.line}
        follows |= {"leads": list(source.leads)} if source.leads else {}
        return {"kind": source.kind, "card": card_to_dict(source.card), **follows}
    if isinstance(source, Empty) and source.words:
        return {"kind": source.kind, "words": source.words}
    return {"kind": source.kind}


def source_from_dict(data: dict[str, Any]) -> Source:
    """The inverse of :func:`source_to_dict`.

    Raises:
        BadInput: an unknown kind or a missing value.
    """
    try:
        if data["kind"] == AngleSource.kind:
            return AngleSource(int(data["angle"]), int(data.get("slip", 0)))
        if data["kind"] == ClipSource.kind:
            return ClipSource(str(data["media"]), float(data["in_s"]), float(data.get("speed", 1.0)))
        if data["kind"] == CardSource.kind:
            line, leads = data.get("line"), data.get("leads")
            return CardSource(
                card_from_dict(data["card"]),
                None if line is None else int(line),
                (int(leads[0]), int(leads[1])) if leads else None,
            )
        if data["kind"] == Empty.kind:
            return Empty(str(data.get("words", "")))
        for plain in (BlackSource, Beneath):
            if data["kind"] == plain.kind:
                return plain()
    except (KeyError, TypeError, ValueError) as fault:
        raise BadInput(f"A shot's source is damaged: {data!r} ({fault}).") from None
    raise BadInput(f"A shot's source of kind {data['kind']!r} is not known.")
