"""Hand-off: the film to render and the files that other programs read."""

import io
import re
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from zembi.core.colour.cube import write_cube
from zembi.core.edit.model import Edit
from zembi.core.errors import BadInput, NotFound, Refused
from zembi.core.interchange.colour import ShotColour, colour_files, colour_lut
from zembi.core.interchange.edl import Reel, reel_name, write_edl
from zembi.core.interchange.lists import Cue, write_csv, write_vtt
from zembi.core.interchange.midi import write_midi
from zembi.core.interchange.report import not_seen
from zembi.core.interchange.timeline import MediaRef, write_timeline
from zembi.core.interchange.titles import NOT_HELD, title_cues, write_titles
from zembi.core.programme.flatten import media_seen, on_screen
from zembi.core.programme.model import Span
from zembi.core.treatments.music import place_from
from zembi.jobs.disk import need_room
from zembi.jobs.runner import JobRunner
from zembi.jobs.worker import Folders, LongWork, Report, Urgency
from zembi.media.render import Film, render
from zembi.service.media.footage import Condition, condition
from zembi.service.project.asked import keep_as_asked, project_as_asked
from zembi.service.project.snapshot import Snapshot, current_edit, edit_of, snapshot_of
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store.entities import Job, Mark

FORMATS = {
    "otio": ("application/json", "otio"),
    "edl": ("text/plain", "edl"),
    "csv": ("text/csv", "csv"),
    "cubes": ("application/zip", "colour.zip"),
    "vtt": ("text/vtt", "vtt"),
    "midi": ("audio/midi", "mid"),
    "titles.srt": ("application/x-subrip", "titles.srt"),
    "titles.vtt": ("text/vtt", "titles.vtt"),
    "titles.lrc": ("text/plain", "titles.lrc"),
}


@dataclass(frozen=True)
class Export:
    """A file to hand over."""

    name: str
    kind: str
    data: bytes


