"""The line-up as open files, both ways: passes as CSV, JSON and an OpenTimelineIO timeline."""

import csv
import dataclasses
import io
import json
import math
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from zembi.core.errors import BadInput
from zembi.core.interchange.documents import media_start, read_document
from zembi.core.interchange.limits import cell, in_words, within
from zembi.core.interchange.timeline import MediaRef

#: Under this name a clip keeps its place to more than a frame.
_KEY = "zembi"


@dataclass(frozen=True)
class PassRow:
    """A pass as files give it.

    Attributes:
        take: Name of the take.
        file: Path or address of its file.
        take_start_s, take_end_s: Take range, seconds from its first frame.
        song_start_s, song_end_s: Song range.
        rate: Song seconds a take second.
        status: "locked" or "choose".
        confidence: 0..1.
        origin: "found", "by hand" or "clock".
        timecode: Timecode of the take frame at ``take_start_s``; "" where the file has none.
    """

    take: str
    file: str
    take_start_s: float
    take_end_s: float
    song_start_s: float
    song_end_s: float
    rate: float
    status: str
    confidence: float
    origin: str
    timecode: str = ""


@dataclass(frozen=True)
class TakeRef:
    """A take's file as a timeline names it: picture rate, length, and its first frame on its own timecode."""

    media: MediaRef
    rate: Fraction
    first_frame: int


def write_passes_csv(rows: list[PassRow]) -> str:
    """One line a pass, times in seconds to the microsecond."""
    out = io.StringIO()
    names = [f.name for f in dataclasses.fields(PassRow)]
    writer = csv.writer(out)
    writer.writerow(names)
    for row in rows:
        values = dataclasses.asdict(row)
        writer.writerow(
            [
                f"{values[n]:.9f}".rstrip("0").rstrip(".")
                if isinstance(values[n], float)
                else cell(values[n])
                for n in names
            ]
        )
    return out.getvalue()


def write_passes_json(song: str, rows: list[PassRow]) -> str:
    """The same as one JSON object."""
    return json.dumps({"song": song, "passes": [dataclasses.asdict(r) for r in rows]}, indent=1)


def write_lineup(
    name: str, rows: list[PassRow], takes: list[TakeRef], song: MediaRef, rate: Fraction, length: int
) -> str:
    """An ``.otio`` timeline: the song on one track, each pass on a track of its own.

    A clip starts at the programme frame at or after its pass does; its source range counts from the file's own
    timecode in the file's own rate, and the exact place is kept beside it.

    Args:
        name: Name of the timeline.
        rows: The passes.
        takes: The take of each row.
        song: The song.
        rate: Programme rate.
        length: Frames of the song.
    """
    timeline = otio.schema.Timeline(name=name)
    for row, take in zip(rows, takes, strict=True):
        track = otio.schema.Track(name=row.take, kind=otio.schema.TrackKind.Video)
        first = max(0, math.ceil(row.song_start_s * rate - 1e-6))
        last = min(length, math.floor(row.song_end_s * rate + 1e-6))
        if last <= first:
            continue
        if first:
            track.append(otio.schema.Gap(source_range=_span(0, first, rate)))
        in_s = row.take_start_s + (float(first / rate) - row.song_start_s) / row.rate
        own = float(take.rate)
        begin = otio.opentime.RationalTime(take.first_frame + in_s * own, own)
        clip = otio.schema.Clip(
            name=row.take,
            media_reference=otio.schema.ExternalReference(
                target_url=take.media.url,
                available_range=otio.opentime.TimeRange(
                    otio.opentime.RationalTime(take.first_frame, own),
                    otio.opentime.RationalTime(round(take.media.seconds * own), own),
                ),
            ),
            source_range=otio.opentime.TimeRange(
                begin, otio.opentime.RationalTime(last - first, float(rate))
            ),
            metadata={_KEY: {**dataclasses.asdict(row), "first_frame": take.first_frame}},
        )
        if abs(row.rate - 1) > 1e-9:
            clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=1 / row.rate))
        track.append(clip)
        timeline.tracks.append(track)
    sound = otio.schema.Track(name="Song", kind=otio.schema.TrackKind.Audio)
    sound.append(
        otio.schema.Clip(
            name=song.name, media_reference=otio.schema.ExternalReference(target_url=song.url),
            source_range=_span(0, length, rate),
        )
    )  # fmt: skip
    timeline.tracks.append(sound)
    return str(otio.adapters.write_to_string(timeline, "otio_json", indent=1))


