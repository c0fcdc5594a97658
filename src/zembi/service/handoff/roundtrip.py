"""Sending a shot or passage out for work in another program, and bringing what comes back into its place, to the frame."""

import json
from dataclasses import asdict, dataclass, fields, replace
from fractions import Fraction
from pathlib import Path
from typing import Any, get_args

from zembi.core.edit.compiling.treated import made_of
from zembi.core.edit.lanes.over import OVER, lay_over
from zembi.core.edit.model import ClipSource, Edit
from zembi.core.edit.operations.lanes import LONGEST_NAME, with_new_lane
from zembi.core.edit.operations.laying import lane_for
from zembi.core.errors import BadInput, Refused
from zembi.core.interchange.limits import checked_json
from zembi.core.programme.model import Layer, Programme
from zembi.core.treatments.model import TIME
from zembi.jobs.apart import apart
from zembi.jobs.disk import need_room
from zembi.jobs.runner import JobRunner
from zembi.jobs.worker import Folders, LongWork, Report, Urgency
from zembi.media.mezzanine import Form, write_mezzanine
from zembi.media.probe import probe
from zembi.media.render import Film
from zembi.service.edit.cutting import change_edit
from zembi.service.handoff.films import file_stem, film_of
from zembi.service.media.library import add_files
from zembi.service.project.asked import keep_as_asked, project_as_asked
from zembi.service.project.snapshot import edit_of, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project, Workspace

FORMAT = "zembi shot 1"
#: Most frames before and after a shot that are sent along.
MOST_HANDLES = 240
#: Where shots that were sent out lie in the project's folder.
SENT = "sent"


@dataclass(frozen=True)
class Sent:
    """Subject of sending out: an item, or frames ``first`` to ``end`` (exclusive) as they are seen, cuts within and all.

    Attributes:
        item: Id of the item; None for a passage.
        handles: Frames before and after it that are sent along.
        form: How it is coded.
    """

    item: int | None = None
    first: int = 0
    end: int = 0
    handles: int = 12
    form: Form = "prores"


def queue_sending(project: Project, edit_id: int, runner: JobRunner, sent: Sent) -> int:
    """Queue writing an item or passage of an edit, with handles and a sidecar.

    Raises:
        BadInput: a form, range or number of handles that is not known.
        Refused: the shot is not there, or shows no picture.
    """
    if sent.form not in get_args(Form) or not 0 <= sent.handles <= MOST_HANDLES:
        raise BadInput(
            f"A shot is sent as {', '.join(get_args(Form))}, with 0 to {MOST_HANDLES} frames of handles."
        )
    film, place = _film(project, edit_id, sent)
    need_room(project.folder, (film.end - film.first) * film.width * film.height, "Sending a shot out")
    what = "shot" if sent.item is not None else "passage"
    return runner.add(
        project.database, "send", f"Sending out the {what} at frame {place['first']}",
        {"edit": edit_id, **asdict(sent), "asked": keep_as_asked(project)}, edit_id,
    )  # fmt: skip


@one_moment
def _film(project: Project, edit_id: int, sent: Sent) -> tuple[Film, dict[str, Any]]:
    """Pictures that are sent, with handles, and where they belong."""
    if sent.item is None:
        return _film_of_passage(project, edit_id, sent)
    return _film_of_item(project, edit_id, sent.item, sent.handles)


def _film_of_passage(project: Project, edit_id: int, sent: Sent) -> tuple[Film, dict[str, Any]]:
    """The film as it is seen in a range: what comes back lies over all of it."""
    edit = edit_of(project, edit_id)
    first, end = max(edit.first, sent.first), min(edit.end, sent.end)
    if end <= first:
        raise BadInput("The passage is empty.")
    begin, until = max(edit.first, first - sent.handles), min(edit.end, end + sent.handles)
    film = replace(film_of(project, edit_id, begin, until), song=None)
    if not film.files:
        raise Refused("This passage shows no picture that could be sent.")
    return film, _place(project, edit_id, "passage", (first, end), (begin, until))


def _place(
    project: Project, edit_id: int, lane: str, inside: tuple[int, int], with_handles: tuple[int, int]
) -> dict[str, Any]:
    """Sidecar of what is sent: where it belongs."""
    about = project.about
    return {
        "format": FORMAT, "project": project.id, "name": about.name, "edit": edit_id, "lane": lane,
        "first": inside[0], "end": inside[1], "before": inside[0] - with_handles[0], "after": with_handles[1] - inside[1],
        "rate": str(project.rate),
    }  # fmt: skip


def _film_of_item(project: Project, edit_id: int, item_id: int, handles: int) -> tuple[Film, dict[str, Any]]:
    """A shot's own picture, as long as it lasts and with handles, without what treats its look."""
    snapshot = snapshot_of(project)
    edit = edit_of(project, edit_id)
    lane, index = edit.find(item_id)
    item, end = edit.placed([lane])[index]
    start = item.start
    first, last = max(edit.first, start - handles), min(edit.end, end + handles)
    timed = replace(item, treatments=tuple(t for t in item.treatments if isinstance(t, TIME)))
    spans = made_of(timed, end, start - first, last - end, snapshot.material, lane.kind.name)
    used = sorted({s.media for s in spans if s.media is not None})
    if not used:
        raise Refused("This shot shows no picture that could be sent.")
    gone = [snapshot.by_id[m].name for m in used if not project.path_of(snapshot.by_id[m]).is_file()]
    if gone:
        raise Refused(f"Offline: {', '.join(gone)}. Relink it before sending.")
    moved = tuple(replace(s, start=s.start - first, end=s.end - first) for s in spans)
    programme = Programme(last - first, (Layer("Shot", moved),))
    about = snapshot.about
    files = {m: project.file_of(snapshot.by_id[m]) for m in used}
    film = Film(programme, files, None, snapshot.rate, about.width, about.height, 0, last - first)
    return film, _place(project, edit_id, lane.kind.name, (start, end), (first, last))


