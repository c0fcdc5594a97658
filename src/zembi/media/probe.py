"""Probing a file: streams, rates, size as shown, rotation, timecode, and every frame's presentation time."""

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from fractions import Fraction
from itertools import islice
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from zembi.core.errors import UnreadableMedia
from zembi.core.footage.files import Facts
from zembi.core.lineup.grouping import Traits
from zembi.core.timebase import nearest_standard_rate, rate_label, settle_times
from zembi.media.alpha import is_see_through
from zembi.media.opening import opened, pictures

#: How long a still picture can be shown.
STILL_S = 3600.0
STILL_ENDINGS = frozenset({".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp"})
#: Extensions that the folder browser offers; anything else may still be tried by upload.
SONG_ENDINGS = frozenset({".wav", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".oga", ".opus", ".aif", ".aiff"})
VIDEO_ENDINGS = frozenset({
    ".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi", ".mts", ".m2ts", ".mxf", ".mpg", ".mpeg", ".3gp", ".ts",
})  # fmt: skip
#: Extensions of raw camera recordings, which no free decoder reads: they are told of, and refused with the way out.
RAW_ENDINGS = frozenset(
    {".braw", ".r3d", ".ari", ".arx", ".crm", ".nev", ".dng", ".cr3", ".cr2", ".nef", ".arw"}
)


@dataclass(frozen=True)
class FrameTimes:
    """Presentation of every picture frame.

    Attributes:
        times: Seconds from the first frame, ascending, shape (frames,).
        pts: The same on the stream's own clock.
        keyframes: Index of each frame at which decoding can start.
        rate: Declared average rate.
        time_base: Seconds per tick of the stream's clock.
    """

    times: NDArray[np.float64]
    pts: NDArray[np.int64]
    keyframes: NDArray[np.int64]
    rate: Fraction
    time_base: Fraction


