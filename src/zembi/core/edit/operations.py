"""Every change to an edit: one function, edit in, edit out, or a refusal in plain words."""

from dataclasses import replace

from zembi.core.edit.model import AngleSource, ClipSource, Cutaway, Edit, Shot, Source, checked
from zembi.core.errors import Refused


def _in_song(edit: Edit, frame: int) -> None:
    if not 0 <= frame < edit.length:
        raise Refused(f"Frame {frame} lies outside the song (0 to {edit.length - 1}).")


def _shot(edit: Edit, index: int) -> Shot:
    if not 0 <= index < len(edit.shots):
        raise Refused(f"There is no shot {index + 1}; the edit has {len(edit.shots)}.")
    return edit.shots[index]


def _with_shots(edit: Edit, shots: list[Shot]) -> Edit:
    return checked(replace(edit, shots=tuple(shots)))


def continued(source: Source, frames: int, rate: float) -> Source:
    """What a source shows ``frames`` later, so that splitting a shot changes no picture."""
    if isinstance(source, ClipSource):
        return replace(source, in_s=source.in_s + source.speed * frames / rate)
    return source


def cut(edit: Edit, frame: int, rate: float) -> Edit:
    """Cut at a frame: both parts go on showing what they showed."""
    _in_song(edit, frame)
    index = edit.index_at(frame)
    shot = edit.shots[index]
    if shot.start == frame:
        raise Refused("There is a cut here already.")
    new = Shot(frame, continued(shot.source, frame - shot.start, rate), shot.held)
    return _with_shots(edit, [*edit.shots[: index + 1], new, *edit.shots[index + 1 :]])


def join(edit: Edit, index: int) -> Edit:
    """Take away the cut at the start of a shot: the shot before runs on through it."""
    _shot(edit, index)
    if index == 0:
        raise Refused("The first shot has no cut before it to take away.")
    return _with_shots(edit, [*edit.shots[:index], *edit.shots[index + 1 :]])


def move_cut(edit: Edit, index: int, frame: int, rate: float) -> Edit:
    """Move the cut at the start of a shot; both neighbours change length, nothing else moves.

    A clip keeps its picture in place: its in point moves along with the cut.
    """
    shot = _shot(edit, index)
    if index == 0:
        raise Refused("The song's start cannot be moved.")
    low, high = edit.shots[index - 1].start + 1, edit.end_of(index) - 1
    if not low <= frame <= high:
        raise Refused(
            f"This cut can move between frames {low} and {high}: a shot is at least one frame long."
        )
    source = continued(shot.source, frame - shot.start, rate)
    if isinstance(source, ClipSource) and source.in_s < -1e-9:
        missing = round(-source.in_s / source.speed * rate)
        raise Refused(f"The clip has no picture before its start: {missing} frames are missing.")
    shots = list(edit.shots)
    shots[index] = replace(shot, start=frame, source=source)
    return _with_shots(edit, shots)


def set_source(edit: Edit, index: int, source: Source) -> Edit:
    """Give a shot another source."""
    shot = _shot(edit, index)
    shots = list(edit.shots)
    shots[index] = replace(shot, source=source)
    return _with_shots(edit, shots)


def switch(edit: Edit, frame: int, angle: int, rate: float) -> Edit:
    """Switch to an angle at a frame: it shows until the next cut. On an existing cut the shot changes angle."""
    _in_song(edit, frame)
    index = edit.index_at(frame)
    shot = edit.shots[index]
    if shot.source == AngleSource(angle):
        raise Refused(f"Angle {angle} is on already.")
    if shot.start != frame:
        edit = cut(edit, frame, rate)
        index += 1
    edit = set_source(edit, index, AngleSource(angle))
    return edit


def hold(edit: Edit, index: int, held: bool) -> Edit:
    """Hold a shot, so that filling leaves it alone, or let it go."""
    shots = list(edit.shots)
    shots[index] = replace(_shot(edit, index), held=held)
    return _with_shots(edit, shots)


def frames_missing(in_s: float, speed: float, frames: int, clip_end_s: float, rate: float) -> int:
    """How many of ``frames`` programme frames lie beyond the clip's end."""
    last_middle = in_s + speed * (frames - 0.5) / rate
    if last_middle < clip_end_s + 1e-6:
        return 0
    fitting = int((clip_end_s - in_s) / speed * rate + 0.5 - 1e-9)
    return frames - max(0, fitting)


def _long_enough(name: str, clip: ClipSource, frames: int, clip_end_s: float, rate: float) -> None:
    missing = frames_missing(clip.in_s, clip.speed, frames, clip_end_s, rate)
    if missing:
        raise Refused(
            f"“{name}” is too short for this place: {missing} frame{'s' if missing > 1 else ''} missing."
        )


def lay_into_shot(
    edit: Edit, index: int, clip: ClipSource, clip_end_s: float, name: str, rate: float
) -> Edit:
    """Fill a shot with a clip, from the clip's in point.

    Raises:
        Refused: the clip is too short; the message gives the number of frames missing.
    """
    frames = edit.end_of(index) - _shot(edit, index).start
    _long_enough(name, clip, frames, clip_end_s, rate)
    return set_source(edit, index, clip)


def lay_cutaway(
    edit: Edit, start: int, end: int, clip: ClipSource, clip_end_s: float, name: str, rate: float
) -> Edit:
    """Lay a clip over the base lane; cutaways underneath it give way.

    Raises:
        Refused: outside the song, or the clip is too short (with the number of frames missing).
    """
    _in_song(edit, start)
    if end <= start:
        raise Refused("A cutaway is at least one frame long.")
    end = min(end, edit.length)
    _long_enough(name, clip, end - start, clip_end_s, rate)
    kept: list[Cutaway] = []
    for c in edit.cutaways:
        if c.start < start:
            kept.append(replace(c, end=min(c.end, start)))
        if c.end > end:
            later = max(c.start, end)
            kept.append(Cutaway(later, c.end, continued(c.source, later - c.start, rate)))
    lane = sorted([*kept, Cutaway(start, end, clip)], key=lambda c: c.start)
    return checked(replace(edit, cutaways=tuple(lane)))


def remove_cutaway(edit: Edit, index: int) -> Edit:
    """Take a cutaway off; the base lane shows again."""
    if not 0 <= index < len(edit.cutaways):
        raise Refused(f"There is no cutaway {index + 1}.")
    return checked(replace(edit, cutaways=edit.cutaways[:index] + edit.cutaways[index + 1 :]))
