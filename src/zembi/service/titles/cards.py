"""The picture of a card for the page, and how it is set."""

import io
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from PIL import Image

from zembi.core.titles.card import Card, checked_card
from zembi.media.titles.layout import extent, set_card
from zembi.media.titles.raster import card_picture
from zembi.service.project.workspace import Project


@dataclass(frozen=True)
class CardSet:
    """A card as it is set in the film.

    Attributes:
        lines: Its words line by line, as they were broken.
        missing: Letters that no font has.
        left, top, right, bottom: Its extent in widths and heights of the frame from the frame's left and top, not turned.
    """

    lines: tuple[str, ...]
    missing: tuple[str, ...]
    left: float
    top: float
    right: float
    bottom: float


def card_set(project: Project, card: Card) -> CardSet:
    """Set a card.

    Raises:
        BadInput: it cannot be.
    """
    about = project.about
    aspect = about.width / about.height
    laid = set_card(checked_card(card), aspect)
    return CardSet(laid.lines, laid.missing, *extent(card, aspect))


def card_png(project: Project, card: Card, width: int, height: int) -> bytes:
    """The film's picture of a card, scaled to a size, as PNG with alpha.

    Raises:
        BadInput: it cannot be set.
    """
    about = project.about
    return _png(checked_card(card), (about.width, about.height), (width, height))


@lru_cache(maxsize=128)
def _png(card: Card, film: tuple[int, int], size: tuple[int, int]) -> bytes:
    whole = card_picture(card, *film).whole()
    if size != film:
        whole = np.asarray(cv2.resize(whole, size, interpolation=cv2.INTER_AREA), np.float32)
    cover = whole[..., 3:]
    whole[..., :3] = np.divide(whole[..., :3], cover, out=np.zeros_like(whole[..., :3]), where=cover > 0)
    out = io.BytesIO()
    Image.fromarray(np.rint(whole * 255).astype(np.uint8), "RGBA").save(out, "PNG", compress_level=1)
    return out.getvalue()
