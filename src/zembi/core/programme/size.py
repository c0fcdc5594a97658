"""Sizes that a film can have."""

from zembi.core.errors import BadInput

#: Shortest and longest side of a film in pixels; sides are even, as its coding of colour wants.
SIDES = (16, 8192)
#: Sizes that are offered.
USUAL_SIZES = ((1920, 1080), (3840, 2160), (1280, 720), (1080, 1920), (1080, 1080), (2048, 858))


def checked_size(width: int, height: int) -> tuple[int, int]:
    """A size, if a film can have it.

    Raises:
        BadInput: a side that is odd, or out of range.
    """
    low, high = SIDES
    if width % 2 or height % 2 or not (low <= width <= high and low <= height <= high):
        raise BadInput(
            f"A picture of {width}×{height} cannot be coded: sides are even, from {low} to {high}."
        )
    return width, height
