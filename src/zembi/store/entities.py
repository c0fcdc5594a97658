"""Entities: the types as which a project's rows leave the store."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from dataclasses import fields as fields_of
from functools import cache
from typing import Any, ClassVar, Literal, TypeVar

from sqlalchemy import Connection, Executable, Table, bindparam, select
from sqlalchemy.engine import RowMapping

from zembi.core.errors import NotFound
from zembi.core.footage.files import (
    Facts,
    Said,
    SaidOfFile,
    facts_from_dict,
    said_from_dict,
    said_of_file_from_dict,
)
from zembi.store import tables

MediaKind = Literal["song", "take", "broll", "stem"]
MediaState = Literal["new", "ready", "failed"]
JobState = Literal["waiting", "running", "done", "failed", "cancelled"]


Read = Mapping[str, tuple[str, Callable[[Mapping[str, Any]], Any]]]


class Entity:
    """Read from one table; its fields are columns of the same names, but for those that ``read`` names.

    ``read``: for a field whose column is JSON, that column and the function that makes the field's type of it.
    """

    table: ClassVar[Table]
    read: ClassVar[Read] = {}

    @classmethod
    @cache
    def columns(cls) -> dict[str, str]:
        """The column of each field."""
        named: Any = cls
        return {f.name: cls.read[f.name][0] if f.name in cls.read else f.name for f in fields_of(named)}

    @classmethod
    @cache
    def query(cls, *names: str) -> Executable:
        """Rows whose columns have the values of parameters of their names; made once, as it is asked often."""
        chosen = select(*(cls.table.c[c] for c in cls.columns().values())).order_by(
            *cls.table.primary_key.columns
        )
        columns = [cls.table.c[name] for name in names]
        return chosen.where(*(c.is_not_distinct_from(bindparam(c.name, type_=c.type)) for c in columns))


@dataclass(frozen=True)
class About(Entity):
    """The project itself. ``rate`` is a fraction ("24000/1001"); ``song`` and ``edit`` are ids."""

    table: ClassVar[Table] = tables.project

    name: str
    rate: str
    width: int
    height: int
    first_frame: int
    song: str | None
    edit: int | None
    settings: dict[str, Any]
    level: dict[str, Any]


@dataclass(frozen=True)
class Media(Entity):
    """A file: the song, a take, B-roll or a stem. ``path`` is relative to ``root``, "project" or an allowed folder."""

    table: ClassVar[Table] = tables.media
    read: ClassVar[Read] = {
        "facts": ("facts", facts_from_dict),
        "said": ("tags", said_of_file_from_dict),
    }

    id: str
    kind: MediaKind
    name: str
    root: str
    path: str
    content: str
    facts: Facts
    said: SaidOfFile
    state: MediaState
    error: str
    position: int

    @property
    def seconds(self) -> float:
        """Its length; 0 while it is not known."""
        return self.facts.duration_s

    @property
    def in_s(self) -> float:
        """In point: where its used part begins."""
        return self.said.in_s or 0.0

    @property
    def out_s(self) -> float:
        """Out point: where its used part ends."""
        return self.facts.duration_s if self.said.out_s is None else self.said.out_s


@dataclass(frozen=True)
class KeptCorrections(Entity):
    """The editor's corrections of the grid, as data."""

    table: ClassVar[Table] = tables.corrections

    data: dict[str, Any]


@dataclass(frozen=True)
class Section(Entity):
    """A section of the song from ``start_s`` (song time) to the next one."""

    table: ClassVar[Table] = tables.section

    id: int
    start_s: float
    name: str
    phrase_bars: int
    repeat_group: int
    plan: dict[str, Any] | None = None


@dataclass(frozen=True)
class Lyric(Entity):
    """A line of the lyrics; ``at_s`` (song time) means nothing while it is not ``timed``. Words: [seconds, word]."""

    table: ClassVar[Table] = tables.lyric

    id: int
    at_s: float
    text: str
    position: int
    timed: bool
    words: list[Any]


@dataclass(frozen=True)
class MarkSet(Entity):
    """A set of marks."""

    table: ClassVar[Table] = tables.mark_set

    id: int
    name: str
    shown: bool
    hue: int


@dataclass(frozen=True)
class Mark(Entity):
    """A mark at a song time; a ``hue`` of -1 is that of its set."""

    table: ClassVar[Table] = tables.mark

    id: int
    set_id: int
    at_s: float
    name: str
    hue: int


@dataclass(frozen=True)
class LeftOut(Entity):
    """A passage of the song that the film leaves out; song time."""

    table: ClassVar[Table] = tables.left_out

    id: int
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Lineup(Entity):
    """Result of aligning a take to ``song``."""

    table: ClassVar[Table] = tables.lineup

    media: str
    status: str
    confidence: float
    declined: bool
    song: str


