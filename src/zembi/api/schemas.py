"""Request bodies. Every limit that does not need the project is checked here."""

from typing import Annotated, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, RootModel, model_validator

from zembi.core.colour.cube import MOST_LETTERS
from zembi.core.colour.logs import OFFSETS, PLAIN, SLOPES, Curve
from zembi.core.edit import operations
from zembi.core.edit.falls import MOST_LEAD
from zembi.core.edit.limits import LimitName
from zembi.core.edit.model import SPEEDS
from zembi.core.edit.planning import MOST_BEATS
from zembi.core.footage.fit import SCALES
from zembi.core.interchange.notes import State
from zembi.core.song.grid import Unit
from zembi.core.song.hits import HIT_KINDS, HitKind
from zembi.core.song.marks import FARTHEST_SHIFT_S, FARTHEST_TIDY_S
from zembi.core.titles.card import Card, CardLine
from zembi.core.treatments.model import KINDS, Treatment
from zembi.core.treatments.music import Length, On, Place
from zembi.service.handoff.roundtrip import MOST_HANDLES
from zembi.service.media.labelling import MOST_FILES
from zembi.service.song.marks import Tidied

Id = Annotated[int, Field(ge=0, lt=2**63)]
Seconds = Annotated[float, Field(ge=-36_000, le=36_000, allow_inf_nan=False)]
Frame = Annotated[int, Field(ge=0, le=100_000_000)]
#: A frame of the film, which may begin before the song.
FilmFrame = Annotated[int, Field(ge=-100_000_000, le=100_000_000)]
Lead = Annotated[int, Field(ge=0, le=MOST_LEAD)]
Name = Annotated[str, Field(max_length=200)]
FilePath = Annotated[str, Field(max_length=4096)]
MediaId = Annotated[str, Field(max_length=64)]


class Body(BaseModel):
    """Base of all requests: unknown fields are refused, so that a slip is noticed, and so is what is no text."""

    model_config = ConfigDict(extra="forbid")

    @model_validator(mode="before")
    @classmethod
    def only_text(cls, data: object) -> object:
        """Refuse lone surrogates and NUL characters, which no database or file name takes."""
        _check_text(data)
        return data


def _check_text(value: object) -> None:
    if isinstance(value, str):
        if "\0" in value or (not value.isprintable() and any("\ud800" <= c <= "\udfff" for c in value)):
            raise ValueError("holds characters that are not text")
    elif isinstance(value, dict):
        for key, inner in value.items():
            _check_text(key)
            _check_text(inner)
    elif isinstance(value, list) and value and not isinstance(value[0], int | float):
        for inner in value:
            _check_text(inner)


