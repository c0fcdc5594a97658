"""OpenTimelineIO documents, looked through before the library is given them."""

from fractions import Fraction
from typing import Any

import opentimelineio as otio

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most, checked_json, in_words, within
from zembi.core.timebase import nearest_standard_rate

_FASTEST = 1e6


def read_document(text: str, name: str) -> Any:
    """A timeline that the library has read.

    The library trusts what it reads: what would end it, or give times that are none, is refused first.

    Raises:
        BadInput: not a timeline, or one with missing parts or impossible numbers.
    """
    document = checked_json(text, name, "an OpenTimelineIO file")
    schema = str(document.get("OTIO_SCHEMA", "")) if isinstance(document, dict) else ""
    if not schema.startswith("Timeline."):
        holds = schema.partition(".")[0] or "something else"
        raise BadInput(f"{name} is not an OpenTimelineIO file with a timeline: it holds {holds}.")
    _check(document, name)
    timeline = in_words(name)(lambda: otio.adapters.read_from_string(text, "otio_json"))
    if not isinstance(timeline, otio.schema.Timeline):
        raise BadInput(f"{name} holds a {type(timeline).__name__}, not a timeline.")
    return timeline


def exact_seconds(time: Any) -> Fraction:
    """A time of the library as an exact number of seconds."""
    return Fraction(time.value).limit_denominator(10**9) / nearest_standard_rate(time.rate)


def media_start(clip: Any) -> Fraction:
    """Seconds from the media's first picture frame to a clip's first frame.

    A source range counts on the file's own timecode where its reference says at which that begins (its available
    range), else from the first frame. The one convention of every reader.
    """
    begin = clip.source_range.start_time if clip.source_range else None
    if begin is None:
        return Fraction(0)
    available = getattr(clip.media_reference, "available_range", None)
    return exact_seconds(begin) - (exact_seconds(available.start_time) if available is not None else 0)


def _check(document: dict[str, Any], name: str) -> None:
    waiting: list[Any] = [document]
    clips = 0
    while waiting:
        value = waiting.pop()
        if isinstance(value, list):
            waiting += value
        if not isinstance(value, dict):
            continue
        waiting += value.values()
        kind = str(value.get("OTIO_SCHEMA", "")).partition(".")[0]
        clips += kind in ("Clip", "Gap", "Transition")
        if kind == "RationalTime":
            _number(value.get("rate"), f"A rate in {name}", 1e-3, _FASTEST)
            _number(value.get("value"), f"A time in {name}", -1e12, 1e12)
        elif kind == "TimeRange":
            _parts(value, ("start_time", "duration"), dict, name)
        elif kind == "LinearTimeWarp":
            _number(value.get("time_scalar", 1.0), f"A speed in {name}", -1000.0, 1000.0)
        elif kind == "Timeline":
            _parts(value, ("tracks",), dict, name)
        elif kind in ("Stack", "Track"):
            _parts(value, ("children",), list, name)
            if any(not isinstance(c, dict) for c in value["children"]):
                raise BadInput(f"{name} has a track with something in it that is no clip.")
    at_most(clips, name)


def _parts(value: dict[str, Any], names: tuple[str, ...], kind: type, file: str) -> None:
    for part in names:
        if not isinstance(value.get(part), kind):
            raise BadInput(f"{file} is damaged: a {value['OTIO_SCHEMA']} has no “{part}”.")


def _number(value: object, what: str, low: float, high: float) -> None:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise BadInput(f"{what} is not a number.")
    within(value, what, low, high)
