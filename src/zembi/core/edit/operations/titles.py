"""Operations that lay and change titles."""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

from zembi.core.edit.items import with_item
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import CardSource, Edit, Item, Lane, checked, ends_of
from zembi.core.edit.operations.context import Context, SungLine
from zembi.core.edit.operations.lanes import with_new_lane
from zembi.core.edit.operations.laying import around, ends_by_itself
from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import Unit
from zembi.core.timebase import seconds_to_frame
from zembi.core.titles.card import Card, checked_card
from zembi.core.titles.lyric import broken_line
from zembi.core.titles.presets import LYRIC_STYLES, PRESETS, worded

#: Most frames before a line's beginning and after its end that its title is seen.
MOST_LEAD = 240
#: Most titles that are laid at once from a file.
MOST_CUES = 5000


class _Room:
    """A lane of titles while more are laid on it: its items in order of their start."""

    def __init__(self, lane: Lane, length: int) -> None:
        self.lane = lane
        self.items = list(lane.items)
        self._starts = [i.start for i in lane.items]
        self._ends = ends_of(lane, length)

    def takes(self, item: Item) -> bool:
        """Lay an item, where it is free there."""
        end = item.end or 0
        at = bisect_right(self._starts, item.start)
        if (at and self._ends[at - 1] > item.start) or (at < len(self._starts) and self._starts[at] < end):
            return False
        self.items.insert(at, item)
        self._starts.insert(at, item.start)
        self._ends.insert(at, end)
        return True


def _laid(edit: Edit, items: Sequence[Item], lane_id: int | None = None) -> Edit:
    """The edit with titles laid on the lane asked for, or each on the lowest that is free there, or on a new one.

    Raises:
        Refused: the lane that was asked for is gone, of another kind, locked or taken there; there may be no more lanes.
    """
    if lane_id is not None:
        lane = edit.lane(lane_id)
        if lane.kind is not TITLES:
            raise Refused(f"No title is laid on the lane “{lane.name}”.")
        return edit.with_items(lane, (*lane.items, *items))
    rooms = [_Room(lane, edit.length) for lane in edit.of_kind(TITLES) if lane.on and not lane.locked]
    for item in items:
        if not any(room.takes(item) for room in rooms):
            # Checked at once: a lane gets its id.
            edit = checked(with_new_lane(edit, TITLES))
            room = _Room(edit.of_kind(TITLES)[-1], edit.length)
            room.takes(item)
            rooms.append(room)
    for room in rooms:
        edit = edit.with_items(edit.lane(room.lane.id), room.items)
    return edit


@dataclass(frozen=True)
class LayCard:
    """Lay a title from the grid point nearest to a working time.

    Without ``end_s`` it ends by itself, as :func:`zembi.core.edit.operations.laying.ends_by_itself` says. Without a ``lane``
    it goes to the lowest of titles that is free there; where there is none, to a new one over the others.
    """

    card: Card
    working_s: float
    unit: Unit = "beat"
    lead: int | None = None
    end_s: float | None = None
    lane: int | None = None
    op: Literal["lay card"] = "lay card"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return f"Lay the title {said_short(self.card)}"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        checked_card(self.card)
        first = context.frame_around(edit, self.working_s, self.unit, self.lead)
        if self.end_s is not None:
            last = context.end_around(edit, self.end_s, self.unit, self.lead)
        elif (part := around(edit, first)) is not None:
            last = part
        else:
            here = self.working_s if self.unit == "free" else context.point(self.working_s, self.unit)
            last = min(edit.length, ends_by_itself(here, self.unit, None, context, self.lead))
        last = min(max(last, first + 1), edit.end)
        return _laid(edit, [Item(first, CardSource(self.card), last)], self.lane)


@dataclass(frozen=True)
class SetCard:
    """Give titles another card; ``items`` are all set to it, each with its own words where ``style`` only is meant."""

    items: tuple[int, ...]
    card: Card
    style: bool = False
    op: Literal["set card"] = "set card"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        if len(self.items) == 1:
            return f"Change the title {said_short(self.card)}"
        return f"Change {len(self.items)} titles"

    def on(self, edit: Edit, _context: Context) -> Edit:
        """The edit after it."""
        checked_card(self.card)
        if not self.items:
            raise BadInput("Choose a title first.")
        for item_id in self.items:
            lane, index = edit.find(item_id)
            item = lane.items[index]
            if not isinstance(item.source, CardSource):
                raise Refused("That is no title.")
            words = [line.text for line in item.source.card.lines]
            card = worded(self.card, *words) if self.style else self.card
            edit = with_item(edit, lane, index, replace(item, source=replace(item.source, card=card)))
        return edit