class Ok(BaseModel):
    """Done; ``note`` says what, where that is worth saying."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)

    note: str = ""


class Started(BaseModel):
    """A long work that was queued, and the address at which it is followed."""

    job: int
    address: str


class NewProject(Body):
    """A project to make; rate and size are chosen first."""

    name: Name
    rate: Annotated[str, Field(max_length=40)]
    width: Annotated[int, Field(ge=1, le=100_000)]
    height: Annotated[int, Field(ge=1, le=100_000)]


class DescribeProject(Body):
    """A new name, picture size, rate or first timecode of a project; what is left out stays."""

    name: Name | None = None
    size: tuple[Annotated[int, Field(ge=1, le=100_000)], Annotated[int, Field(ge=1, le=100_000)]] | None = (
        None
    )
    first_timecode: Annotated[str, Field(max_length=40)] | None = None
    rate: Annotated[str, Field(max_length=40)] | None = None


#: What files are added as; "footage" is told apart by its sound.
FileKind = Literal["song", "take", "broll", "stem", "footage"]


class LabelFiles(Body):
    """Labels for several files; what is left out stays. Several of one name are numbered."""

    ids: Annotated[list[MediaId], Field(min_length=1, max_length=MOST_FILES)]
    name: Name | None = None
    camera: Annotated[str, Field(max_length=120)] | None = None
    day: Annotated[str, Field(max_length=80)] | None = None
    place: Annotated[str, Field(max_length=80)] | None = None
    kind: Literal["take", "broll"] | None = None


class AddFiles(Body):
    """Files to add by reference."""

    paths: Annotated[list[FilePath], Field(min_length=1, max_length=2000)]
    kind: FileKind
    role: Literal["", "voice", "drums", "instrumental"] = ""


class DroppedFile(Body):
    """All that a browser tells of a file."""

    name: Annotated[str, Field(max_length=255)]
    size: Annotated[int, Field(ge=0, lt=2**53)]


class Dropped(Body):
    """Files that were dropped on the page."""

    files: Annotated[list[DroppedFile], Field(min_length=1, max_length=1000)]


class Relink(Body):
    """The path of a file that was moved."""

    path: FilePath


class Describe(Body):
    """New name, camera or in and out of a file; what is left out stays."""

    name: Name | None = None
    camera: Name | None = None
    select: tuple[Seconds, Seconds] | None = None
    slate: Annotated[str, Field(max_length=200)] | None = None


class GridAsAWhole(Body):
    """A correction of the grid that needs no value."""

    action: Literal["halve", "double", "half beat", "as found"]


class GridAtBeat(Body):
    """A correction at the beat, the pin or the passage nearest to a time."""

    action: Literal["the one", "take off pin", "take off passage", "more beats", "fewer beats"]
    song_s: Seconds


Metre = Annotated[int, Field(ge=0, le=1000)]


class SetMetre(Body):
    """The beats of every bar."""

    action: Literal["metre"]
    metre: Metre


class SetMetreRange(Body):
    """The beats of the bars of a range."""

    action: Literal["metre range"]
    song_s: Seconds
    to_s: Seconds
    metre: Metre


class NudgeGrid(Body):
    """A shift of the whole grid."""

    action: Literal["nudge"]
    seconds: Seconds


class SetTempo(Body):
    """A straight grid through the bar line nearest to a time."""

    action: Literal["tempo"]
    bpm: Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]
    song_s: Seconds


class TapTempo(Body):
    """Times tapped along with the beat."""

    action: Literal["tap"]
    taps: Annotated[list[Seconds], Field(max_length=2000)]


class PinBeat(Body):
    """The beat nearest to a time, and where it belongs."""

    action: Literal["pin"]
    song_s: Seconds
    to_s: Seconds


class TapPassage(Body):
    """Times tapped along with the beat of a passage."""

    action: Literal["mend"]
    song_s: Seconds
    to_s: Seconds
    taps: Annotated[list[Seconds], Field(max_length=2000)]


class CorrectGrid(
    RootModel[
        Annotated[
            GridAsAWhole
            | GridAtBeat
            | SetMetre
            | SetMetreRange
            | NudgeGrid
            | SetTempo
            | TapTempo
            | PinBeat
            | TapPassage,
            Field(discriminator="action"),
        ]
    ]
):
    """One correction of the grid; ``action`` says which."""


class BringInEdit(Body):
    """Cuts of an edit to bring to the grid: (frame, frame on the grid)."""

    edit: Id
    moves: Annotated[list[tuple[Frame, Frame]], Field(min_length=1, max_length=20_000)]


class BringAlong(Body):
    """Cuts of edits to bring to the grid."""

    edits: Annotated[list[BringInEdit], Field(min_length=1, max_length=1000)]


class ChangeSection(Body):
    """Changes of a section."""

    name: Name | None = None
    start_s: Seconds | None = None
    snap: bool = True
    phrase_bars: Annotated[int, Field(ge=0, le=1000)] | None = None


class At(Body):
    """A song time."""

    song_s: Seconds


Reach = Annotated[float, Field(gt=0, le=FARTHEST_TIDY_S, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class AddMarks(Body):
    """Marks to add; with ``working`` the times are on the clock of what is kept of the song."""

    times_s: Annotated[list[Seconds], Field(min_length=1, max_length=20_000)]
    set_id: Id | None = None
    working: bool = False


class ChangeMark(Body):
    """Changes of a mark; ``hue`` -1 is that of its set."""

    song_s: Seconds | None = None
    name: Name | None = None
    hue: Annotated[int, Field(ge=-1, le=20)] | None = None


class DeleteMarks(Body):
    """Marks to delete."""

    action: Literal["delete"]
    ids: Annotated[list[Id], Field(min_length=1, max_length=20_000)]


class TidyMarks(Body):
    """Parameters of tidying marks; ``set_id`` None for all; ``sensitivity`` None for each kind's own. With ``preview`` nothing is moved, only told."""

    action: Literal["tidy"]
    to: Literal["beat", "half", "hit"]
    reach_s: Reach
    set_id: Id | None = None
    sensitivity: Share | None = None
    preview: bool = False


