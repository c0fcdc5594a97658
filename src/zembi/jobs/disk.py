"""Full and failing disks, said in words: which disk, and how much is needed."""

import errno
import shutil
from pathlib import Path

from zembi.core.errors import BadInput, NoRoom, ZembiError

#: Left free on a disk by long work, so that the project's own database can still be written.
SPARE_BYTES = 64 << 20
_FULL = (errno.ENOSPC, errno.EDQUOT)


def said(count: float) -> str:
    """A number of bytes for reading."""
    return f"{count / 1e9:.2f} GB" if count >= 1e9 else f"{max(1, round(count / 1e6))} MB"


def _disk_of(folder: Path) -> Path:
    """The folder at which the disk that holds another begins."""
    folder = folder.resolve()
    while not folder.is_mount() and folder != folder.parent:
        folder = folder.parent
    return folder


def need_room(folder: Path, count: float, what: str) -> None:
    """Check that a work's files will fit before it begins.

    Args:
        folder: Where they go.
        count: Bytes needed, roughly.
        what: The work, to begin the sentence.

    Raises:
        NoRoom: they will not; nothing has been written.
    """
    free = shutil.disk_usage(folder).free - SPARE_BYTES
    if count > free:
        raise NoRoom(
            f"{what} needs about {said(count)}, but the disk at {_disk_of(folder)} has {said(max(0, free))} to spare. "
            "Make room there and start it again."
        )


def disk_fault(fault: OSError, folder: Path) -> ZembiError:
    """Words for an operating system's refusal, in terms of the editor's work."""
    if fault.errno in _FULL:
        try:
            left = shutil.disk_usage(folder).free
        except OSError:
            left = 0
        return NoRoom(
            f"The disk at {_disk_of(folder)} is full ({said(left)} left). Make room there and start this again; "
            "nothing is lost."
        )
    name = Path(str(fault.filename)).name if fault.filename else "A file"
    return BadInput(f"{name} cannot be used ({fault.strerror or fault}).")