def _span(start: int, frames: int, rate: Fraction) -> Any:
    value = float(rate)
    return otio.opentime.TimeRange(
        otio.opentime.RationalTime(start, value), otio.opentime.RationalTime(frames, value)
    )


def read_lineup(text: str, name: str = "the timeline") -> list[PassRow]:
    """Passes of a timeline, from each clip of its video tracks.

    What Zembi wrote is read back exactly while the clip lies where it lay; a clip that was moved or trimmed
    elsewhere, or that another program wrote, is read by its ranges.

    Raises:
        BadInput: not a timeline, or without a clip.
    """
    timeline = read_document(text, name)
    rows = in_words(name)(
        lambda: [
            _checked(_read_clip(clip, _song_end_s(timeline)), name)
            for track in timeline.video_tracks()
            for clip in track.find_clips()
            if isinstance(clip.media_reference, otio.schema.ExternalReference)
        ]
    )
    if not rows:
        raise BadInput(f"{name} has no clip with a file on a video track.")
    return rows


def _checked(row: PassRow, name: str) -> PassRow:
    """A pass whose every number can be kept."""
    what = f"{name}: the place of {row.take[:80]}"
    for value in (row.take_start_s, row.take_end_s, row.song_start_s, row.song_end_s):
        within(value, what)
    within(row.rate, f"{name}: the speed of {row.take[:80]}", 0.05, 20.0)
    within(row.confidence, f"{name}: the confidence of {row.take[:80]}", 0.0, 1.0)
    if row.take_end_s <= row.take_start_s:
        raise BadInput(f"{name}: {row.take[:80]} is empty.")
    if row.status not in ("locked", "choose") or row.origin not in ("found", "by hand", "clock"):
        raise BadInput(f"{name}: “{row.status}, {row.origin}” is nothing that a pass can be.")
    return row


def _song_end_s(timeline: Any) -> float:
    """Seconds at which the song of a timeline ends; without any, of a song that never does."""
    ends = [track.duration().to_seconds() for track in timeline.audio_tracks()]
    return max(ends, default=math.inf)


def _read_clip(clip: Any, song_end_s: float) -> PassRow:
    placed = clip.transformed_time_range(clip.trimmed_range(), clip.parent())
    start = placed.start_time.to_seconds()
    trimmed, url = clip.trimmed_range(), str(clip.media_reference.target_url)
    scalar = next(
        (float(e.time_scalar) for e in clip.effects if isinstance(e, otio.schema.LinearTimeWarp)), 1.0
    )
    if scalar <= 0:
        raise BadInput(f"{clip.name} runs backwards; a pass runs with the song.")
    take_start = float(media_start(clip))
    seconds = trimmed.duration.to_seconds()
    read = PassRow(
        clip.name, url, take_start, take_start + seconds * scalar, start, start + seconds, 1 / scalar, "locked", 1.0,
        "by hand",
    )  # fmt: skip
    kept = dict(clip.metadata.get(_KEY, {}))
    names = {f.name for f in dataclasses.fields(PassRow)}
    if not names <= kept.keys():
        return read
    exact = PassRow(**{n: kept[n] for n in names})
    line_says = exact.song_start_s + exact.rate * (take_start - exact.take_start_s)
    same = abs(line_says - start) < 1e-4 and abs(exact.rate * scalar - 1) < 1e-6
    # What runs on after the song was written to the song's end.
    whole = min(exact.song_end_s, max(song_end_s, start))
    covered = exact.song_start_s - 0.1 < start and abs(whole - start - seconds) < 0.1
    return exact if same and covered else read