class ThinMarks(Body):
    """Marks thinned to every n-th from the ``first`` on."""

    action: Literal["thin"]
    keep_every: Annotated[int, Field(ge=0, le=1000)]
    first: Annotated[int, Field(ge=0, le=64)] = 0
    set_id: Id | None = None


class ShiftMarks(Body):
    """Marks moved by the same time."""

    action: Literal["shift"]
    shift_s: Annotated[float, Field(ge=-FARTHEST_SHIFT_S, le=FARTHEST_SHIFT_S, allow_inf_nan=False)]
    set_id: Id | None = None


class ChangeMarks(
    RootModel[Annotated[DeleteMarks | TidyMarks | ThinMarks | ShiftMarks, Field(discriminator="action")]]
):
    """One change of several marks; ``action`` says which."""


class MarksChanged(BaseModel):
    """The result of a change of marks, in words; ``moved`` tells those that tidying moves."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)

    note: str
    moved: list[Tidied] = []


class EmptySet(Body):
    """A set of marks without any."""

    of: Literal["nothing"]
    name: Name


class SetOfHits(Body):
    """Marks on hits of some kinds; ``sensitivity`` None for each kind's own."""

    of: Literal["hits"]
    kinds: Annotated[list[HitKind], Field(max_length=len(HIT_KINDS))]
    sensitivity: Share | None = None
    name: Name = ""


class SetOfAccents(Body):
    """Marks on the strongest hit of each bar: of some kinds, without any of all attacks."""

    of: Literal["accents"]
    kinds: Annotated[list[HitKind], Field(max_length=len(HIT_KINDS))] = []
    name: Name = ""


class SetOnGrid(Body):
    """Marks on a division of the grid."""

    of: Literal["grid"]
    every: Literal["beat", "2 beats", "4 beats", "half", "bar", "phrase"]
    name: Name = ""


class NewMarkSet(
    RootModel[Annotated[EmptySet | SetOfHits | SetOfAccents | SetOnGrid, Field(discriminator="of")]]
):
    """A set of marks to make; ``of`` says of what."""


class MadeSet(BaseModel):
    """The set that was made, and how many marks in it, in words."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)

    id: int
    note: str = ""


class ChangeMarkSet(Body):
    """Changes of a set of marks."""

    name: Name | None = None
    shown: bool | None = None
    hue: Annotated[int, Field(ge=0, le=20)] | None = None


class LyricsText(Body):
    """Lyrics in any of the formats."""

    text: Annotated[str, Field(max_length=1_000_000)]
    name: Name = ""


class ChangeLine(Body):
    """Changes of a line of lyrics; its time in the song, or in what is kept of it."""

    song_s: Seconds | None = None
    working_s: Seconds | None = None
    text: Name | None = None
    timed: bool | None = None


class Passage(Body):
    """A passage of the song."""

    start_s: Seconds
    end_s: Seconds


class Shorten(Passage):
    """An action on a passage: leave it out, or use only it."""

    action: Literal["leave out", "use only"]


class Level(Body):
    """The song's level in the film; what is left out stays."""

    gain_db: Annotated[float, Field(ge=-60, le=60, allow_inf_nan=False)] | None = None
    fade_in_s: Annotated[float, Field(ge=0, le=600, allow_inf_nan=False)] | None = None
    fade_out_s: Annotated[float, Field(ge=0, le=600, allow_inf_nan=False)] | None = None
    shape: Literal["even", "smooth", "slow"] | None = None