@dataclass(frozen=True)
class SectionStyle:
    """The style of the words of one section, by the names of both."""

    section: str
    style: str


@dataclass(frozen=True)
class LayLyrics:
    """Lay the lines of the lyrics that begin in a range of frames as titles, each while it is sung.

    Args:
        first, end: The range (half-open); the whole song without.
        only: Lines by their ids, where only some are meant.
        style: Name of a card to begin with.
        card: A card of one's own instead; each title has its own words.
        by_section: Styles of sections that have another.
        lines: How many lines of the lyrics stand in a title, one or two.
        lead: Frames that a title is there before its line begins.
        hold: Frames that it stays after its line ends.
        letters: A line with more is broken where the sense allows.
    """

    first: int = 0
    end: int | None = None
    only: tuple[int, ...] | None = None
    style: str = "lyric low"
    card: Card | None = None
    by_section: tuple[SectionStyle, ...] = ()
    lines: Literal[1, 2] = 1
    lead: int = 4
    hold: int = 6
    letters: int = 42
    op: Literal["lay lyrics"] = "lay lyrics"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Lay the words of the song"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        return _laid(edit, self.items(edit, context))

    def items(self, edit: Edit, context: Context) -> list[Item]:
        """The titles that it lays.

        Raises:
            BadInput: a style that there is not, or a number that cannot be meant.
            Refused: no line with a time begins there.
        """
        if self.card is not None:
            checked_card(self.card)
        if not (0 <= self.lead <= MOST_LEAD and 0 <= self.hold <= MOST_LEAD and 8 <= self.letters <= 200):
            raise BadInput(
                f"A title comes and stays at most {MOST_LEAD} frames before and after, in lines of 8 to 200 letters."
            )
        last = edit.length if self.end is None else min(self.end, edit.length)
        sung = [
            line
            for line in context.lyrics()
            if self.first <= seconds_to_frame(line.start_s, context.rate) < last
            and (self.only is None or line.id in self.only)
        ]
        if not sung:
            raise Refused("No line of the lyrics with a time begins there: time the lines on the Song view.")
        groups = [sung[n : n + self.lines] for n in range(0, len(sung), self.lines)]
        spans = [self._span(group, edit, context) for group in groups]
        out = []
        for n, (group, (start, until)) in enumerate(zip(groups, spans, strict=True)):
            # The next one takes its place: two lines do not stand over each other.
            following = spans[n + 1][0] if n + 1 < len(spans) else edit.end
            until = max(start + 1, min(until, following))
            words = [part for line in group for part in broken_line(line.text, self.letters)]
            style = self._style_at(group[0].start_s, context)
            out.append(
                Item(start, CardSource(worded(style, *words), group[0].id, (self.lead, self.hold)), until)
            )
        return out

    def _style_at(self, working_s: float, context: Context) -> Card:
        """Style of the words that are sung at a time."""
        begun = [s.name for s in context.sections if s.start_s <= working_s + 1e-6]
        own = [one.style for one in self.by_section if begun and one.section == begun[-1]]
        return style_of(own[-1]) if own else self.card or style_of(self.style)

    def _span(self, group: Sequence[SungLine], edit: Edit, context: Context) -> tuple[int, int]:
        until = seconds_to_frame(group[-1].end_s, context.rate) + self.hold
        return _first_of(group[0], self.lead, edit, context.rate), min(max(until, 1), edit.end)


def style_of(name: str) -> Card:
    """A card to begin with for words of the song.

    Raises:
        BadInput: there is none of that name.
    """
    if name not in LYRIC_STYLES:
        known = ", ".join(LYRIC_STYLES)
        raise BadInput(f"“{name}” is no style for the words of the song; there are {known}.")
    return PRESETS[name]


@dataclass(frozen=True)
class TimedWords:
    """Words from one second of the film to another, line by line."""

    start_s: float
    end_s: float
    text: str


