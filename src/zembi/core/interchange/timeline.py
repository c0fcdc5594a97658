"""OpenTimelineIO, both ways: spans with media to a timeline, and a timeline back to spans."""

from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any

import opentimelineio as otio

from zembi.core.errors import BadInput
from zembi.core.interchange.documents import exact_seconds, media_start, read_document
from zembi.core.interchange.limits import in_words, within
from zembi.core.spans import Span, overlaid
from zembi.core.timebase import nearest_standard_rate

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
    """A timeline as read: its rate, spans whose ``media`` is the file's address, its length and its sound.

    ``kept`` lists the ranges of the sound that play one after the other; None where it plays from its start.
    """

    rate: Fraction
    spans: list[Span]
    length: int
    song_url: str | None
    kept: tuple[tuple[float, float], ...] | None = None


def _range(start_s: float, frames: float, rate: Fraction) -> Any:
    value = float(rate)
    return otio.opentime.TimeRange(
        otio.opentime.RationalTime(start_s * value, value), otio.opentime.RationalTime(frames, value)
    )


def _track(name: str, spans: list[Span], media: dict[str, MediaRef], rate: Fraction, length: int) -> Any:
    track = otio.schema.Track(name=name, kind=otio.schema.TrackKind.Video)
    at = 0
    for span in [*spans, Span(length, length, None)]:
        if span.start > at:
            track.append(otio.schema.Gap(source_range=_range(0.0, span.start - at, rate)))
        if span.frames and span.media is None:
            track.append(otio.schema.Gap(source_range=_range(0.0, span.frames, rate)))
        elif span.frames and span.media is not None:
            ref = media[span.media]
            clip = otio.schema.Clip(
                name=ref.name,
                media_reference=otio.schema.ExternalReference(
                    target_url=ref.url, available_range=_range(0.0, round(ref.seconds * float(rate)), rate)
                ),
                source_range=_range(span.in_s, span.frames, rate),
            )
            if span.speed != 1.0:
                clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=span.speed))
            track.append(clip)
        at = max(at, span.end)
    return track


def write_timeline(
    name: str,
    lanes: list[tuple[str, list[Span]]],
    media: dict[str, MediaRef],
    rate: Fraction,
    length: int,
    song: MediaRef | None,
    markers: list[tuple[float, str]] = (),  # type: ignore[assignment]
    kept: tuple[tuple[float, float], ...] | None = None,
) -> str:
    """Write an ``.otio`` document.

    Args:
        name: Name of the timeline.
        lanes: Video tracks, lowest first: a name and its spans.
        media: Every file that the spans name.
        rate: Programme rate.
        length: Frames of the whole song.
        song: The song, on its own audio track.
        markers: (time in the programme, text) kept on the song's clips.
        kept: Ranges of the song that play one after the other, a clip each; None for one clip from its start.
    """
    timeline = otio.schema.Timeline(name=name)
    for lane_name, spans in lanes:
        timeline.tracks.append(_track(lane_name, spans, media, rate, length))
    if song is not None:
        timeline.tracks.append(_song_track(song, markers, rate, length, kept))
    return str(otio.adapters.write_to_string(timeline, "otio_json", indent=1))


def _song_track(
    song: MediaRef,
    markers: list[tuple[float, str]],
    rate: Fraction,
    length: int,
    kept: tuple[tuple[float, float], ...] | None,
) -> Any:
    sound = otio.schema.Track(name="Song", kind=otio.schema.TrackKind.Audio)
    at = 0.0
    ranges = [(a, b, _samples(a, b)) for a, b in kept] if kept else [(0.0, 1e9, _range(0.0, length, rate))]
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
    spans = _filled(lanes[0][0], length)
    for lane, _ in lanes[1:]:
        spans = overlaid(spans, lane, rate)
    url, kept = _song(timeline)
    return ReadTimeline(rate, spans, length, url, kept)


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
    return Span(start, end, url, float(media_start(clip)), speed, clip.name)


def _filled(spans: list[Span], length: int) -> list[Span]:
    out: list[Span] = []
    at = 0
    for s in spans:
        if s.start > at:
            out.append(Span(at, s.start, None))
        out.append(replace(s))
        at = s.end
    if at < length:
        out.append(Span(at, length, None))
    return out


def _song(timeline: Any) -> tuple[str | None, tuple[tuple[float, float], ...] | None]:
    """The first sound of the timeline, and which ranges of it play where several clips of it follow each other."""
    for track in timeline.audio_tracks():
        clips = [c for c in track.find_clips() if getattr(c.media_reference, "target_url", None)]
        if not clips:
            continue
        url = str(clips[0].media_reference.target_url)
        ranges = [c.source_range for c in clips if c.media_reference.target_url == url and c.source_range]
        if len(clips) < 2 or len(ranges) < len(clips):
            return url, None
        kept = [
            (
                r.start_time.value / r.start_time.rate,
                (r.start_time.value / r.start_time.rate) + r.duration.value / r.duration.rate,
            )
            for r in ranges
        ]
        ascending = all(b[0] >= a[1] for a, b in pairwise(kept))
        return url, tuple(kept) if ascending else None
    return None, None
