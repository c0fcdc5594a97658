"""Worth of the moments of a clip where nobody has said what is good in it: lit, steady, moving."""

from statistics import median

from zembi.core.footage.measure import Measured

#: Lightness below which hardly anything is seen, and share of the picture that may be burnt out.
_DARK, _BURNT = 0.08, 0.1
#: Shake, in per cent of the picture's width, at which a moment is worth half as much.
_SHAKY = 0.6


def worth(measured: Measured) -> tuple[float, ...]:
    """Worth of each moment that was measured, 0 to 1."""
    usual = max(median(measured.motion), 1e-4) if measured.motion else 1.0
    moments = zip(measured.light, measured.burnt, measured.shake, measured.motion, strict=True)
    return tuple(
        round(_lit(light, burnt) * (1 / (1 + shake / _SHAKY)) * (0.5 + 0.5 * motion / (motion + usual)), 4)
        for light, burnt, shake, motion in moments
    )


def _lit(light: float, burnt: float) -> float:
    return min(1.0, light / _DARK) * max(0.0, 1.0 - burnt / _BURNT * 0.5)
