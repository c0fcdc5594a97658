"""Contrast of titles against the pictures under them, measured on stills at three frames of each."""

from dataclasses import dataclass, replace

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from zembi.core.picture.chain import acts_at
from zembi.core.programme.flatten import stretches, whole_titles
from zembi.core.programme.model import Colour, Programme, Span, Title
from zembi.media.compositor import CompositeLayer, composed
from zembi.media.stills import still_at
from zembi.media.titles.contrast import READABLE, contrast
from zembi.service.project.snapshot import Snapshot, edit_of, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project

#: Height of the pictures that are measured.
_HEIGHT = 288
#: Where in a title's time they lie.
_PLACES = (1 / 6, 1 / 2, 5 / 6)


@dataclass(frozen=True)
class TitleContrast:
    """Contrast of a title.

    Attributes:
        item: Its id.
        start, end: Its frames (half-open).
        ratio: What four fifths of the surroundings of its letters have at least, 1 to 21; None where it could not be measured.
        text: What is wrong, in words; empty where it is read with ease.
    """

    item: int
    start: int
    end: int
    ratio: float | None
    text: str


@one_moment
def title_contrasts(project: Project, edit_id: int, item: int | None = None) -> list[TitleContrast]:
    """Contrast of the titles of an edit, or of one of them.

    Raises:
        NotFound: there is no such edit.
    """
    snapshot = snapshot_of(project)
    shown = snapshot.programme(edit_of(project, edit_id))
    return [
        _of_one(snapshot, shown, n, span)
        for n, layer in enumerate(shown.layers)
        for span in whole_titles(layer)
        if item is None or (span.why is not None and span.why.item == item)
    ]


def _of_one(snapshot: Snapshot, shown: Programme, layer: int, span: Span) -> TitleContrast:
    assert isinstance(span.content, Title)
    card = span.content.card
    below = replace(shown, layers=shown.layers[:layer])
    frames = dict.fromkeys(span.start + int(place * span.frames) for place in _PLACES)
    ratio = contrast(card, [_picture(snapshot, below, frame) for frame in frames])
    text = ""
    if ratio is not None and ratio < READABLE:
        words = " ".join(card.text.split())[:40]
        text = (
            f"The title “{words}” is hard to read over what lies beneath: a contrast of {ratio:.1f} to 1, where {READABLE:g} is "
            "easy. An outline, a shadow, a box or another colour helps."
        )
    return TitleContrast(
        span.why.item if span.why else 0,
        span.start,
        span.end,
        None if ratio is None else round(ratio, 2),
        text,
    )


def _picture(snapshot: Snapshot, below: Programme, frame: int) -> NDArray[np.uint8]:
    """The picture beneath a title in a frame, from stills."""
    about = snapshot.about
    aspect = about.width / about.height
    size = (round(_HEIGHT * aspect / 2) * 2, _HEIGHT)
    parts = []
    for _, _, stack in stretches(below, frame, frame + 1):
        for span in stack:
            acts = acts_at(span.chain, frame - span.start, aspect)
            if isinstance(span.content, Title):
                parts.append(CompositeLayer(acts, card=span.content.card, shown=span.content.shown))
            elif isinstance(span.content, Colour):
                parts.append(CompositeLayer(acts, colour=span.content.code))
            else:
                parts.append(CompositeLayer(acts, _still(snapshot, span, frame, size)))
    seen = composed(parts, *size)
    return np.asarray(seen.to_ndarray(format="rgb24"), np.uint8)


def _still(snapshot: Snapshot, span: Span, frame: int, size: tuple[int, int]) -> av.VideoFrame | None:
    """The still of a span's picture, whole in a frame of a size; None for black."""
    media = snapshot.by_id.get(span.media or "")
    if media is None:
        return None
    at = float(span.time.times(snapshot.rate)[frame - span.start]) if span.time.frames else 0.0
    shape = (max(1, media.facts.width), max(1, media.facts.height))
    still = still_at(snapshot.project.derived(media), at, shape)
    if still is None:
        return None
    scale = min(size[0] / shape[0], size[1] / shape[1])
    across, up = max(1, round(shape[0] * scale)), max(1, round(shape[1] * scale))
    whole = np.zeros((size[1], size[0], 3), np.uint8)
    left, top = (size[0] - across) // 2, (size[1] - up) // 2
    whole[top : top + up, left : left + across] = cv2.resize(
        still, (across, up), interpolation=cv2.INTER_LINEAR
    )
    return av.VideoFrame.from_ndarray(whole, "rgb24").reformat(format="yuv420p")
