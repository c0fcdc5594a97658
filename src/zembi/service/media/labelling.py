"""Labels of several files at once: names, cameras, days, places, and their kind."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from zembi.core.errors import BadInput, Refused
from zembi.core.footage.files import SaidOfFile, said_to_dict
from zembi.service.lineup.grouping import give_angles
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.entities import Media, Pass, every

#: Most files that are labelled at once.
MOST_FILES = 2000


@dataclass(frozen=True)
class Labels:
    """New labels of files; what is None stays.

    Attributes:
        name: Of several the same, with a number after it.
        camera: What the editor calls their camera; "" for none.
        day, place: Kept as the tags "day: ..." and "place: ..."; "" takes the tag away.
        kind: A take is lined up to the song, B-roll is not; passes of what becomes B-roll go.
    """

    name: str | None = None
    camera: str | None = None
    day: str | None = None
    place: str | None = None
    kind: Literal["take", "broll"] | None = None


@one_transaction
def label(project: Project, media_ids: Sequence[str], labels: Labels) -> None:
    """Give files labels, as one step of undo; tags, ratings and ranges stay.

    Raises:
        BadInput: no files, or too many.
        NotFound: one is not there any more.
        Refused: one is neither take nor B-roll, or cannot be a take.
    """
    if not 0 < len(media_ids) <= MOST_FILES:
        raise BadInput(f"Between 1 and {MOST_FILES} files can be labelled at once.")
    rows = [project.database.one(Media, id=m) for m in media_ids]
    for row in rows:
        if row.kind not in ("take", "broll"):
            raise Refused(f"{row.name} is the song or a stem: choose takes and clips.")
        if labels.kind == "take" and row.facts.still:
            raise Refused(f"{row.name} is a still picture, no take.")
    what = rows[0].name if len(rows) == 1 else f"{len(rows)} files"
    title = {"take": f"Make takes of {what}", "broll": f"Make B-roll of {what}"}
    with project.database.changing(title.get(labels.kind or "", f"Label {what}")) as change:
        for number, row in enumerate(rows, 1):
            values: dict[str, Any] = {"tags": said_to_dict(_said(row.said, labels))}
            if labels.name is not None and labels.name.strip():
                values["name"] = labels.name.strip() + (f" {number}" if len(rows) > 1 else "")
            if labels.kind is not None:
                values["kind"] = labels.kind
            change.update(tables.media, {"id": row.id}, values)
            if labels.kind == "broll" and row.kind == "take":
                _without_places(change, row.id)
        if labels.kind is not None:
            give_angles(project, change)


def _said(said: SaidOfFile, labels: Labels) -> SaidOfFile:
    tags = said.tags
    for word, value in (("day", labels.day), ("place", labels.place)):
        if value is not None:
            others = tuple(t for t in tags if not t.lower().startswith(f"{word}:"))
            tags = (*others, f"{word}: {value.strip()}") if value.strip() else others
    camera = said.camera if labels.camera is None else labels.camera.strip()
    undecided = said.undecided and labels.kind is None
    return replace(said, tags=tags, camera=camera, undecided=undecided)


def _without_places(change: Change, media_id: str) -> None:
    """Take a file's places in the song away."""
    for row in every(change.connection, Pass, media=media_id):
        change.delete_all(tables.feed, {"pass_id": row.id})
        change.delete(tables.pass_, {"id": row.id})
    change.delete_all(tables.lineup, {"media": media_id})
