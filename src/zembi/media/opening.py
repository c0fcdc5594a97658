"""Opening media files with errors that say what is wrong, with which file, and what to do."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av
from av.container import InputContainer

from zembi.core.errors import UnreadableMedia


@contextmanager
def opened(path: Path) -> Iterator[InputContainer]:
    """Open a media file for reading.

    Raises:
        UnreadableMedia: missing, empty, not media, or damaged; also when a decoder fails inside the block.
    """
    if not path.exists():
        raise UnreadableMedia(
            f"{path.name} is not there any more. Put it back, or relink it.", code="offline"
        )
    if path.is_dir():
        raise UnreadableMedia(f"{path.name} is a folder, not a media file.")
    if path.stat().st_size == 0:
        raise UnreadableMedia(f"{path.name} is empty (0 bytes). Copy it again from the card.")
    try:
        with av.open(str(path), "r", metadata_errors="replace") as container:
            yield container
    except av.error.PermissionError as fault:
        raise UnreadableMedia(f"{path.name} may not be read: permission denied.") from fault
    except (av.error.InvalidDataError, av.error.EOFError) as fault:
        raise UnreadableMedia(
            f"{path.name} is not a media file that can be read, or it is cut off. Copy it again or convert it."
        ) from fault
    except av.error.FFmpegError as fault:
        raise UnreadableMedia(
            f"{path.name} cannot be read ({fault.strerror}). Copy it again or convert it."
        ) from fault