class ToPlace(Body):
    """A pass locked at a place that fits it, or put exactly at a typed one."""

    action: Literal["choose", "place"]
    song_start_s: Seconds


class BySeconds(Body):
    """A pass nudged by ``seconds``, or split there in the take, or its joint with the next moved there."""

    action: Literal["nudge", "split", "joint"]
    seconds: Seconds


class AsItIs(Body):
    """A pass locked where it lies, put back as found, opened again, or joined with the next."""

    action: Literal["accept", "revert", "unlock", "join"]


class PlacePass(RootModel[Annotated[ToPlace | BySeconds | AsItIs, Field(discriminator="action")]]):
    """One action on a pass; ``action`` says which."""


class TakesBatch(Body):
    """One thing to do with several takes."""

    action: Literal["accept", "redo", "clear", "unlock"]
    takes: Annotated[list[MediaId], Field(min_length=1, max_length=1000)]


class LockByHand(Body):
    """Pairs of (take time, song time) of the same moment."""

    pairs: Annotated[list[tuple[Seconds, Seconds]], Field(min_length=1, max_length=2)]


class DescribeAngle(Body):
    """New name or hue of an angle."""

    name: Name | None = None
    hue: Annotated[int, Field(ge=0, le=1000)] | None = None


class NewAngle(Body):
    """An angle to make."""

    name: Name = ""


class Order(Body):
    """Angle ids in their new order."""

    ids: Annotated[list[Id], Field(min_length=1, max_length=1000)]


class MergeAngles(Body):
    """Angles that become part of another."""

    angles: Annotated[list[Id], Field(min_length=1, max_length=1000)]


class SplitAngle(Body):
    """Passes that become an angle of their own."""

    passes: Annotated[list[Id], Field(min_length=1, max_length=1000)]
    name: Name = ""


class JudgePass(Body):
    """The editor's mark on a pass, or a word on it; "" takes a mark away."""

    verdict: Literal["", "circled", "rejected"] | None = None
    note: Annotated[str, Field(max_length=2000)] | None = None


class MovePass(Body):
    """The angle that a pass moves to; None for none."""

    angle: Id | None


class ChooseFeed(Body):
    """The pass that feeds an angle in a song range."""

    angle: Id
    start_s: Seconds
    end_s: Seconds
    pass_id: Id


class SelectRange(Body):
    """A range of a clip, in its seconds."""

    in_s: Seconds
    out_s: Seconds
    name: Name = ""


class KeepSelects(Body):
    """Ranges of a clip to keep as selects."""

    media: MediaId
    ranges: Annotated[list[SelectRange], Field(min_length=1, max_length=5000)]


class ChangeSelect(Body):
    """New name, in or out of a select."""

    name: Name | None = None
    in_s: Seconds | None = None
    out_s: Seconds | None = None


class DropSelects(Body):
    """Selects to take away."""

    ids: Annotated[list[Id], Field(min_length=1, max_length=5000)]


Tags = Annotated[list[Annotated[str, Field(min_length=1, max_length=80)]], Field(max_length=50)]


class Say(Body):
    """Changes of the labels of clips and selects; what is left out stays."""

    media: Annotated[list[MediaId], Field(max_length=5000)] = []
    selects: Annotated[list[Id], Field(max_length=5000)] = []
    rating: Annotated[int, Field(ge=0, le=5)] | None = None
    add_tags: Tags = []
    remove_tags: Tags = []
    hue: Annotated[int, Field(ge=0, le=9)] | None = None
    note: Annotated[str, Field(max_length=2000)] | None = None
    speed: Annotated[float, Field(ge=SPEEDS[0], le=SPEEDS[1], allow_inf_nan=False)] | None = None
    moment_s: Annotated[float, Field(ge=0, le=86_400, allow_inf_nan=False)] | None = None


