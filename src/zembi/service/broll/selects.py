"""Selects, and what is said of clips and selects: rating, tags, a colour, a note."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import Table

from zembi.core.edit.model import SPEEDS
from zembi.core.errors import BadInput, NotFound
from zembi.core.footage.files import Said, said_to_dict
from zembi.core.footage.measure import unlike_colours
from zembi.service.media.analyses import heard_strokes, load_colours, movements
from zembi.service.media.footage import inside
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.entities import Media, Select

MOST_STARS = 5
HUES = 9


@dataclass(frozen=True)
class Range:
    """A range of a clip to keep as a select, in seconds of the clip."""

    in_s: float
    out_s: float
    name: str = ""


@dataclass(frozen=True)
class SaidAnew:
    """Changes of labels; None stays as it is."""

    rating: int | None = None
    add_tags: tuple[str, ...] = ()
    remove_tags: tuple[str, ...] = ()
    hue: int | None = None
    note: str | None = None
    speed: float | None = None
    moment_s: float | None = None


@dataclass(frozen=True)
class Near:
    """Colour distance of a clip to another, 0 to 1."""

    media: str
    unlike: float


@one_transaction
def keep_selects(project: Project, media_id: str, ranges: Sequence[Range]) -> list[int]:
    """Keep ranges of a clip as selects, as one step of undo; returns their ids.

    Raises:
        BadInput: a range that leaves nothing of the clip.
    """
    row = project.database.one(Media, id=media_id)
    if row.kind not in ("broll", "take"):
        raise BadInput(f"{row.name} is no footage; only clips have selects.")
    taken = [s.name for s in project.database.all(Select, media=media_id)]
    values = []
    for r in ranges:
        low, high = inside(row, r.in_s, r.out_s)
        name = r.name.strip() or next(
            n for k in range(1, 2 + len(taken)) if (n := f"{row.name} {k}") not in taken
        )
        taken.append(name)
        values.append({"media": media_id, "in_s": low, "out_s": high, "name": name, "said": {}})
    what = f"Keep {values[0]['name']}" if len(values) == 1 else f"Keep {len(values)} selects of {row.name}"
    with project.database.changing(what) as change:
        return change.insert_all(tables.select, values)


@one_transaction
def change_select(
    project: Project, select_id: int, *, name: str | None, in_s: float | None, out_s: float | None
) -> None:
    """Rename a select, or set its in and out. What is laid in the edit stays as it is.

    Raises:
        BadInput: an empty name, or a range that leaves nothing.
    """
    row = project.database.one(Select, id=select_id)
    media = project.database.one(Media, id=row.media)
    low, high = inside(media, row.in_s if in_s is None else in_s, row.out_s if out_s is None else out_s)
    if name is not None and not name.strip():
        raise BadInput("Give the select a name.")
    values = {"name": (name or row.name).strip(), "in_s": low, "out_s": high}
    with project.database.changing(f"Change {row.name}") as change:
        change.update(tables.select, {"id": select_id}, values)


@one_transaction
def drop_selects(project: Project, ids: Sequence[int]) -> None:
    """Take selects away; the clips and what is laid stay."""
    rows = [project.database.one(Select, id=i) for i in ids]
    what = f"Drop {rows[0].name}" if len(rows) == 1 else f"Drop {len(rows)} selects"
    with project.database.changing(what) as change:
        for row in rows:
            change.delete(tables.select, {"id": row.id})


@one_transaction
def say(project: Project, media: Sequence[str], selects: Sequence[int], said: SaidAnew) -> None:
    """Change what is said of clips and selects together, as one step of undo.

    Raises:
        BadInput: a rating or colour out of range, or nothing is chosen.
    """
    if not media and not selects:
        raise BadInput("Choose clips or selects first.")
    if said.rating is not None and not 0 <= said.rating <= MOST_STARS:
        raise BadInput(f"A rating of {said.rating} is outside 0 to {MOST_STARS}.")
    if said.hue is not None and not 0 <= said.hue <= HUES:
        raise BadInput(f"Colour {said.hue} is outside 0 to {HUES}.")
    if said.speed is not None and not SPEEDS[0] <= said.speed <= SPEEDS[1]:
        raise BadInput(f"A speed of {said.speed:g} is outside {SPEEDS[0]:g} to {SPEEDS[1]:g}.")
    if said.moment_s is not None and said.moment_s < 0:
        raise BadInput("A moment lies in the clip, at 0 seconds or later.")
    with project.database.changing(_named(said, len(media) + len(selects))) as change:
        targets: list[tuple[Table, str, Any, Said]] = [
            (tables.media, "tags", m, project.database.one(Media, id=m).said) for m in media
        ]
        targets += [(tables.select, "said", s, project.database.one(Select, id=s).said) for s in selects]
        for table, column, key, before in targets:
            change.update(table, {"id": key}, {column: _changed(before, said)})


def _named(said: SaidAnew, count: int) -> str:
    what = (
        "Rate" if said.rating is not None
        else "Tag" if said.add_tags or said.remove_tags
        else "Colour" if said.hue is not None
        else "Note on" if said.note is not None
        else "Mark a moment of" if said.moment_s is not None
        else "Speed of"
    )  # fmt: skip
    return f"{what} {count} clip{'s' if count != 1 else ''}"


def _changed(before: Said, said: SaidAnew) -> dict[str, Any]:
    named = {k: getattr(said, k) for k in ("rating", "hue", "note", "speed", "moment_s")}
    values: dict[str, Any] = {
        k: v.strip() if isinstance(v, str) else v for k, v in named.items() if v is not None
    }
    gone = {t.strip().lower() for t in said.remove_tags}
    tags = [t for t in before.tags if t.lower() not in gone]
    for tag in (t.strip() for t in said.add_tags):
        if tag and tag.lower() not in {t.lower() for t in tags}:
            tags.append(tag)
    return said_to_dict(replace(before, **values, tags=tuple(tags)))


@dataclass(frozen=True)
class ClipPlaces:
    """Places of a clip to jump to, in seconds of its file: where something begins to move, and strokes in its sound."""

    movements: list[float]
    strokes: list[float]


def clip_places(project: Project, media_id: str) -> ClipPlaces:
    """Places of a clip to jump to; none before they are measured.

    Raises:
        NotFound: no such file.
    """
    row = project.database.one(Media, id=media_id)
    if not row.content:
        return ClipPlaces([], [])
    derived = project.derived(row)
    sound = heard_strokes(derived) if row.facts.has_sound else ()
    offset = row.facts.sound_offset_s
    return ClipPlaces(list(movements(derived)), [s + offset for s in sound if s + offset >= 0])


@one_moment
def near_in_colour(project: Project, media_id: str) -> list[Near]:
    """Clips in order of how near they are to one in colour.

    Raises:
        NotFound: nothing is measured of it yet.
    """
    rows = [m for m in project.database.all(Media) if m.kind in ("broll", "take") and m.content]
    known = {m.id: k for m in rows if (k := load_colours(project.derived(m))) is not None}
    if media_id not in known:
        raise NotFound("Nothing is known of that clip's colours yet.")
    own = known[media_id]
    found = [Near(m, unlike_colours(own, colours)) for m, colours in known.items()]
    return sorted(found, key=lambda n: (n.media != media_id, n.unlike))
