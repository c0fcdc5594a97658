"""What a project holds, as types: what is read leaves the store as these, never as rows."""

from dataclasses import dataclass
from dataclasses import fields as fields_of
from functools import cache
from typing import Any, ClassVar, Literal, Protocol, TypeVar

from sqlalchemy import Connection, Table, select
from sqlalchemy.engine import RowMapping

from zembi.core.errors import NotFound
from zembi.store import tables

MediaKind = Literal["song", "take", "broll", "stem"]
MediaState = Literal["new", "ready", "failed"]
JobState = Literal["waiting", "running", "done", "failed", "cancelled"]


class Entity(Protocol):
    """Read from one table; its fields are columns of the same names."""

    table: ClassVar[Table]


@dataclass(frozen=True)
class About:
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
class Media:
    """A file: the song, a take, B-roll or a stem. ``path`` is relative to ``root``, "project" or an allowed folder."""

    table: ClassVar[Table] = tables.media

    id: str
    kind: MediaKind
    name: str
    root: str
    path: str
    content: str
    facts: dict[str, Any]
    tags: dict[str, Any]
    state: MediaState
    error: str
    position: int

    @property
    def seconds(self) -> float:
        """Its length; 0 while it is not known."""
        return float(self.facts.get("duration_s", 0.0))


@dataclass(frozen=True)
class KeptCorrections:
    """The editor's corrections of the grid, as data."""

    table: ClassVar[Table] = tables.corrections

    data: dict[str, Any]


@dataclass(frozen=True)
class Section:
    """A section of the song from ``start_s`` (song time) to the next one."""

    table: ClassVar[Table] = tables.section

    id: int
    start_s: float
    name: str
    phrase_bars: int
    repeat_group: int
    plan: dict[str, Any] | None = None


@dataclass(frozen=True)
class Lyric:
    """A line of the lyrics; ``at_s`` (song time) means nothing while it is not ``timed``. Words: [seconds, word]."""

    table: ClassVar[Table] = tables.lyric

    id: int
    at_s: float
    text: str
    position: int
    timed: bool
    words: list[Any]


@dataclass(frozen=True)
class MarkSet:
    """A set of marks."""

    table: ClassVar[Table] = tables.mark_set

    id: int
    name: str
    shown: bool
    hue: int


@dataclass(frozen=True)
class Mark:
    """A mark at a song time; a ``hue`` of -1 is that of its set."""

    table: ClassVar[Table] = tables.mark

    id: int
    set_id: int
    at_s: float
    name: str
    hue: int


@dataclass(frozen=True)
class LeftOut:
    """A passage of the song that the film leaves out; song time."""

    table: ClassVar[Table] = tables.left_out

    id: int
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Lineup:
    """What lining a take up to ``song`` came to."""

    table: ClassVar[Table] = tables.lineup

    media: str
    status: str
    confidence: float
    declined: bool
    song: str


@dataclass(frozen=True)
class Angle:
    """An angle; one that was touched ``by_hand`` is changed by no grouping. ``because`` says why its takes are one."""

    table: ClassVar[Table] = tables.angle

    id: int
    number: int
    name: str
    hue: int
    by_hand: bool
    because: str


@dataclass(frozen=True)
class Pass:
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
class KeptFeed:
    """The editor's choice: in this range of song time the angle shows this pass."""

    table: ClassVar[Table] = tables.feed

    id: int
    angle: int
    start_s: float
    end_s: float
    pass_id: int


@dataclass(frozen=True)
class Select:
    """A named range of a B-roll clip, in seconds of the clip. ``said``: rating, tags, hue and note."""

    table: ClassVar[Table] = tables.select

    id: int
    media: str
    in_s: float
    out_s: float
    name: str
    said: dict[str, Any]


@dataclass(frozen=True)
class ListedShot:
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
class Recipe:
    """Treatments under a name, to be used again."""

    table: ClassVar[Table] = tables.recipe

    id: int
    name: str
    treatments: list[dict[str, Any]]


@dataclass(frozen=True)
class Version:
    """A version of the cut: its name, the one it was made from, and its length in frames."""

    table: ClassVar[Table] = tables.edit

    id: int
    name: str
    parent: int | None
    length: int


@dataclass(frozen=True)
class KeptItem:
    """An item on a lane of any version, with its source as data."""

    table: ClassVar[Table] = tables.item

    edit: int
    id: int
    lane: int
    start: int
    source: dict[str, Any]


@dataclass(frozen=True)
class Job:
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


@cache
def _names(kind: type[Any]) -> tuple[str, ...]:
    return tuple(f.name for f in fields_of(kind))


def from_row(kind: type[E], row: RowMapping) -> E:
    """A row of the entity's table as the entity."""
    return kind(**{name: row[name] for name in _names(kind)})


def every(connection: Connection, kind: type[E], /, **where: Any) -> list[E]:
    """Entities whose fields have these values, in the order of their keys."""
    table = kind.table
    query = select(*(table.c[name] for name in _names(kind))).order_by(*table.primary_key.columns)
    for name, value in where.items():
        query = query.where(table.c[name] == value)
    return [kind(*row) for row in connection.execute(query)]


def single(connection: Connection, kind: type[E], /, **key: Any) -> E:
    """The entity with this key.

    Raises:
        NotFound: there is none.
    """
    found = every(connection, kind, **key)
    if not found:
        raise NotFound(f"There is no {kind.table.name} {', '.join(str(v) for v in key.values())}.")
    return found[0]