def content_id(path: Path) -> str:
    """A short name for a file's content: its size and its first, middle and last megabyte."""
    size = path.stat().st_size
    digest = hashlib.sha256(str(size).encode())
    with path.open("rb") as file:
        for at in (0, max(0, size // 2 - (1 << 19)), max(0, size - (1 << 20))):
            file.seek(at)
            digest.update(file.read(1 << 20))
    return digest.hexdigest()[:24]


def frame_times(path: Path) -> FrameTimes:
    """Read every frame's presentation time from the container, without decoding.

    Frames that an edit list takes out of presentation are left out.

    Raises:
        UnreadableMedia: no picture, or a damaged file.
    """
    with opened(path) as container:
        stream = _picture(container)
        if stream is None:
            raise UnreadableMedia(f"{path.name} has no picture.")
        packets = [(p.pts, p.is_keyframe) for p in container.demux(stream) if p.size and not p.is_discard]
        found = [(pts, key) for pts, key in packets if pts is not None]
        if len(found) < len(packets):
            # Some old containers give packets no presentation time: the decoder works it out.
            container.seek(0)
            found = [(f.pts, f.key_frame) for f in container.decode(stream) if f.pts is not None]
        if not found:
            raise UnreadableMedia(
                f"{path.name} holds no picture frame; it may be cut off. Copy it again from the card."
            )
        found = sorted(dict(found).items())
        pts = np.array([p for p, _ in found], dtype=np.int64)
        keys = np.nonzero([k for _, k in found])[0].astype(np.int64)
        base = Fraction(stream.time_base or Fraction(1, 90_000))
        rate = nearest_standard_rate(_even_rate(stream, pts, base))
        times = (pts - pts[0]).astype(np.float64) * float(base)
        return FrameTimes(settle_times(times, rate, float(base)), pts, keys, rate, base)


def _even_rate(stream: av.VideoStream, pts: NDArray[np.int64], base: Fraction) -> Fraction:
    average = stream.average_rate or stream.base_rate
    if average and 0 < average < 1000:
        return Fraction(average)
    return Fraction(len(pts) - 1) / (int(pts[-1] - pts[0]) * base) if len(pts) > 1 else Fraction(25)


def _picture(container: av.container.InputContainer) -> av.VideoStream | None:
    """The stream that is the film: not the cover picture of a song."""
    for stream in container.streams.video:
        if not stream.disposition & av.stream.Disposition.attached_pic:
            return stream
    return None


def _timecode(container: av.container.InputContainer) -> str:
    for holder in (container.metadata, *(s.metadata for s in container.streams)):
        text = holder.get("timecode", "")
        if text:
            return str(text)
    return ""


def _created(container: av.container.InputContainer) -> str:
    for holder in (container.metadata, *(s.metadata for s in container.streams)):
        text = str(holder.get("creation_time", ""))
        if text and not text.startswith(("1904", "1970")):
            return text
    return ""


#: Where containers keep the maker, the model, the serial number, the lens and the reel.
_CAMERA_NOTES = (
    "com.apple.quicktime.make", "com.apple.quicktime.model", "com.android.manufacturer", "com.android.model", "make",
    "model", "camera_make", "camera_model", "serial_number", "camera_serial_number", "lens", "reel_name", "reel",
)  # fmt: skip


def _camera(container: av.container.InputContainer) -> str:
    notes: dict[str, str] = {}
    for holder in (container.metadata, *(s.metadata for s in container.streams.video)):
        notes |= {k.lower(): str(v).strip() for k, v in holder.items()}
    return " ".join(dict.fromkeys(notes[k] for k in _CAMERA_NOTES if notes.get(k)))


def traits_of(path: Path, facts: Facts, tagged: str = "") -> Traits:
    """Traits of a take's camera, from its file; ``tagged`` is what the editor calls it."""
    rate = f", {rate_label(facts.rate)} f/s" if facts.rate else ""
    try:
        started = datetime.fromisoformat(facts.created).timestamp() if facts.created else None
    except ValueError:
        started = None
    form = f"{facts.width}x{facts.height}{rate}, {facts.pixel_format}" if facts.has_video else ""
    folder = path.absolute().parent.name
    return Traits(path.stem, folder, tagged, facts.camera, form, started, facts.duration_s)


def _sound_start(container: av.container.InputContainer, stream: av.AudioStream) -> float | None:
    for frame in islice(container.decode(stream), 1):
        return float((frame.pts or 0) * (frame.time_base or 0))
    return None


def probe(path: Path, *, need: Iterable[str] = ()) -> Facts:
    """Find out what a file is by opening it and decoding its first picture frame.

    Args:
        path: The file.
        need: "picture" and/or "sound", where the file is no use without.

    Raises:
        UnreadableMedia: not media, cut off, or without what is needed.
    """
    if path.suffix.lower() in RAW_ENDINGS:
        raise UnreadableMedia(
            f"{path.name} is a raw camera recording, which cannot be decoded here. Export it from the camera maker's program, "
            "a film as ProRes, DNxHR or H.264, a photograph as PNG or JPEG, and add that."
        )
    with opened(path) as container:
        video, sound = _picture(container), next(iter(container.streams.audio), None)
        if video is None and sound is None:
            raise UnreadableMedia(f"{path.name} has neither picture nor sound.")
        if "picture" in need and video is None:
            raise UnreadableMedia(f"{path.name} has no picture. Add it as the song, or choose a video file.")
        if "sound" in need and sound is None:
            raise UnreadableMedia(f"{path.name} has no sound. Choose the song's sound file.")
        facts: dict[str, object] = {
            "timecode": _timecode(container),
            "created": _created(container),
            "camera": _camera(container),
        }
        seconds = float(container.duration / av.time_base) if container.duration else 0.0
        if sound is not None:
            facts |= {
                "sample_rate": sound.rate or 0, "channels": sound.channels, "sound_codec": sound.codec_context.name,
            }  # fmt: skip
            if sound.duration and sound.time_base:
                seconds = float(sound.duration * sound.time_base) if video is None else seconds
        if video is not None:
            facts |= _picture_facts(container, video, path)
            facts["still"] = container.format.name.endswith("_pipe")
    if video is not None:
        times = frame_times(path)
        last = float(1 / times.rate) if len(times.times) < 2 else float(np.median(np.diff(times.times)))
        gaps = np.diff(times.times)
        seconds = STILL_S if facts["still"] else float(times.times[-1]) + last
        facts |= {
            "rate": times.rate, "frames": len(times.times),
            "variable": bool(len(gaps) > 2 and np.ptp(gaps) > 0.1 * float(np.median(gaps))),
        }  # fmt: skip
        if sound is not None:
            with opened(path) as container:
                start = _sound_start(container, container.streams.audio[0])
            picture = float(times.pts[0]) * float(times.time_base)
            facts["sound_offset_s"] = 0.0 if start is None else start - picture
    if seconds <= 0 and video is None:
        raise UnreadableMedia(f"{path.name} has no length; it may be cut off. Copy it again.")
    return Facts(duration_s=seconds, has_video=video is not None, has_sound=sound is not None, **facts)  # type: ignore[arg-type]


def _picture_facts(
    container: av.container.InputContainer, video: av.VideoStream, path: Path
) -> dict[str, object]:
    first = next(pictures(container, video), None)
    if first is None:
        raise UnreadableMedia(
            f"{path.name} holds no picture frame; it may be cut off. Copy it again from the card."
        )
    rotation = round(first.rotation) % 360
    aspect = float(video.sample_aspect_ratio or 1) or 1.0
    width, height = round(first.width * aspect), first.height
    if rotation in (90, 270):
        width, height = height, width
    return {
        "width": width, "height": height, "rotation": rotation, "video_codec": video.codec_context.name,
        "pixel_format": first.format.name, "alpha": is_see_through(first, whole=container.format.name.endswith("_pipe")),
    }  # fmt: skip
