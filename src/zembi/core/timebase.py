"""Frame rates as fractions, timecode, and the one rule by which seconds and frames meet.

No other module turns seconds into frames. The frame shown at programme frame *n* is the source frame on
display at the *middle* of programme frame *n*; :func:`frame_on_display` is that rule.
"""

import math
import re
from collections.abc import Sequence
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from zembi.core.errors import BadInput

#: The project rates offered, by the label editors say.
RATES: dict[str, Fraction] = {
    "23.976": Fraction(24000, 1001),
    "24": Fraction(24),
    "25": Fraction(25),
    "29.97": Fraction(30000, 1001),
    "30": Fraction(30),
    "50": Fraction(50),
    "59.94": Fraction(60000, 1001),
    "60": Fraction(60),
}

#: Slack in seconds when a time falls exactly on a presentation time; far below any frame, far above float noise.
ON_TIME = 1e-6

_TIMECODE = re.compile(r"^(\d{1,2})[:](\d{2})[:](\d{2})([:;.])(\d{2,3})$")


def parse_rate(text: str) -> Fraction:
    """Read a frame rate: a label ("23.976"), a fraction ("24000/1001") or a number ("25").

    Raises:
        BadInput: not a number, or outside 1 to 1000 frames a second.
    """
    cleaned = text.strip()
    if cleaned in RATES:
        return RATES[cleaned]
    try:
        value = Fraction(cleaned)
    except (ValueError, ZeroDivisionError):
        raise BadInput(f"“{text}” is not a frame rate: write 24, 23.976 or 24000/1001.") from None
    if not 1 <= value <= 1000:
        raise BadInput(f"A frame rate of {text} is outside 1 to 1000 frames a second.")
    return nearest_standard_rate(value)


def nearest_standard_rate(value: Fraction | float) -> Fraction:
    """The exact broadcast fraction for a decimal that was meant as one (23.98 -> 24000/1001), else the value.

    >>> nearest_standard_rate(Fraction("29.97"))
    Fraction(30000, 1001)
    """
    for base in (24, 25, 30, 48, 50, 60, 100, 120):
        for exact in (Fraction(base), Fraction(base * 1000, 1001)):
            if abs(float(value) - float(exact)) < 0.0055:
                return exact
    return Fraction(value).limit_denominator(100_000)


def rate_label(rate: Fraction) -> str:
    """The rate as editors write it: "23.976", "25", "29.97"."""
    for label, value in RATES.items():
        if value == rate:
            return label
    return f"{float(rate):.3f}".rstrip("0").rstrip(".")


def frame_to_seconds(frame: int, rate: Fraction) -> float:
    """Song time in seconds at which programme frame ``frame`` begins."""
    return frame * rate.denominator / rate.numerator


def frame_middle(frame: int, rate: Fraction) -> float:
    """Song time in seconds at the middle of programme frame ``frame``."""
    return (2 * frame + 1) * rate.denominator / (2 * rate.numerator)


def seconds_to_frame(seconds: float, rate: Fraction) -> int:
    """The frame whose *beginning* is nearest to a song time; ties go to the later frame."""
    return math.floor(seconds * rate.numerator / rate.denominator + 0.5 + 1e-9)


def frame_at(seconds: float, rate: Fraction) -> int:
    """The programme frame on screen at a song time."""
    return math.floor(seconds * rate.numerator / rate.denominator + ON_TIME)


def frames_for_length(seconds: float, rate: Fraction) -> int:
    """Number of frames needed so that a song of this length has picture to its end (rounded up)."""
    return max(1, int(np.ceil(seconds * float(rate) - ON_TIME)))


def frame_on_display(times: Sequence[float] | NDArray[np.float64], at_s: float) -> int:
    """Index of the source frame on display at a media time.

    Args:
        times: Presentation times in seconds, ascending, one a frame.
        at_s: Media time in seconds on the same clock.

    Returns:
        The last frame presented at or before ``at_s``; 0 before the first, the last one after the end.
    """
    return max(0, int(np.searchsorted(np.asarray(times), at_s + ON_TIME, side="right")) - 1)


def frames_on_display(times: NDArray[np.float64], at_s: NDArray[np.float64]) -> NDArray[np.int64]:
    """:func:`frame_on_display` for many times at once."""
    return np.maximum(np.searchsorted(times, at_s + ON_TIME, side="right") - 1, 0).astype(np.int64)


