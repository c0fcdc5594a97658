"""Opening media files with errors that say what is wrong, with which file, and what to do."""

import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import cast

import av
from av.container import InputContainer

from zembi.core.errors import UnreadableMedia

#: Containers that are opened, known by what is in them and not by their names. Lists that name other files, and
#: ways of reading devices and pictures one by one, are not among them.
FORMATS = (
    "mov", "mp4", "m4a", "3gp", "3g2", "mj2", "matroska", "webm", "avi", "mpegts", "mpeg", "mxf", "wav", "w64", "flac",
    "mp3", "aac", "ogg", "aiff", "caf", "mpegvideo", "ac3", "eac3", "amr", "asf", "flv", "gxf",
)  # fmt: skip
_OPTIONS = {"format_whitelist": ",".join(FORMATS), "protocol_whitelist": "file"}


#: Still pictures by how they begin, and the reader that reads that one file alone, whatever its name looks like.
_STILLS = (
    (b"\x89PNG", "png_pipe"), (b"\xff\xd8\xff", "jpeg_pipe"), (b"II*\0", "tiff_pipe"), (b"MM\0*", "tiff_pipe"),
    (b"RIFF", "webp_pipe"),
)  # fmt: skip
_LOOKED_AT = 4096


def still_reader(path: Path) -> str:
    """The reader of a still picture; "" for a file that is none.

    Raises:
        UnreadableMedia: a picture that moves or is drawn, with what to do.
    """
    with path.open("rb") as file:
        head = file.read(_LOOKED_AT)
    webp = head[:4] == b"RIFF" and head[8:12] == b"WEBP"
    moves = (
        head[:4] == b"GIF8"
        or (head[:4] == b"\x89PNG" and b"acTL" in head)
        or (webp and head[12:16] == b"VP8X" and bool(head[20] & 2))
    )
    if moves:
        raise UnreadableMedia(f"{path.name} is an animated picture. Convert it to a video, and add that.")
    text = head.lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    if text.startswith(b"<svg") or (text.startswith(b"<?xml") and b"<svg" in text):
        raise UnreadableMedia(
            f"{path.name} is a drawing (SVG). Save it as PNG in the size of the film, and add that."
        )
    if head[:4] == b"RIFF" and not webp:
        return ""
    return next((reader for begins, reader in _STILLS if head.startswith(begins)), "")


def open_container(path: Path) -> InputContainer:
    """Open a media file, and nothing that it names.

    Raises:
        av.error.FFmpegError: it is none, or cannot be read.
        UnreadableMedia: a picture that moves or is drawn.
    """
    still = still_reader(path)
    if still:
        options = {"format_whitelist": still, "protocol_whitelist": "file"}
        return av.open(str(path), "r", format=still, options=options, metadata_errors="replace")
    return av.open(str(path), "r", options=dict(_OPTIONS), metadata_errors="replace")


#: Decoders that read the alpha which WebM keeps beside a picture (the WebM container guidelines' AlphaMode).
_WITH_ALPHA = {"vp9": "libvpx-vp9", "vp8": "libvpx"}


def alpha_decoder(stream: av.VideoStream) -> av.VideoCodecContext | None:
    """A decoder for a stream whose alpha the usual one leaves out; None for all others."""
    name = _WITH_ALPHA.get(stream.codec_context.name)
    if name is None or stream.metadata.get("alpha_mode", stream.metadata.get("ALPHA_MODE")) != "1":
        return None
    decoder = cast(av.VideoCodecContext, av.CodecContext.create(name, "r"))
    decoder.extradata = stream.codec_context.extradata
    return decoder


def pictures(container: InputContainer, stream: av.VideoStream) -> Iterator[av.VideoFrame]:
    """Frames of a stream from where the container stands, with their alpha."""
    decoder = alpha_decoder(stream)
    if decoder is None:
        yield from container.decode(stream)
        return
    for packet in container.demux(stream):
        for frame in decoder.decode(packet if packet.size else None):
            frame.time_base = stream.time_base
            yield frame


@contextmanager
def opened(path: Path) -> Iterator[InputContainer]:
    """Open a media file for reading.

    Raises:
        UnreadableMedia: missing, empty, not media, or damaged; also when a decoder fails inside the block.
    """
    try:
        found = path.stat()
    except FileNotFoundError:
        raise UnreadableMedia(
            f"{path.name} is not there any more. Put it back, or relink it.", code="offline"
        ) from None
    except (OSError, ValueError) as fault:
        raise UnreadableMedia(f"{path.name} cannot be reached ({fault}).") from None
    if stat.S_ISDIR(found.st_mode):
        raise UnreadableMedia(f"{path.name} is a folder, not a media file.")
    if not stat.S_ISREG(found.st_mode):
        raise UnreadableMedia(f"{path.name} is a device or a pipe, not a media file.")
    if found.st_size == 0:
        raise UnreadableMedia(f"{path.name} is empty (0 bytes). Copy it again from the card.")
    try:
        with open_container(path) as container:
            yield container
    except av.error.PermissionError as fault:
        raise UnreadableMedia(f"{path.name} may not be read: permission denied.") from fault
    except (av.error.InvalidDataError, av.error.EOFError, av.error.ArgumentError) as fault:
        raise UnreadableMedia(
            f"{path.name} is not a media file that can be read, or it is cut off. Copy it again or convert it."
        ) from fault
    except av.error.FFmpegError as fault:
        raise UnreadableMedia(
            f"{path.name} cannot be read ({fault.strerror}). Copy it again or convert it."
        ) from fault