@dataclass(frozen=True)
class Angle(Entity):
    """An angle; one that was touched ``by_hand`` is changed by no grouping. ``because`` says why its takes are one."""

    table: ClassVar[Table] = tables.angle

    id: int
    number: int
    name: str
    hue: int
    by_hand: bool
    because: str


@dataclass(frozen=True)
class Pass(Entity):
    """A pass of a take. Song time = ``song_start_s + rate * (take time - take_start_s)``."""

    table: ClassVar[Table] = tables.pass_

    id: int
    media: str
    take_start_s: float
    take_end_s: float
    song_start_s: float
    rate: float
    status: Literal["locked", "choose"]
    confidence: float
    origin: str
    found: dict[str, Any]
    angle: int | None
    position: int
    verdict: Literal["", "circled", "rejected"]
    note: str

    @property
    def song_end_s(self) -> float:
        """Song time at which it ends."""
        return self.song_start_s + self.rate * (self.take_end_s - self.take_start_s)


@dataclass(frozen=True)
class KeptFeed(Entity):
    """The editor's choice: in this range of song time the angle shows this pass."""

    table: ClassVar[Table] = tables.feed

    id: int
    angle: int
    start_s: float
    end_s: float
    pass_id: int


@dataclass(frozen=True)
class Select(Entity):
    """A named range of a B-roll clip, in seconds of the clip."""

    table: ClassVar[Table] = tables.select
    read: ClassVar[Read] = {"said": ("said", said_from_dict)}

    id: int
    media: str
    in_s: float
    out_s: float
    name: str
    said: Said


@dataclass(frozen=True)
class ListedShot(Entity):
    """A shot that was planned; ``done`` names what was ticked off it: a pass, a file or a select."""

    table: ClassVar[Table] = tables.listed_shot

    id: int
    position: int
    section: str
    what: str
    camera: str
    note: str
    done: list[dict[str, Any]]


@dataclass(frozen=True)
class Recipe(Entity):
    """Treatments under a name, to be used again."""

    table: ClassVar[Table] = tables.recipe

    id: int
    name: str
    treatments: list[dict[str, Any]]


@dataclass(frozen=True)
class Note(Entity):
    """A note on a version, at times of the whole song: it stays at its music whatever is cut."""

    table: ClassVar[Table] = tables.note

    id: int
    edit: int
    start_s: float
    end_s: float
    who: str
    text: str
    state: str
    why: str


@dataclass(frozen=True)
class Version(Entity):
    """A version of the cut: its name and note, the one it was made from and when, and the frames of the song, before and after
    it. One that is locked is not cut.
    """

    table: ClassVar[Table] = tables.edit

    id: int
    name: str
    parent: int | None
    length: int
    lead: int
    tail: int
    note: str
    made: str
    locked: bool


@dataclass(frozen=True)
class KeptItem(Entity):
    """An item on a lane of any version, with its source as data."""

    table: ClassVar[Table] = tables.item

    edit: int
    id: int
    lane: int
    start: int
    source: dict[str, Any]


@dataclass(frozen=True)
class Job(Entity):
    """A job, waiting, under way or ended; ``progress`` goes from 0 to 1."""

    table: ClassVar[Table] = tables.job

    id: int
    kind: str
    title: str
    arguments: dict[str, Any]
    state: JobState
    progress: float
    message: str
    error: str
    cancel: bool
    result: dict[str, Any]
    edit: int | None
    operations: int | None


E = TypeVar("E", bound=Entity)


def _made(kind: type[E], values: Iterable[Any]) -> E:
    """An entity from the values of its columns, in the order of its fields."""
    if not kind.read:
        return kind(*values)
    named = dict(zip(kind.columns(), values, strict=True))
    return kind(**named | {name: made(named[name]) for name, (_, made) in kind.read.items()})


def from_row(kind: type[E], row: RowMapping) -> E:
    """A row of the entity's table as the entity."""
    return _made(kind, (row[column] for column in kind.columns().values()))


def every(connection: Connection, kind: type[E], /, **where: Any) -> list[E]:
    """Entities whose fields have these values, in the order of their keys."""
    return [_made(kind, row) for row in connection.execute(kind.query(*where), where)]


def single(connection: Connection, kind: type[E], /, **key: Any) -> E:
    """The entity with this key.

    Raises:
        NotFound: there is none.
    """
    found = every(connection, kind, **key)
    if not found:
        raise NotFound(f"There is no {kind.table.name} {', '.join(str(v) for v in key.values())}.")
    return found[0]
