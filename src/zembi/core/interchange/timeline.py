"""OpenTimelineIO, both ways: the programme's layers to a timeline, and a timeline back to layers."""

from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from typing import Any

import opentimelineio as otio

from zembi.core.errors import BadInput
from zembi.core.interchange.documents import exact_seconds, media_start, read_document
from zembi.core.interchange.limits import in_words, within
from zembi.core.programme.flatten import one_by_one
from zembi.core.programme.model import Black, Layer, Programme, Span, shown
from zembi.core.programme.sound import SILENT, Sound, song_sound
from zembi.core.song.cutdown import SongMap
from zembi.core.timebase import nearest_standard_rate

#: The kind of generator that makes black.
_BLACK = "black"
#: Longest timeline that is read: a day.
_LONGEST_S = 86_400.0


@dataclass(frozen=True)
class MediaRef:
    """A file as a timeline names it: where, what it is called and how much picture it has."""

    url: str
    name: str
    seconds: float


@dataclass(frozen=True)
class ReadTimeline:
    """A timeline as read: its rate, and a programme whose media are the files' addresses.

    ``song_url`` is what is heard; where the programme's sound has no pieces, from its start.
    """

    rate: Fraction
    programme: Programme
    song_url: str | None


def _range(start_s: float, frames: float, rate: Fraction) -> Any:
    value = float(rate)
    return otio.opentime.TimeRange(
        otio.opentime.RationalTime(start_s * value, value), otio.opentime.RationalTime(frames, value)
    )


def _track(layer: Layer, media: dict[str, MediaRef], rate: Fraction, length: int) -> Any:
    track = otio.schema.Track(name=layer.name, kind=otio.schema.TrackKind.Video)
    at = 0
    for span in one_by_one(layer.spans, rate):
        if not span.hides:
            continue
        if span.start > at:
            track.append(_gap(span.start - at, rate))
        track.extend(_clips(span, media, rate))
        at = span.end
    if at < length:
        track.append(_gap(length - at, rate))
    return track


def _gap(frames: int, rate: Fraction) -> Any:
    return otio.schema.Gap(source_range=_range(0.0, frames, rate))


def _clips(span: Span, media: dict[str, MediaRef], rate: Fraction) -> list[Any]:
    """The clips of a span: one for each piece of its time, or one of black."""
    if span.media is None:
        black = otio.schema.GeneratorReference(name="Black", generator_kind=_BLACK)
        return [
            otio.schema.Clip(name="Black", media_reference=black, source_range=_range(0.0, span.frames, rate))
        ]
    ref = media[span.media]
    out = []
    for piece in span.time.pieces:
        clip = otio.schema.Clip(
            name=ref.name,
            media_reference=otio.schema.ExternalReference(
                target_url=ref.url, available_range=_range(0.0, round(ref.seconds * float(rate)), rate)
            ),
            source_range=_range(piece.at_s, piece.frames, rate),
        )
        speed = (piece.speed + piece.end_speed) / 2
        if speed != 1.0:
            clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=speed))
        out.append(clip)
    return out


def write_timeline(
    name: str,
    programme: Programme,
    media: dict[str, MediaRef],
    rate: Fraction,
    song: MediaRef | None,
    markers: list[tuple[float, str]] = (),  # type: ignore[assignment]
) -> str:
    """Write an ``.otio`` document: a video track for each layer, and the song's pieces on a track of sound.

    Holes are gaps; black on purpose is a clip of a generator.

    Args:
        name: Name of the timeline.
        programme: What to write.
        media: Every file that its layers name.
        rate: Programme rate.
        song: The song.
        markers: (time in the programme, text) kept on the song's clips.
    """
    timeline = otio.schema.Timeline(name=name)
    for layer in programme.layers:
        timeline.tracks.append(_track(layer, media, rate, programme.length))
    if song is not None:
        timeline.tracks.append(_song_track(song, markers, rate, programme))
    return str(otio.adapters.write_to_string(timeline, "otio_json", indent=1))


def _song_track(
    song: MediaRef, markers: list[tuple[float, str]], rate: Fraction, programme: Programme
) -> Any:
    sound = otio.schema.Track(name="Song", kind=otio.schema.TrackKind.Audio)
    kept = programme.sound.kept
    whole = len(kept) < 2 and (not kept or kept[0][0] == 0)
    at = 0.0
    ranges = (
        [(0.0, 1e9, _range(0.0, programme.length, rate))]
        if whole
        else [(a, b, _samples(a, b)) for a, b in kept]
    )
    for start, end, source in ranges:
        clip = otio.schema.Clip(
            name=song.name,
            media_reference=otio.schema.ExternalReference(target_url=song.url),
            source_range=source,
        )
        for time, text in markers:
            if at <= time < at + end - start:
                clip.markers.append(
                    otio.schema.Marker(name=text, marked_range=_range(start + time - at, 0, rate))
                )
        sound.append(clip)
        at += end - start
    return sound