def file_stem(name: str) -> str:
    """A project's name as part of a file name, of a length that every file system takes."""
    stem = re.sub(r"[^\w.-]+", "_", name).strip("_.")
    while len(stem.encode()) > 120:
        stem = stem[: len(stem) * 3 // 4]
    return stem or "zembi"


def unique_name(stem: str, used: set[str]) -> str:
    """A name that none before had, also where small and capital letters are one; it is noted as used."""
    name, number = stem, 2
    while name.casefold() in used:
        name, number = f"{stem}-{number}", number + 1
    used.add(name.casefold())
    return name


@one_moment
def film_of(
    project: Project,
    edit_id: int,
    first: int | None = None,
    end: int | None = None,
    size: tuple[int, int] | None = None,
) -> Film:
    """An edit as a film.

    Args:
        project, edit_id: The edit.
        first, end: Frames of it (half-open); None for all of it.
        size: Width and height, in whose shape files are framed and treated; None for the project's.

    Raises:
        Refused: files it shows, or the song, are offline, out of reach, or not those that were added.
        BadInput: an empty range.
    """
    snapshot = snapshot_of(project)
    if size is not None:
        snapshot = replace(snapshot, about=replace(snapshot.about, width=size[0], height=size[1]))
    edit = edit_of(project, edit_id)
    programme = snapshot.programme(edit)
    begin = edit.first if first is None else max(edit.first, first)
    until = edit.end if end is None else min(edit.end, end)
    if until <= begin:
        raise BadInput("There is nothing to render: the range is empty.")
    used = sorted(media_seen(programme, begin, until))
    rows = [snapshot.by_id[m] for m in used] + ([snapshot.song] if snapshot.song else [])
    conditions = [condition(project, row, closely=True) for row in rows]
    _refuse_wrong([(project.path_of(row).name, c) for row, c in zip(rows, conditions, strict=True)])
    files = {m: project.file_of(snapshot.by_id[m]) for m in used}
    song = project.file_of(snapshot.song) if snapshot.song else None
    return Film(
        programme, files, song, snapshot.rate, snapshot.about.width, snapshot.about.height, begin, until,
    )  # fmt: skip


def _refuse_wrong(files: list[tuple[str, Condition]]) -> None:
    """Refuse to render files that are gone or not those that were added, naming all that are gone."""
    gone = sorted(name for name, c in files if c.state == "offline")
    said = [c.words for _, c in files if c.state not in ("ok", "offline")]
    if gone:
        said.insert(
            0, f"Offline: {', '.join(gone)}. Relink {'them' if len(gone) > 1 else 'it'} before rendering."
        )
    if said:
        raise Refused(" ".join(said[:3]) + (f" And {len(said) - 3} more." if len(said) > 3 else ""))


def film_bytes(film: Film) -> int:
    """About how large a film becomes, on the safe side: a tenth of a bit for each part of each frame."""
    return int((film.end - film.first) * film.width * film.height * 0.1 / 4)


@one_transaction
def queue_render(
    project: Project, edit_id: int, runner: JobRunner, first: int | None, end: int | None
) -> int:
    """Queue rendering an edit as it is now; refused at once where it cannot succeed."""
    film = film_of(project, edit_id, first, end)
    need_room(project.folder, film_bytes(film), "Rendering")
    whole = (film.first, film.end) == (film.programme.first, film.programme.end)
    part = "" if whole else f"_{film.first}-{film.end}"
    number = 1 + len(project.database.all(Job, kind="render"))
    file = f"{file_stem(project.about.name)}{part}_{number}.mp4"
    arguments = {
        "first": film.first,
        "end": film.end,
        "file": file,
        "edit": edit_id,
        "asked": keep_as_asked(project),
    }
    return runner.add(project.database, "render", f"Rendering {file}", arguments, edit_id)


def rendered_file(project: Project, job_id: int) -> Path:
    """The finished film of a render job.

    Raises:
        Refused: not rendered, or deleted since.
    """
    row = project.database.one(Job, id=job_id)
    path = project.folder / "renders" / str(row.result.get("file", ""))
    if row.kind != "render" or row.state != "done" or not path.is_file():
        raise Refused("This film is not there: render it again.")
    return path


@one_moment
def position_frame(project: Project, text: str) -> int:
    """The programme frame of a place as it is written; see :func:`~zembi.core.treatments.music.place_from`.

    Raises:
        BadInput: not of that form, or outside the song.
    """
    place, snapshot = place_from(text), snapshot_of(project)
    return min(snapshot.music.frame_of(place), snapshot.length)


def checked_format(kind: str) -> str:
    """A format, if it is one that can be written.

    Raises:
        BadInput: it is not.
    """
    if kind not in FORMATS:
        raise BadInput(f"“{kind}” is not a format: {', '.join(FORMATS)}.")
    return kind


@one_moment
def export(project: Project, edit_id: int, kind: str) -> Export:
    """Make a file of an edit.

    Raises:
        BadInput: an unknown format.
    """
    checked_format(kind)
    snapshot = snapshot_of(project)
    edit = edit_of(project, edit_id)
    data = _WRITERS[kind](snapshot, edit)
    content, ending = FORMATS[kind]
    return Export(f"{file_stem(snapshot.about.name)}.{ending}", content, data)


@one_moment
def report(project: Project, edit_id: int, kind: str) -> list[str]:
    """List in words what of an edit a file of a format does not tell other programs.

    Raises:
        BadInput: an unknown format.
    """
    checked_format(kind)
    snapshot = snapshot_of(project)
    edit = edit_of(project, edit_id)
    return not_seen(snapshot.programme(edit), kind, snapshot.rate)


def _names(snapshot: Snapshot) -> dict[str, str]:
    return {m.id: Path(m.path).name for m in snapshot.media}


def cues_of(snapshot: Snapshot) -> list[Cue]:
    """Sections and marks of the working song in order."""
    spans = snapshot.section_spans
    ends = [*[s.start_s for s in spans], snapshot.seconds][1:]
    sections = [Cue(s.start_s, e, s.name, "section") for s, e in zip(spans, ends, strict=True)]
    marks = [
        Cue(at, at + 0.1, m.name or "mark", "mark")
        for m in snapshot.project.database.all(Mark)
        for at in [snapshot.map.to_working(m.at_s)]
        if snapshot.map.holds(m.at_s)
    ]
    return sorted([*sections, *marks], key=lambda c: c.start_s)


def _refs(snapshot: Snapshot) -> dict[str, MediaRef]:
    return {
        m.id: MediaRef(
            snapshot.project.path_of(m).absolute().as_uri(),
            m.name,
            m.seconds,
        )
        for m in snapshot.media
    }


def _otio(snapshot: Snapshot, edit: Edit) -> bytes:
    refs = _refs(snapshot)
    song = refs[snapshot.song.id] if snapshot.song else None
    markers = [(c.start_s, c.text) for c in cues_of(snapshot)]
    programme = snapshot.programme(edit)
    tables = _colour_files(snapshot, edit)
    return write_timeline(snapshot.about.name, programme, refs, snapshot.rate, song, markers, tables).encode()


def _colour_files(snapshot: Snapshot, edit: Edit) -> dict[ShotColour, str]:
    return colour_files(snapshot.programme(edit), {m.id: m.name for m in snapshot.media})


def colour_tables(snapshot: Snapshot, edit: Edit) -> list[tuple[str, str]]:
    """Name and text of the ``.cube`` of each colour that other programs cannot be told in numbers."""
    return [
        (name, write_cube(colour_lut(colour), name.removesuffix(".cube")))
        for colour, name in _colour_files(snapshot, edit).items()
    ]


def _cubes(snapshot: Snapshot, edit: Edit) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, text in colour_tables(snapshot, edit):
            # Without the time of day: the same colours are the same file.
            file.writestr(zipfile.ZipInfo(name), text, zipfile.ZIP_DEFLATED)
    if not file.namelist():
        raise NotFound("No shot of this edit has colour that needs a .cube.")
    return out.getvalue()


def _on_screen(snapshot: Snapshot, edit: Edit) -> list[Span]:
    return on_screen(snapshot.programme(edit), snapshot.rate)


def _edl(snapshot: Snapshot, edit: Edit) -> bytes:
    taken: set[str] = set()
    reels = {}
    for m in snapshot.media:
        if m.kind == "song":
            continue
        rate = m.facts.rate or snapshot.rate
        first = replace(m.facts, rate=rate).first_frame
        reels[m.id] = Reel(reel_name(m.name, taken), Path(m.path).name, rate, first)
    text = write_edl(
        snapshot.about.name,
        _on_screen(snapshot, edit),
        reels,
        snapshot.rate,
        # The list begins no earlier than a day does.
        first=max(snapshot.about.first_frame, edit.lead),
        tables=_colour_files(snapshot, edit),
    )
    return text.encode()


def _csv(snapshot: Snapshot, edit: Edit) -> bytes:
    return write_csv(
        _on_screen(snapshot, edit), _names(snapshot), snapshot.need_grid(), snapshot.rate
    ).encode()


def _vtt(snapshot: Snapshot, edit: Edit) -> bytes:
    return write_vtt(_in_film(cues_of(snapshot), edit, snapshot)).encode()


def _in_film(cues: list[Cue], edit: Edit, snapshot: Snapshot) -> list[Cue]:
    """Cues in seconds of the film, which may begin before the song."""
    by = float(edit.lead / snapshot.rate)
    return [replace(c, start_s=c.start_s + by, end_s=c.end_s + by) for c in cues]


def _midi(snapshot: Snapshot, _edit: Edit) -> bytes:
    return write_midi(snapshot.need_grid(), cues_of(snapshot))


def _titles(form: str) -> Callable[[Snapshot, Edit], bytes]:
    def write(snapshot: Snapshot, edit: Edit) -> bytes:
        cues = title_cues(snapshot.programme(edit).layers, snapshot.rate)
        if not cues:
            raise NotFound("There is no title in this edit.")
        return write_titles(_in_film(cues, edit, snapshot), form).encode()

    return write


_WRITERS: dict[str, Callable[[Snapshot, Edit], bytes]] = {
    "otio": _otio,
    "edl": _edl,
    "csv": _csv,
    "cubes": _cubes,
    "vtt": _vtt,
    "midi": _midi,
    **{f"titles.{form}": _titles(form) for form in NOT_HELD},
}


def render_film(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Render the edit that was asked for, or a range of it, into the project's renders folder."""
    with project_as_asked(folder, arguments.get("asked", ""), allowed) as project:
        # Asked for before edits had addresses: the one that was worked on.
        edit = arguments.get("edit") or current_edit(project)
        film = film_of(project, edit, arguments.get("first"), arguments.get("end"))
        target = folder / "renders" / arguments["file"]
        render(film, target, progress=report)
        return {"file": arguments["file"], "bytes": target.stat().st_size, "frames": film.end - film.first}


WORKS = (LongWork("render", render_film, Urgency.ASKED),)