@dataclass(frozen=True)
class LayCues:
    """Lay words with times, as a file of timed text has them, as titles; what lies outside the film is left out.

    Args:
        cues: In seconds of the film, which may begin before the song.
        style: Name of a card to begin with.
        card: A card of one's own instead.
        letters: A line with more is broken where the sense allows.
    """

    cues: tuple[TimedWords, ...]
    style: str = "lyric low"
    card: Card | None = None
    letters: int = 42
    op: Literal["lay cues"] = "lay cues"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return f"Lay {len(self.cues)} titles" if len(self.cues) != 1 else "Lay a title"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if not 8 <= self.letters <= 200:
            raise BadInput("Titles are broken in lines of 8 to 200 letters.")
        style = checked_card(self.card) if self.card is not None else style_of(self.style)
        items = []
        for cue in sorted(self.cues, key=lambda c: (c.start_s, c.end_s)):
            start, end = (seconds_to_frame(s, context.rate) - edit.lead for s in (cue.start_s, cue.end_s))
            start, end = max(edit.first, start), min(end, edit.end)
            words = [part for line in cue.text.splitlines() for part in broken_line(line, self.letters)]
            if start < end and any(w.strip() for w in words):
                items.append(Item(start, CardSource(checked_card(worded(style, *words))), end))
        if not items:
            raise Refused("None of these words lies in the film.")
        if len(items) > MOST_CUES:
            raise Refused(f"At most {MOST_CUES:,} titles are laid at once.")
        return _laid(edit, items)


def _first_of(line: SungLine, lead: int, edit: Edit, rate: Fraction) -> int:
    """First frame of a title that comes so many frames before its line, inside the film."""
    return max(edit.first, min(seconds_to_frame(line.start_s, rate) - lead, edit.length - 1))


#: Parts of a title that follows a line which can be changed by hand.
Part = Literal["place", "words"]


def by_hand(item: Item, edit: Edit, lines: Sequence[SungLine], rate: Fraction) -> list[Part]:
    """Parts of a title that were changed by hand, against the line of the lyrics that it follows.

    Args:
        item: The title.
        edit: The edit that it is of.
        lines: Timed lines in order, in working time.
        rate: Programme rate.
    """
    source = item.source
    line = next((s for s in lines if isinstance(source, CardSource) and s.id == source.line), None)
    if line is None or not isinstance(source, CardSource):
        return []
    out: list[Part] = []
    if source.leads and item.start != _first_of(line, source.leads[0], edit, rate):
        out.append("place")
    words = source.card.text.split()
    if words[: len(line.text.split())] != line.text.split():
        out.append("words")
    return out


@dataclass(frozen=True)
class FollowLine:
    """Give titles back to the lines of the lyrics that they follow: their places, their words, or both."""

    items: tuple[int, ...]
    parts: tuple[Part, ...] = ("place", "words")
    op: Literal["follow line"] = "follow line"

    def named(self, _context: Context) -> str:
        """Name of the operation for undo."""
        return "Let a title follow its line" if len(self.items) == 1 else "Let titles follow their lines"

    def on(self, edit: Edit, context: Context) -> Edit:
        """The edit after it."""
        if not self.items:
            raise BadInput("Choose a title first.")
        lines = {line.id: line for line in context.lyrics()}
        for item_id in self.items:
            lane, index = edit.find(item_id)
            item = lane.items[index]
            source = item.source
            line = (
                lines.get(source.line) if isinstance(source, CardSource) and source.line is not None else None
            )
            if line is None or not isinstance(source, CardSource):
                raise Refused("That title follows no line of the lyrics that has a time.")
            if "words" in self.parts:
                longest = max(max(len(part.text) for part in source.card.lines), 24)
                source = replace(source, card=worded(source.card, *broken_line(line.text, longest)))
            start, end = item.start, item.end or edit.end
            if "place" in self.parts:
                lead, hold = source.leads or (LayLyrics.lead, LayLyrics.hold)
                start = _first_of(line, lead, edit, context.rate)
                end = min(edit.end, seconds_to_frame(line.end_s, context.rate) + hold)
                following = [i.start for i in lane.items if i.start > start and i.id != item_id]
                end = max(start + 1, min(end, min(following, default=end)))
            edit = with_item(edit, lane, index, replace(item, start=start, end=end, source=source))
        return edit


def said_short(card: Card) -> str:
    """A card's words, as a name in lists has them."""
    words = " ".join(card.text.split())
    return f"“{words[:30]}…”" if len(words) > 31 else f"“{words}”"