def _samples(start_s: float, end_s: float) -> Any:
    """A range of sound, counted in samples of 48 kHz: finer than a frame."""
    return otio.opentime.TimeRange(
        otio.opentime.RationalTime(round(start_s * 48_000), 48_000),
        otio.opentime.RationalTime(round(end_s * 48_000) - round(start_s * 48_000), 48_000),
    )


def _frames(time: Any, rate: Fraction) -> int:
    return round(exact_seconds(time) * rate)


def read_timeline(text: str, *, rate: Fraction | None = None) -> ReadTimeline:
    """Read an ``.otio`` document.

    The lowest video track is the base, higher ones lie over it, a gap shows what is underneath and at last
    black. A clip's source range is media time from the picture's first frame in the range's own rate; a
    linear time warp scales it.

    Raises:
        BadInput: not a timeline, no video track, or a clip that names no file.
    """
    timeline = read_document(text, "The .otio file")
    return in_words("The .otio file")(lambda: _read(timeline, rate))


def _read(timeline: Any, rate: Fraction | None) -> ReadTimeline:
    videos = list(timeline.video_tracks())
    if not videos:
        raise BadInput("The timeline has no video track.")
    rate = rate or _timeline_rate(videos)
    lanes = [_read_track(track, rate) for track in videos]
    length = max((lane[1] for lane in lanes), default=0)
    if not length:
        raise BadInput("The timeline is empty.")
    within(float(length / rate), "The length of the timeline in seconds", 0.0, _LONGEST_S)
    layers = [
        Layer(track.name or f"Track {n}", tuple(lane))
        for n, (track, (lane, _)) in enumerate(zip(videos, lanes, strict=True), 1)
    ]
    url, sound = _song(timeline)
    return ReadTimeline(rate, Programme(length, tuple(layers), sound), url)


def _timeline_rate(tracks: list[Any]) -> Fraction:
    for track in tracks:
        for item in track:
            if getattr(item, "source_range", None) is not None:
                return nearest_standard_rate(item.source_range.duration.rate)
    raise BadInput("The timeline gives no frame rate; say which with --rate.")


def _read_track(track: Any, rate: Fraction) -> tuple[list[Span], int]:
    spans: list[Span] = []
    exact = Fraction(0)
    for item in track:
        if isinstance(item, otio.schema.Transition):
            continue
        duration = item.source_range.duration if item.source_range else item.duration()
        start, exact = round(exact * rate), exact + exact_seconds(duration)
        end = round(exact * rate)
        if isinstance(item, otio.schema.Clip) and end > start:
            spans.append(_read_clip(item, start, end))
    return spans, round(exact * rate)


def _read_clip(clip: Any, start: int, end: int) -> Span:
    reference = clip.media_reference
    if isinstance(reference, otio.schema.GeneratorReference) and reference.generator_kind == _BLACK:
        return Span(start, end, Black())
    url = getattr(reference, "target_url", None)
    if not url:
        raise BadInput(f"The clip “{clip.name}” names no file.")
    speed = 1.0
    for effect in clip.effects:
        if isinstance(effect, otio.schema.LinearTimeWarp):
            speed *= float(effect.time_scalar)
    if speed <= 0:
        raise BadInput(
            f"The clip “{clip.name}” plays at speed {speed:g}; only forward speeds can be rendered."
        )
    return shown(start, end, url, float(media_start(clip)), speed)


def _song(timeline: Any) -> tuple[str | None, Sound]:
    """The first sound of the timeline; with pieces where several clips of it follow each other."""
    for track in timeline.audio_tracks():
        clips = [c for c in track.find_clips() if getattr(c.media_reference, "target_url", None)]
        if not clips:
            continue
        url = str(clips[0].media_reference.target_url)
        ranges = [c.source_range for c in clips if c.media_reference.target_url == url and c.source_range]
        if len(clips) < 2 or len(ranges) < len(clips):
            return url, SILENT
        kept = [
            (
                r.start_time.value / r.start_time.rate,
                (r.start_time.value / r.start_time.rate) + r.duration.value / r.duration.rate,
            )
            for r in ranges
        ]
        ascending = all(b[0] >= a[1] for a, b in pairwise(kept))
        return url, song_sound(url, SongMap(tuple(kept))) if ascending else SILENT
    return None, SILENT
