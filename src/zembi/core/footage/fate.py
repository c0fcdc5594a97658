"""Consequences for a clip in the film: frames doubled or left out, bars, enlargement."""

from fractions import Fraction

from zembi.core.footage.files import Facts
from zembi.core.timebase import frames_shown, rate_label

#: Shapes that differ by no more have no bars to speak of, and sizes that differ by no more are not enlarged.
_NEARLY = 0.01


def fate_of(clip: Facts, film: tuple[int, int], rate: Fraction) -> list[str]:
    """Consequences for a clip, a line each.

    Args:
        clip: What is known of it.
        film: Width and height of the film.
        rate: Of the film.
    """
    return [*_frames(clip, rate), *_picture(clip, film)]


def _frames(clip: Facts, rate: Fraction) -> list[str]:
    if clip.still:
        return ["a still: lasts as long as its place"]
    if not clip.rate:
        return []
    out = []
    times = float(clip.rate / rate)
    if times >= 1.5:
        out.append(f"{rate_label(clip.rate)} f/s: up to {times:.3g} times slower without a doubled frame")
    if shown := frames_shown(times):
        out.append(f"at its own speed {shown}")
    if clip.variable:
        out.append("its frames come unevenly; each is shown at its time")
    return out


def _picture(clip: Facts, film: tuple[int, int]) -> list[str]:
    if not clip.width or not clip.height:
        return []
    out = []
    wider = clip.width * film[1] / (clip.height * film[0])
    if abs(wider - 1) > _NEARLY:
        out.append("bars at its sides" if wider < 1 else "bars above and below")
    larger = min(film[0] / clip.width, film[1] / clip.height)
    if larger > 1 + _NEARLY:
        out.append(f"enlarged {larger:.1f} times")
    return out
