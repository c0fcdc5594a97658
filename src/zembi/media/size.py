"""Sizes of pictures inside others."""


def fitted_inside(width: int, height: int, to_width: int, to_height: int) -> tuple[int, int]:
    """The largest even size of a shape inside another, two pixels at least however narrow the shape."""
    across = (to_height * width + height // 2) // height
    up = (to_width * height + width // 2) // width
    return max(2, min(across // 2, to_width // 2) * 2), max(2, min(up // 2, to_height // 2) * 2)