#: Sign in the name of what is sent, by the kind of its lane.
_SIGNS = {"base": "s", "passage": "p"}


def send(project: Project, arguments: dict[str, Any], report: Report) -> dict[str, Any]:
    """Write the shot or passage and its sidecar into the project's folder of sent shots."""
    if "item" not in arguments:
        raise Refused("It was asked for before items had names of their own: send it again.")
    sent = Sent(**{f.name: arguments[f.name] for f in fields(Sent) if f.name in arguments})
    film, place = _film(project, arguments["edit"], sent)
    stem = f"{file_stem(place['name'])}_{_SIGNS.get(place['lane'], 'c')}{place['first']:06d}"
    target = project.folder / SENT / (stem if sent.form == "png" else f"{stem}.mov")
    write_mezzanine(film, target, sent.form, progress=report)
    sidecar = target.with_name(f"{stem}.json")
    sidecar.write_text(json.dumps({**place, "file": target.name}, indent=1) + "\n")
    return {
        "file": target.name,
        "sidecar": sidecar.name,
        "folder": str(target.parent),
        "frames": film.end - film.first,
    }


def bring_back(
    workspace: Workspace,
    project: Project,
    edit_id: int,
    runner: JobRunner,
    path: str,
    *,
    own_lane: bool = False,
) -> str:
    """Lay a file over the shot or passage that it was made of: known by a sidecar of its name, beside it or among those sent
    out.

    What comes back may carry more in its name than what was sent ("..._v2.mov"). The original stays beneath.

    Args:
        workspace, project, edit_id, runner: Where to.
        path: The file.
        own_lane: Whether it lies on a new lane over all others, and so over cutaways too.

    Returns:
        What was done, in words.

    Raises:
        NotAllowed: outside the allowed folders.
        BadInput: no sidecar names it, or it cannot be read.
        Refused: it is too short for its place.
    """
    own = project.folder.resolve()
    inside = Path(path).resolve()
    if not inside.is_relative_to(own):
        _, inside = workspace.inside(path)
    place = _place_of(project, inside)
    facts = apart(inside.name, probe, inside, need=("picture",))
    first, end, before = place["first"], place["end"], place["before"]
    clip = ClipSource("", before / float(project.rate))
    name = inside.stem
    # Refused before anything is added.
    edit = edit_of(project, edit_id)
    if end > edit.end:
        raise Refused(f"{name} belongs to frames {first} to {end}, and the song is shorter now.")
    _laid(edit, own_lane, first, end, clip, facts.duration_s, name, project.rate)
    (media,) = add_files(workspace, project, runner, [str(inside)], "broll")
    change_edit(
        project, edit_id, f"Bring {name} back", {"file": inside.name, "first": first},
        lambda snapshot, now: _laid(
            now, own_lane, first, end, replace(clip, media=media), facts.duration_s, name, snapshot.rate
        ),
    )  # fmt: skip
    return f"{name} lies over frames {first} to {end}; the original is beneath it"


def _laid(
    edit: Edit,
    own_lane: bool,
    first: int,
    end: int,
    clip: ClipSource,
    seconds: float,
    name: str,
    rate: Fraction,
) -> Edit:
    """The edit with what came back, on a new lane or the lowest that takes it."""
    if own_lane:
        edit = with_new_lane(edit, OVER, name[:LONGEST_NAME])
    lane = edit.of_kind(OVER)[-1] if own_lane else lane_for(edit)
    return lay_over(edit, lane, first, end, clip, seconds, name, rate)


def _place_of(project: Project, file: Path) -> dict[str, Any]:
    beside = file.with_suffix(".json")
    sent = sorted((project.folder / SENT).glob("*.json"), key=lambda s: -len(s.stem))
    sidecar = beside if beside.is_file() else next((s for s in sent if file.stem.startswith(s.stem)), None)
    if sidecar is None:
        raise BadInput(
            f"{file.name} is not known as a shot that was sent out: keep the beginning of its name, or its .json beside it."
        )
    if sidecar.stat().st_size > 100_000:
        raise BadInput(f"{sidecar.name} is too large for a sidecar.")
    place = checked_json(sidecar.read_text(errors="replace"), sidecar.name, "a sidecar of a shot")
    numbers = ("first", "end", "before")
    whole = isinstance(place, dict) and all(isinstance(place.get(k), int) and place[k] >= 0 for k in numbers)
    if not whole or place.get("format") != FORMAT or place["end"] <= place["first"]:
        raise BadInput(f"{sidecar.name} does not say where a shot lies.")
    return dict(place)


def send_out(
    folder: Path, arguments: dict[str, Any], report: Report, *, allowed: Folders = None
) -> dict[str, Any]:
    """Write a shot for work in another program."""
    with project_as_asked(folder, arguments.get("asked", ""), allowed) as project:
        return send(project, arguments, report)


WORKS = (LongWork("send", send_out, Urgency.ASKED),)