class ShotListText(Body):
    """A shot list as CSV."""

    text: Annotated[str, Field(max_length=1_000_000)]


class PlannedShot(Body):
    """A shot that is planned."""

    section: Name = ""
    what: Name
    camera: Name = ""
    note: Annotated[str, Field(max_length=500)] = ""


class ChangePlanned(Body):
    """Changes of a planned shot."""

    section: Name | None = None
    what: Name | None = None
    camera: Name | None = None
    note: Annotated[str, Field(max_length=500)] | None = None


class Tick(Body):
    """A tick on a planned shot: exactly one of a pass, a file and a select."""

    pass_id: Id | None = None
    media: MediaId | None = None
    select: Id | None = None
    on: bool = True

    @model_validator(mode="after")
    def one_of_them(self) -> "Tick":
        """Refuse none and several."""
        if sum(v is not None for v in (self.pass_id, self.media, self.select)) != 1:
            raise ValueError("name a pass, a file or a select, and only one of them")
        return self


class FrameIt(Body):
    """The framing at the end of a slow move; see ``core/footage/fit.py``."""

    x: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.5
    y: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.5
    scale: Annotated[float, Field(ge=SCALES[0], le=SCALES[1], allow_inf_nan=False)] = 1.0


class FitFile(Body):
    """Fit of a file's picture in the film; see ``core/footage/fit.py``."""

    how: Literal["bars", "fill", "own"] = "bars"
    x: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.5
    y: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.5
    scale: Annotated[float, Field(ge=SCALES[0], le=SCALES[1], allow_inf_nan=False)] = 1.0
    turn: Literal[0, 90, 180, 270] = 0
    to: FrameIt | None = None


class GradeFile(Body):
    """Controls of a grade by name; see ``core/colour/grade.py``. None of them is no grade."""

    values: dict[Name, Annotated[float, Field(allow_inf_nan=False)]] = {}


class EvenFile(Body):
    """Choice of evening a file's light along its length, or leaving it as it was filmed."""

    on: bool


class KeepCube(Body):
    """A ``.cube`` as text, and the name of its file."""

    kind: Literal["cube"] = "cube"
    name: Annotated[str, Field(min_length=1, max_length=200)]
    text: Annotated[str, Field(max_length=MOST_LETTERS)]


class KeepCurve(Body):
    """A logarithmic curve of an open standard; of a plain log its two constants: coded = slope * log2(light) + offset."""

    kind: Literal["curve"] = "curve"
    curve: Curve
    slope: Annotated[float, Field(ge=SLOPES[0], le=SLOPES[1], allow_inf_nan=False)] = PLAIN["slope"]
    offset: Annotated[float, Field(ge=OFFSETS[0], le=OFFSETS[1], allow_inf_nan=False)] = PLAIN["offset"]


#: A table to keep with a project.
KeepTable = Annotated[KeepCube | KeepCurve, Field(discriminator="kind")]


class TableOfFile(Body):
    """The table in which a file's colours are looked up, by its number; 0 for none."""

    number: Annotated[int, Field(ge=0, lt=2**48)]
    share: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 1.0


class ReplaceFile(Body):
    """The file that takes another's place; without ``accept`` only what differs is told."""

    path: FilePath
    accept: bool = False


# The operations are the core's own; here they only refuse unknown fields like every request.
for _kind in (*get_args(operations.Operation), *KINDS.values(), Length, On, Place, Card, CardLine):
    _kind.__pydantic_config__ = ConfigDict(extra="forbid")


class Operation(RootModel[Annotated[operations.Operation, Field(discriminator="op")]]):
    """One operation on the edit; ``op`` says which."""

    @model_validator(mode="before")
    @classmethod
    def only_text(cls, data: object) -> object:
        """Like every request."""
        _check_text(data)
        return data


