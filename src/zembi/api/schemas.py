"""What the page sends. Every limit that does not need the project is checked here."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Seconds = Annotated[float, Field(ge=-36_000, le=36_000, allow_inf_nan=False)]
Frame = Annotated[int, Field(ge=0, le=100_000_000)]
Unit = Literal["free", "half", "beat", "bar", "phrase"]
Lead = Annotated[int, Field(ge=0, le=12)]
Name = Annotated[str, Field(max_length=200)]


class Body(BaseModel):
    """Base of all requests: unknown fields are refused, so that a slip is noticed."""

    model_config = ConfigDict(extra="forbid")


class Ok(BaseModel):
    """Done; ``note`` says what, where that is worth saying."""

    note: str = ""


class Started(BaseModel):
    """A long work that was queued."""

    job: int


class NewProject(Body):
    """A project to make; rate and size are chosen first."""

    name: Name
    rate: str
    width: int
    height: int


class AddFiles(Body):
    """Files to add by reference."""

    paths: Annotated[list[str], Field(min_length=1, max_length=2000)]
    kind: Literal["song", "take", "broll"]


class Relink(Body):
    """Where a file is now."""

    path: str


class Describe(Body):
    """New name, camera or in and out of a file; what is left out stays."""

    name: Name | None = None
    camera: Name | None = None
    select: tuple[Seconds, Seconds] | None = None


class CorrectGrid(Body):
    """One correction of the grid."""

    action: Literal["halve", "double", "half beat", "the one", "metre", "nudge", "as found"]
    at_s: Seconds | None = None
    metre: int | None = None
    seconds: Seconds | None = None


class ChangeSection(Body):
    """What to change of a section."""

    name: Name | None = None
    start_s: Seconds | None = None
    snap: bool = True
    phrase_bars: int | None = None


class At(Body):
    """A song time."""

    at_s: Seconds


class AddMarks(Body):
    """Marks to add."""

    times_s: Annotated[list[Seconds], Field(min_length=1, max_length=20_000)]
    set_id: int | None = None


class DeleteMarks(Body):
    """Marks to delete."""

    ids: Annotated[list[int], Field(min_length=1, max_length=20_000)]


class TidyMarks(Body):
    """How to tidy marks."""

    to: Literal["beat", "half", "hit"]
    reach_s: Annotated[float, Field(gt=0, le=5)]


class PlacePass(Body):
    """What to do with a pass."""

    action: Literal["choose", "accept", "nudge", "revert", "unlock"]
    song_start_s: Seconds | None = None
    seconds: Seconds | None = None


class LockByHand(Body):
    """Pairs of (take time, song time) of the same moment."""

    pairs: Annotated[list[tuple[Seconds, Seconds]], Field(min_length=1, max_length=2)]


class DescribeAngle(Body):
    """New name or hue of an angle."""

    name: Name | None = None
    hue: int | None = None


class NewAngle(Body):
    """An angle to make."""

    name: Name = ""


class Order(Body):
    """Angle ids in their new order."""

    ids: Annotated[list[int], Field(min_length=1, max_length=9)]


class MovePass(Body):
    """The angle that a pass moves to; None for none."""

    angle: int | None


class ChooseFeed(Body):
    """The pass that feeds an angle in a song range."""

    angle: int
    start_s: Seconds
    end_s: Seconds
    pass_id: int


class Operation(Body):
    """One operation on the edit; which fields it needs depends on ``op``."""

    op: Literal[
        "switch", "cut", "join", "move", "angle", "black", "hold", "lay", "lay over", "take off", "rough cut"
    ]  # fmt: skip
    at_s: Seconds | None = None
    end_s: Seconds | None = None
    start: Frame | None = None
    to: Frame | None = None
    beats: Annotated[int, Field(ge=-64, le=64)] = 0
    angle: int | None = None
    media: str | None = None
    speed: Annotated[float, Field(gt=0, le=20)] = 1.0
    held: bool = True
    unit: Unit = "beat"
    lead: Lead = 0


class Settings(Body):
    """What cuts fall on."""

    unit: Unit | None = None
    lead: Lead | None = None


class RenderRange(Body):
    """Frames to render (end exclusive); None for the whole song."""

    first: Frame | None = None
    end: Frame | None = None
