"""The picture of a card for the page, and how it is set."""

import io
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from zembi.core.errors import BadInput, NotAllowed
from zembi.core.titles.card import Card, checked_card
from zembi.core.titles.shown import ALL, Shown
from zembi.media.titles.layout import extent, font_stamp, set_card
from zembi.media.titles.raster import CardPicture, card_picture
from zembi.service.project.workspace import Project

#: Most points of a picture for the page: those of a film in 4K.
LARGEST = 4096 * 2304


@dataclass(frozen=True)
class CardSet:
    """A card as it is set in the film.

    Attributes:
        lines: Its words line by line, as they were broken.
        missing: Letters that no font has.
        stand_in: Why its font file is not used, in words; "" where it is, or none is named.
        left, top, right, bottom: Its extent in widths and heights of the frame from the frame's left and top, not turned.
    """

    lines: tuple[str, ...]
    missing: tuple[str, ...]
    stand_in: str
    left: float
    top: float
    right: float
    bottom: float


def check_font(project: Project, card: Card) -> None:
    """Check that the font file of a card lies where files may be read.

    Raises:
        NotAllowed: outside the allowed media folders and the project's own.
        BadInput: nothing that a file can be called.
    """
    if not card.file:
        return
    try:
        real = Path(card.file).expanduser().resolve()
    except (OSError, RuntimeError, ValueError) as fault:
        raise BadInput(f"“{card.file[:80]}” is not a path that can be followed ({fault}).") from None
    if not Path(card.file).is_absolute():
        raise BadInput("Write the whole path of the font file, from the root of the disk on.")
    if not any(real.is_relative_to(f) for f in (project.folder.resolve(), *project.media_folders)):
        raise NotAllowed(
            f"{real.name} lies in {real.parent}, outside the allowed media folders. Start zembi serve with --media to allow "
            "that folder."
        )


def card_set(project: Project, card: Card) -> CardSet:
    """Set a card.

    Raises:
        BadInput: it cannot be.
    """
    check_font(project, card)
    about = project.about
    aspect = about.width / about.height
    laid = set_card(checked_card(card), aspect)
    return CardSet(laid.lines, laid.missing, laid.stand_in, *extent(card, aspect))


@dataclass(frozen=True)
class CardImage:
    """The part of the frame that a card covers, as PNG with alpha; ``left`` and ``top`` are its first column and row."""

    png: bytes
    left: int
    top: int


def card_image(project: Project, card: Card, width: int, height: int, shown: Shown = ALL) -> CardImage:
    """The film's picture of what is seen of a card, in a frame scaled to a size.

    Raises:
        BadInput: it cannot be set, or is asked for too large.
        NotAllowed: its font file lies where none may be read.
    """
    if width * height > LARGEST:
        raise BadInput(f"A picture of a card has {LARGEST:,} points at most, not {width} by {height}.")
    check_font(project, card)
    about = project.about
    film = (about.width, about.height)
    return _image(checked_card(card), film, (width, height), shown, font_stamp(card))


@lru_cache(maxsize=256)
def _image(card: Card, film: tuple[int, int], size: tuple[int, int], shown: Shown, _stamp: int) -> CardImage:
    out = io.BytesIO()
    picture, left, top = scaled(card_picture(card, *film, shown), size)
    cover = picture[..., 3:]
    picture[..., :3] = np.divide(
        picture[..., :3], cover, out=np.zeros_like(picture[..., :3]), where=cover > 0
    )
    Image.fromarray(np.rint(picture * 255).astype(np.uint8), "RGBA").save(out, "PNG", compress_level=1)
    return CardImage(out.getvalue(), left, top)


def scaled(picture: CardPicture, size: tuple[int, int]) -> tuple[NDArray[np.float32], int, int]:
    """The part of a frame of a size that a card covers, each point the mean of those that it stands for; premultiplied.

    Returns:
        The part, and its first column and row.
    """
    film = picture.size
    step = film[0] // size[0]
    if (size[0] * step, size[1] * step) != film:
        whole = np.asarray(cv2.resize(picture.whole(), size, interpolation=cv2.INTER_AREA), np.float32)
        return whole, 0, 0
    # Only where the card lies is there anything to be scaled.
    rows, columns = picture.part
    top, left = rows.start // step, columns.start // step
    bottom, right = -(-rows.stop // step), -(-columns.stop // step)
    part = np.zeros(((bottom - top) * step, (right - left) * step, 4), np.float32)
    within = (
        slice(rows.start - top * step, rows.stop - top * step),
        slice(columns.start - left * step, columns.stop - left * step),
    )
    part[within] = picture.rgba
    small = cv2.resize(part, (right - left, bottom - top), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32), left, top
