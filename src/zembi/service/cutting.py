"""Cutting: every operation on the current edit, from what the page sends to a journaled change."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from zembi.core.edit import operations as ops
from zembi.core.edit.fill import Clip, make_slots, rough_cut
from zembi.core.edit.model import AngleSource, Black, ClipSource, Edit
from zembi.core.errors import BadInput, Refused
from zembi.core.song.grid import UNITS, Unit
from zembi.core.timebase import frame_at, frame_to_seconds, seconds_to_frame
from zembi.service.snapshot import Snapshot, current_edit, look
from zembi.service.transactions import one_transaction
from zembi.service.workspace import Project
from zembi.store import tables
from zembi.store.edits import save_edit

MOST_LEAD = 12


def _unit(value: str) -> Unit:
    for unit in UNITS:
        if unit == value:
            return unit
    raise BadInput(f"Cuts fall on {', '.join(UNITS)}; “{value}” is none of them.")


def grid_frame(snapshot: Snapshot, at_s: float, unit: str, lead: int) -> int:
    """The frame at which a cut asked for at a song time falls: the nearest grid point, less the lead.

    "free" is the frame on screen at that time.
    """
    chosen = _unit(unit)
    if chosen == "free":
        return min(max(0, frame_at(at_s, snapshot.rate)), max(0, snapshot.length - 1))
    others = snapshot.mark_times if chosen == "mark" else tuple(p.start_s for p in snapshot.phrases)
    if chosen == "mark" and not others:
        raise Refused("Cuts fall on marks, and no marks are shown: tap or show some on the Song view.")
    point = snapshot.need_grid().nearest(at_s, chosen, others)
    frame = seconds_to_frame(point, snapshot.rate)
    return min(max(0, frame - lead if frame > lead else frame), max(0, snapshot.length - 1))


@dataclass(frozen=True)
class Done:
    """An operation that was done: its name, and the edit after it with what it was seen against."""

    name: str
    snapshot: Snapshot
    edit_id: int
    edit: Edit


@one_transaction
def apply_to_edit(
    project: Project, name: str, arguments: dict[str, Any], change_edit: Callable[[Snapshot, Edit], Edit]
) -> Done:
    """Change the current edit in one journaled transaction."""
    with project.database.changing(name, arguments) as change:
        snapshot = look(project, change.connection)
        edit_id, edit = current_edit(project, change.connection)
        after = change_edit(snapshot, edit)
        save_edit(change, edit_id, after, edit)
    return Done(name, snapshot, edit_id, after)


def _angle_number(project: Project, angle: int) -> int:
    return int(project.database.one(tables.angle, id=angle)["number"])


def _index_of(edit: Edit, start: int) -> int:
    index = edit.index_at(start)
    if edit.shots[index].start != start:
        raise Refused("That cut is not there any more.")
    return index


@one_transaction
def switch(project: Project, at_s: float, angle: int, unit: str, lead: int) -> Done:
    """Switch to an angle at the grid point nearest to a song time."""
    number = _angle_number(project, angle)
    return apply_to_edit(
        project, f"Switch to angle {number}", {"at_s": at_s, "angle": angle, "unit": unit, "lead": lead},
        lambda s, e: ops.switch(e, grid_frame(s, at_s, unit, lead), angle, float(s.rate)),
    )  # fmt: skip


@one_transaction
def cut(project: Project, at_s: float, unit: str, lead: int) -> Done:
    """Cut at the grid point nearest to a song time."""
    return apply_to_edit(
        project, "Cut", {"at_s": at_s, "unit": unit, "lead": lead},
        lambda s, e: ops.cut(e, grid_frame(s, at_s, unit, lead), float(s.rate)),
    )  # fmt: skip


@one_transaction
def join(project: Project, start: int) -> Done:
    """Take away the cut at a frame."""
    return apply_to_edit(project, "Join", {"start": start}, lambda _s, e: ops.join(e, _index_of(e, start)))


@one_transaction
def move_cut(project: Project, start: int, *, to: int | None = None, beats: int = 0) -> Done:
    """Move the cut at a frame to another frame, or by whole beats (kept at its distance from the beat)."""

    def moved(snapshot: Snapshot, edit: Edit) -> Edit:
        target = start if to is None else to
        if beats:
            grid = snapshot.need_grid()
            at = frame_to_seconds(start, snapshot.rate)
            beat = grid.nearest(at, "beat")
            off = start - seconds_to_frame(beat, snapshot.rate)
            target = seconds_to_frame(grid.step(beat, beats), snapshot.rate) + off
        return ops.move_cut(edit, _index_of(edit, start), target, float(snapshot.rate))

    return apply_to_edit(project, "Move a cut", {"start": start, "to": to, "beats": beats}, moved)


@one_transaction
def set_angle(project: Project, start: int, angle: int) -> Done:
    """Give the shot that starts at a frame another angle."""
    number = _angle_number(project, angle)
    return apply_to_edit(
        project, f"Angle {number} for a shot", {"start": start, "angle": angle},
        lambda _s, e: ops.set_source(e, _index_of(e, start), AngleSource(angle)),
    )  # fmt: skip


@one_transaction
def set_black(project: Project, start: int) -> Done:
    """Make the shot that starts at a frame black."""
    return apply_to_edit(
        project, "Black", {"start": start}, lambda _s, e: ops.set_source(e, _index_of(e, start), Black())
    )


@one_transaction
def hold(project: Project, start: int, held: bool) -> Done:
    """Hold a shot against filling, or let it go."""
    name = "Hold a shot" if held else "Let a shot go"
    return apply_to_edit(
        project, name, {"start": start}, lambda _s, e: ops.hold(e, _index_of(e, start), held)
    )


def _clip(project: Project, media_id: str, speed: float) -> tuple[str, ClipSource, float]:
    row = project.database.one(tables.media, id=media_id)
    if row["kind"] == "song":
        raise BadInput("The song has no picture to lay.")
    if not 0.05 <= speed <= 20:
        raise BadInput(f"A speed of {speed:g} is outside 0.05 to 20.")
    seconds = float(row["facts"].get("duration_s", 0.0))
    if not seconds:
        raise Refused(f"{row['name']} is not ready yet.")
    in_s, out_s = float(row["tags"].get("in_s", 0.0)), float(row["tags"].get("out_s", seconds))
    return row["name"], ClipSource(media_id, in_s, speed), out_s


@one_transaction
def lay_into_shot(project: Project, start: int, media_id: str, speed: float = 1.0) -> Done:
    """Fill the shot that starts at a frame with a clip, from its in point."""
    name, clip, out_s = _clip(project, media_id, speed)
    return apply_to_edit(
        project, f"Lay {name}", {"start": start, "media": media_id, "speed": speed},
        lambda s, e: ops.lay_into_shot(e, _index_of(e, start), clip, out_s, name, float(s.rate)),
    )  # fmt: skip


@one_transaction
def lay_cutaway(
    project: Project,
    at_s: float,
    media_id: str,
    unit: str,
    lead: int,
    *,
    end_s: float | None = None,
    speed: float = 1.0,
) -> Done:
    """Lay a clip as a cutaway from the grid point nearest to a song time.

    Without ``end_s`` it lasts a bar, or as long as the clip reaches on whole beats if that is less.
    """
    name, clip, out_s = _clip(project, media_id, speed)

    def laid(snapshot: Snapshot, edit: Edit) -> Edit:
        rate = float(snapshot.rate)
        first = grid_frame(snapshot, at_s, unit, lead)
        if end_s is not None:
            last = grid_frame(snapshot, end_s, unit, lead)
        else:
            grid = snapshot.need_grid()
            here = grid.nearest(
                frame_to_seconds(first + (lead if unit != "free" else 0), snapshot.rate),
                "beat" if unit != "free" else "free",
            )
            beat = 60 / grid.bpm
            reach = (out_s - clip.in_s) / speed
            beats = max(1, min(grid.metre, int(reach / beat + 1e-6)))
            until = here + beats * beat if unit == "free" else grid.step(here, beats)
            last = max(first + 1, seconds_to_frame(until, snapshot.rate) - (lead if unit != "free" else 0))
        return ops.lay_cutaway(edit, first, min(last, edit.length), clip, out_s, name, rate)

    return apply_to_edit(project, f"Lay {name} over", {"at_s": at_s, "media": media_id}, laid)


@one_transaction
def remove_cutaway(project: Project, start: int) -> Done:
    """Take off the cutaway that starts at a frame."""

    def removed(_snapshot: Snapshot, edit: Edit) -> Edit:
        index = next((i for i, c in enumerate(edit.cutaways) if c.start == start), None)
        if index is None:
            raise Refused("That cutaway is not there any more.")
        return ops.remove_cutaway(edit, index)

    return apply_to_edit(project, "Take off a cutaway", {"start": start}, removed)


@one_transaction
def fill(project: Project) -> Done:
    """Rough cut: fill the whole song from coverage and B-roll; held shots stay."""

    def filled(snapshot: Snapshot, edit: Edit) -> Edit:
        grid = snapshot.need_grid()
        rate = snapshot.rate
        lead = int(snapshot.row["settings"].get("lead", 0))
        spans = {n: s for n, s in snapshot.angle_spans.items() if s}
        clips = [
            Clip(
                m["id"],
                float(m["tags"].get("in_s", 0.0)),
                float(m["tags"].get("out_s", m["facts"].get("duration_s", 0.0))),
            )
            for m in snapshot.media
            if m["kind"] == "broll" and m["state"] == "ready"
        ]
        if not spans and not clips:
            raise Refused("There is nothing to cut with yet: lock a take on the Line-up, or add B-roll.")
        frames = [max(0, seconds_to_frame(grid.beats[i], rate) - lead) for i in range(len(grid.beats))]
        bars = [frames[i] for i in grid.bars if grid.beats[i] >= 0]
        starts = [
            seconds_to_frame(s.start_s, rate) - (lead if k else 0)
            for k, s in enumerate(snapshot.section_spans)
        ] or [0]
        slots = make_slots(bars, starts, _bars_each(snapshot), snapshot.length)
        return rough_cut(edit, slots, spans, clips, frames, float(rate))

    return apply_to_edit(project, "Rough cut", {}, filled)


def _bars_each(snapshot: Snapshot) -> list[int]:
    """Bars to a shot in each section: one where the song is loudest, two elsewhere."""
    found, spans = snapshot.analysis, snapshot.section_spans
    if found is None or not spans:
        return [2] * max(1, len(spans))
    ends = [*[s.start_s for s in spans[1:]], snapshot.seconds]
    levels = []
    for section, end in zip(spans, ends, strict=True):
        hops = [
            i
            for a, b, _at in snapshot.map.pieces(
                snapshot.map.to_song(section.start_s), snapshot.map.to_song(end - 1e-6)
            )
            for i in range(int(a / found.lufs_hop_s), int(b / found.lufs_hop_s))
        ]
        window = [found.lufs[i] for i in hops if i < len(found.lufs)] or [-70.0]
        levels.append(sum(window) / len(window))
    loudest = max(levels)
    # "Loudest" within 1.5 dB: what one hears as the same level.
    return [1 if level > loudest - 1.5 else 2 for level in levels]


@one_transaction
def settings(project: Project, *, unit: str | None, lead: int | None) -> None:
    """Choose what cuts fall on and how many frames before it."""
    values = dict(project.row["settings"])
    if unit is not None:
        values["unit"] = _unit(unit)
    if lead is not None:
        if not 0 <= lead <= MOST_LEAD:
            raise BadInput(f"A lead of {lead} frames is outside 0 to {MOST_LEAD}.")
        values["lead"] = lead
    with project.database.writing() as connection:
        connection.execute(tables.project.update().values(settings=values))
