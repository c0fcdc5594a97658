"""What a file says of the camera that made it."""

from datetime import datetime
from pathlib import Path

from zembi.core.lineup.grouping import Traits
from zembi.core.timebase import rate_label
from zembi.media.opening import opened
from zembi.media.probe import probe

#: Where containers keep the maker, the model, the serial number, the lens and the reel.
_NOTES = (
    "com.apple.quicktime.make", "com.apple.quicktime.model", "com.android.manufacturer", "com.android.model", "make",
    "model", "camera_make", "camera_model", "serial_number", "camera_serial_number", "lens", "reel_name", "reel",
)  # fmt: skip


def traits_of(path: Path, tagged: str = "") -> Traits:
    """A take's traits; ``tagged`` is what the editor calls its camera.

    Raises:
        UnreadableMedia: it cannot be read, or has no picture.
    """
    facts = probe(path, need=("picture",))
    with opened(path) as container:
        notes = {k.lower(): str(v).strip() for k, v in container.metadata.items()}
        for stream in container.streams.video:
            notes |= {k.lower(): str(v).strip() for k, v in stream.metadata.items()}
    camera = " ".join(dict.fromkeys(notes[k] for k in _NOTES if notes.get(k)))
    rate = f", {rate_label(facts.rate)} f/s" if facts.rate else ""
    try:
        started = datetime.fromisoformat(facts.created).timestamp() if facts.created else None
    except ValueError:
        started = None
    form = f"{facts.width}x{facts.height}{rate}, {facts.pixel_format}"
    return Traits(path.stem, path.absolute().parent.name, tagged, camera, form, started, facts.duration_s)
