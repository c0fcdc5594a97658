"""The programme: layers of spans, from the bottom up, and the sound."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zembi.core.picture.chain import PLAIN, Chain, later
from zembi.core.programme.sound import SILENT, Sound
from zembi.core.timebase import frames_on_display
from zembi.core.timemap import NO_TIME, TimeMap, playback
from zembi.core.titles.card import Card
from zembi.core.titles.shown import ALL, Shown

#: How frames between two of a file are made: not at all (the one on display), mixed of both, or with what moves moved.
InBetween = Literal["", "mixed", "moved"]
#: The least share of the next frame that is mixed in.
MIX_FROM = 1 / 64


@dataclass(frozen=True)
class Picture:
    """A file's picture."""

    media: str


@dataclass(frozen=True)
class Black:
    """Black, because somebody wants it."""


@dataclass(frozen=True)
class Hole:
    """No picture where one is wanted, and why. What lies beneath shows, and at last black."""

    reason: str


@dataclass(frozen=True)
class Title:
    """Words over what lies beneath, and what of them is seen."""

    card: Card
    shown: Shown = ALL


@dataclass(frozen=True)
class Colour:
    """One colour all over, "#rrggbb", over what lies beneath."""

    code: str


Content = Picture | Black | Hole | Title | Colour


@dataclass(frozen=True)
class Why:
    """The item that a span comes from.

    Attributes:
        kind: The kind of its lane; "angle" for what an angle shows.
        at: Its first frame; the angle's id.
        item: Its id; 0 for an angle.
    """

    kind: str
    at: int
    item: int = 0


@dataclass(frozen=True)
class Span:
    """Programme frames ``start`` (inclusive) to ``end`` (exclusive) of a layer that show one content.

    ``time`` has as many frames as the span where the content is a picture, and none otherwise. The curves of
    ``chain`` count frames from the span's start. ``blend`` says how what lies between two
    frames of the file is made.
    """

    start: int
    end: int
    content: Content
    time: TimeMap = NO_TIME
    chain: Chain = PLAIN
    why: Why | None = None
    blend: InBetween = ""

    @property
    def frames(self) -> int:
        """Length in frames."""
        return self.end - self.start

    @property
    def media(self) -> str | None:
        """The file whose picture is shown, if it is one."""
        return self.content.media if isinstance(self.content, Picture) else None

    @property
    def hides(self) -> bool:
        """True if the span takes the place of what lies beneath it: a picture or black does."""
        return isinstance(self.content, Picture | Black)


#: What an empty slot shows.
EMPTY_SLOT = Hole("an empty slot")


@dataclass(frozen=True)
class Layer:
    """Spans in order of their start. Where spans overlap, the later lies over the earlier.

    On the base lane that happens in dissolves, which never meet (``core/edit/compiling/base.py``): two shots share a frame at most.
    """

    name: str
    spans: tuple[Span, ...]


@dataclass(frozen=True)
class Programme:
    """A film: layers from the bottom up, and what is heard.

    Attributes:
        length: Frames of the song, whose first is 0.
        layers: From the bottom up.
        sound: What is heard.
        lead, tail: Frames of the film before and after the song.
    """

    length: int
    layers: tuple[Layer, ...]
    sound: Sound = SILENT
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


def shown(start: int, end: int, media: str, at_s: float = 0.0, speed: float = 1.0) -> Span:
    """A span of plain playback from a media time on."""
    return Span(start, end, Picture(media), playback(end - start, at_s, speed))


def source_frames(span: Span, rate: Fraction, times: NDArray[np.float64]) -> NDArray[np.int64]:
    """Index of the source frame shown in each of the span's frames.

    Args:
        span: A span with a picture.
        rate: Programme rate.
        times: The file's presentation times from its first frame, ascending.
    """
    return frames_on_display(times, span.time.times(rate))


def trimmed(span: Span, start: int, end: int, rate: Fraction, why: Why | None = None) -> Span:
    """The part of a span inside ``start`` to ``end``; the picture in each frame stays the same.

    It comes from what ``why`` says, or from what the span does.
    """
    why = why or span.why
    first, last = max(start, span.start), min(end, span.end)
    if first == span.start and last == span.end and why is span.why:
        return span
    into = first - span.start
    time = span.time.cut(into, last - span.start, rate)
    return Span(first, last, span.content, time, later(span.chain, into), why, span.blend)


def source_mixes(
    span: Span, rate: Fraction, times: NDArray[np.float64]
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """For each of the span's frames a source frame, and the share of the next one that is mixed into it.

    A source frame stands for the middle of its time on display: at its own speed nothing is mixed.

    Args:
        span: A span with a picture.
        rate: Programme rate.
        times: The file's presentation times from its first frame, ascending.
    """
    at = span.time.times(rate)
    if not span.blend or len(times) < 2:
        return frames_on_display(times, at), np.zeros(len(at))
    middles = frame_middles(times)
    shown = np.clip(np.searchsorted(middles, at, side="right") - 1, 0, len(times) - 1)
    following = np.minimum(shown + 1, len(times) - 1)
    long = np.maximum(middles[following] - middles[shown], 1e-9)
    share = np.where(following > shown, np.clip((at - middles[shown]) / long, 0.0, 1.0), 0.0)
    # A hair beside a frame is that frame.
    shown = np.where(share > 1 - MIX_FROM, following, shown)
    return shown, np.where((share < MIX_FROM) | (share > 1 - MIX_FROM), 0.0, share)


def frame_middles(times: NDArray[np.float64]) -> NDArray[np.float64]:
    """The middle of the time for which each of two or more frames is on display, from their presentation times."""
    long = np.diff(times)
    return np.asarray(times + np.append(long, long[-1]) / 2)