class KeepRecipe(Body):
    """Treatments to keep under a name."""

    name: Name
    treatments: Annotated[list[Treatment], Field(min_length=1, max_length=24)]


class TitlesText(Body):
    """A file of timed text, and the style in which its words are laid: by name, or a card of one's own."""

    text: Annotated[str, Field(max_length=1_000_000)]
    name: Name = ""
    style: Name = "lyric low"
    card: Card | None = None


class KeepTitleStyle(Body):
    """A card to keep as a title style under a name."""

    name: Name
    card: Card


class SharedRecipeView(Body):
    """Treatments that are kept for all projects."""

    name: Name
    treatments: list[Treatment]


class RecipeText(Body):
    """A file of recipes."""

    text: Annotated[str, Field(max_length=1_000_000)]


class Settings(Body):
    """The grid that cuts fall on; ``lead`` is of one ``section`` where that is named; None takes it off.
    ``sensitivities`` are those of the kinds of hits that are named, ``limits`` those of the checks.
    """

    unit: Unit | None = None
    lead: Lead | None = None
    section: Id | None = None
    sensitivities: dict[HitKind, Share] | None = None
    limits: dict[LimitName, float] | None = None


class SendShot(Body):
    """An item of the edit to send out, or without one, frames (end exclusive)."""

    item: Id | None = None
    first: FilmFrame = 0
    end: FilmFrame = 0
    handles: Annotated[int, Field(ge=0, le=MOST_HANDLES)] = 12
    form: Literal["prores", "dnxhr", "png"] = "prores"


class BringBack(Body):
    """A file that came back, and whether it lies on a lane of its own."""

    path: FilePath
    own_lane: bool = False


class RenderRange(Body):
    """Frames to render (end exclusive); None for the whole song."""

    first: FilmFrame | None = None
    end: FilmFrame | None = None


class PaceOf(Body):
    """Pace of a section; see ``core/edit/planning.py``."""

    shortest: Annotated[int, Field(ge=1, le=MOST_BEATS)]
    longest: Annotated[int, Field(ge=1, le=MOST_BEATS)]
    broll: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.0
    leads: Annotated[list[Id], Field(max_length=100)] = []


class PlanSection(Body):
    """Plan a section by hand; without a pace, by the energy of its music."""

    pace: PaceOf | None = None


class PlannedView(BaseModel):
    """A section's plan: frames as cuts fall there, its energy (0 to 1), shots of so many beats, B-roll, leading angles."""

    section: int
    name: str
    first: int
    end: int
    energy: float
    shortest: int
    longest: int
    broll: float
    leads: list[int]
    by_hand: bool


class RuleView(BaseModel):
    """A rule, what it says, and what it is of: how long shots are, which angles, or which clips."""

    name: str
    words: str
    of: Literal["lengths", "angles", "clips"]


class NewVersion(Body):
    """A version to be made of another."""

    of: Id
    name: str
    note: str = ""


class ChangeVersion(Body):
    """Changes of a version; fields that are left out stay."""

    name: str | None = None
    note: str | None = None
    locked: bool | None = None


class CurrentVersion(Body):
    """The version that is worked on."""

    edit: Id


class TakeOver(Body):
    """A passage of another version: frames ``first`` to ``end`` (exclusive)."""

    other: Id
    first: FilmFrame
    end: FilmFrame


class WriteNote(Body):
    """A note on frames ``first`` to ``end`` (exclusive) of a version."""

    first: FilmFrame
    end: FilmFrame
    text: str
    who: str = ""


class PastedNotes(Body):
    """Notes as they were pasted, and who wrote those that name nobody."""

    text: Annotated[str, Field(max_length=400_000)]
    who: str = ""


class AnswerNote(Body):
    """State of a note, with a word why, or its text; fields that are left out stay."""

    state: State | None = None
    why: str | None = None
    text: str | None = None


class PlanView(BaseModel):
    """The plan of a song, and the rules by which it is carried out."""

    sections: list[PlannedView]
    rules: list[RuleView]
