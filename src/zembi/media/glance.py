"""A first glance at a file that is not in the project yet: how long it is, and a small picture."""

import base64
import io
from dataclasses import dataclass
from pathlib import Path

import av
from PIL import Image

from zembi.core.errors import ZembiError
from zembi.media.opening import opened

_SIZE = (96, 54)


@dataclass(frozen=True)
class Glance:
    """A file seen at a glance; ``picture`` is a data address of a JPEG, "" where there is none."""

    name: str
    seconds: float
    width: int
    height: int
    picture: str


def glance_all(paths: list[Path]) -> list[Glance]:
    """Glance at files; those that cannot be read are left out."""
    out = []
    for path in paths:
        try:
            out.append(_glance(path))
        except (ZembiError, ValueError, OSError):
            continue
    return out


def _glance(path: Path) -> Glance:
    with opened(path) as container:
        seconds = float(container.duration / av.time_base) if container.duration else 0.0
        video = next(
            (s for s in container.streams.video if not s.disposition & av.stream.Disposition.attached_pic),
            None,
        )
        if video is None:
            return Glance(path.name, seconds, 0, 0, "")
        # A little way in, where there is more to see than a slate or black.
        container.seek(int(min(2.0, seconds / 4) * av.time_base))
        frame = next(iter(container.decode(video)), None)
        if frame is None:
            return Glance(path.name, seconds, video.width, video.height, "")
        image: Image.Image = frame.to_image()  # type: ignore[no-untyped-call]
        image = image.rotate(frame.rotation, expand=True)
        size = image.size
        image.thumbnail(_SIZE)
        data = io.BytesIO()
        image.save(data, "JPEG", quality=70)
        return Glance(
            path.name, seconds, *size, "data:image/jpeg;base64," + base64.b64encode(data.getvalue()).decode()
        )