def settle_times(times: NDArray[np.float64], rate: Fraction, tick_s: float) -> NDArray[np.float64]:
    """Undo a container's rounding of presentation times.

    Some containers keep whole milliseconds. Where every time lies within one tick of an even spacing at the
    stream's own rate, the even spacing is what was meant and is returned; otherwise the times are kept.

    Args:
        times: Presentation times in seconds from the first frame, shape (n,).
        rate: The rate that the stream declares.
        tick_s: Length of the container's clock tick in seconds.
    """
    even = np.arange(len(times), dtype=np.float64) * float(1 / rate)
    if (
        len(times)
        and np.max(np.abs(times - even)) <= max(tick_s, 1e-6) * 1.01
        and tick_s < 0.25 / float(rate)
    ):
        return even
    return times


def _drop_per_minute(rate: Fraction) -> int:
    if rate == Fraction(30000, 1001):
        return 2
    if rate == Fraction(60000, 1001):
        return 4
    return 0


def frame_to_timecode(frame: int, rate: Fraction, *, drop: bool = False, first: int = 0) -> str:
    """Timecode of a frame, SMPTE ST 12-1; ``first`` is the frame number of the programme's first timecode.

    A frame before 0 is written with a minus.

    >>> frame_to_timecode(1800, Fraction(30000, 1001), drop=True)
    '00:01:00;02'
    """
    number = frame + first
    if number < 0:
        return f"-{frame_to_timecode(-number, rate, drop=drop)}"
    nominal = round(float(rate))
    dropped = _drop_per_minute(rate) if drop else 0
    if dropped:
        ten = nominal * 600 - 9 * dropped
        tens, rest = divmod(number, ten)
        number += 9 * dropped * tens
        if rest >= nominal * 60:
            number += dropped * (1 + (rest - nominal * 60) // (nominal * 60 - dropped))
    seconds, frames = divmod(number, nominal)
    hours, seconds = divmod(seconds, 3600)
    width = 3 if nominal > 100 else 2
    mark = ";" if dropped else ":"
    return f"{hours % 24:02d}:{seconds // 60:02d}:{seconds % 60:02d}{mark}{frames:0{width}d}"


def timecode_to_frame(text: str, rate: Fraction) -> int:
    """The frame number that a timecode names; a semicolon before the frames means drop-frame.

    Raises:
        BadInput: not a timecode, or one that this rate does not have.
    """
    match = _TIMECODE.match(text.strip())
    if not match:
        raise BadInput(f"“{text}” is not a timecode: write hours:minutes:seconds:frames, as in 01:00:00:00.")
    hours, minutes, seconds = (int(match[i]) for i in (1, 2, 3))
    frames = int(match[5])
    nominal = round(float(rate))
    if minutes > 59 or seconds > 59 or frames >= nominal:
        raise BadInput(f"Timecode {text} does not exist at {rate_label(rate)} frames a second.")
    dropped = _drop_per_minute(rate) if match[4] == ";" else 0
    if dropped and minutes % 10 and seconds == 0 and frames < dropped:
        raise BadInput(f"Drop-frame timecode skips {text}.")
    total_minutes = hours * 60 + minutes
    number = (total_minutes * 60 + seconds) * nominal + frames
    return number - dropped * (total_minutes - total_minutes // 10)


def nth(count: int) -> str:
    """A number as an order: 1st, 2nd."""
    last = {1: "st", 2: "nd", 3: "rd"}.get(count % 10 if count % 100 not in (11, 12, 13) else 0, "th")
    return f"{count}{last}"


def slowest(source: Fraction, film: Fraction) -> float:
    """The slowest speed at which no frame of a source is shown twice: 1 where it has no more frames than the film."""
    return float(min(Fraction(1), film / source))


def frames_shown(step: float) -> str:
    """Words for how a source's frames are shown; "" where each is shown once.

    Args:
        step: Frames of the source for each frame of the film: the source's rate against the film's, times its speed.
    """
    if abs(step - round(step)) < 0.002 and step >= 1:
        return "" if round(step) == 1 else f"every {nth(round(step))} frame of the clip shown"
    if step > 1.5:
        return f"about {100 * (1 - 1 / step):.0f} % of the clip's frames left out"
    if step > 1:
        return f"about every {nth(round(step / (step - 1)))} frame left out"
    if 1 - step < 0.002:
        return ""
    if step > 0.5:
        return f"about every {nth(round(1 / (1 - step)))} frame shown twice"
    return f"each frame shown about {1 / step:.1f} times"
