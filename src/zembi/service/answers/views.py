"""Views: the answers that the page reads, as plain frozen data. Song times are seconds, edit positions frames."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from zembi.core.footage.fit import How
from zembi.core.picture.curves import Key
from zembi.core.programme.sound import SoundPiece
from zembi.core.song.cutdown import Shape
from zembi.core.song.hits import HitKind
from zembi.core.timemap import Piece
from zembi.core.titles.card import Card
from zembi.core.titles.shown import Shown
from zembi.core.treatments.model import Treatment
from zembi.service.broll.shotlist import Listed


@dataclass(frozen=True)
class Badges:
    """Progress of each step of the job, in a few words."""

    song: str
    lineup: str
    coverage: str
    sheet: str
    handoff: str


@dataclass(frozen=True)
class FilmView:
    """A rendered film: its job, and its file's name."""

    job: int
    name: str


@dataclass(frozen=True)
class ProjectCard:
    """A project in the list: how far each step is, and the last film rendered."""

    id: str
    name: str
    rate: str
    width: int
    height: int
    song: str
    takes: int
    clips: int
    poster: "MediaView | None"
    steps: Badges | None
    film: FilmView | None
    trouble: str  # why it cannot be opened, and what to do


@dataclass(frozen=True)
class TableOfFileView:
    """The table of colours of a file by its number, 0 for none, and how much of it."""

    number: int
    share: float


@dataclass(frozen=True)
class MediaView:
    """A file of the project. ``made_of`` names the content that stills, proxies and sound are made of, for their addresses."""

    id: str
    kind: str
    name: str
    file: str
    folder: str
    state: str
    error: str
    condition: Literal["ok", "offline", "changed", "unreadable"]
    trouble: str
    prepared: bool
    made_of: str
    seconds: float
    width: int
    height: int
    rate: str
    variable: bool
    rotation: int
    timecode: str
    has_sound: bool
    codec: str
    stills: int
    camera: str
    undecided: bool
    select_in_s: float
    select_out_s: float
    slowest: float
    created: str
    still: bool
    alpha: bool
    fate: list[str]
    fit: "FitView"
    placed: "PlacedView"
    grade: dict[str, float]
    evened: bool
    table: TableOfFileView
    said: "SaidView"


@dataclass(frozen=True)
class FramingView:
    """The framing at the end of a slow move; see ``core/footage/fit.py``."""

    x: float
    y: float
    scale: float


@dataclass(frozen=True)
class FitView:
    """Fit of a file's picture in the film; see ``core/footage/fit.py``."""

    how: How
    x: float
    y: float
    scale: float
    turn: int
    to: FramingView | None


@dataclass(frozen=True)
class PlacedView:
    """The placement in the frame that follows; see ``core/picture/steps/place.py``."""

    scale: float
    x: float
    y: float
    turn: float


@dataclass(frozen=True)
class SaidView:
    """Labels of a clip or select by the editor, and measurements of it (None before).

    ``light`` and ``motion`` are means, 0 to 1; ``sections`` are ids of those that it is tagged for; ``speed`` is that at which it is laid; ``moment_s`` a moment that was
    marked, in seconds of its file.
    """

    rating: int
    tags: list[str]
    hue: int
    note: str
    speed: float
    light: float | None
    motion: float | None
    moment_s: float | None
    sections: list[int]


@dataclass(frozen=True)
class SelectView:
    """A named range of a clip, in its seconds."""

    id: int
    media: str
    name: str
    in_s: float
    out_s: float
    said: SaidView


@dataclass(frozen=True)
class ReadingView:
    """A way to count the song, and what speaks for it."""

    tempo_bpm: float
    shift_beats: float
    score: float
    reason: str


@dataclass(frozen=True)
class SectionView:
    """A section; ``group`` is shared by repeats of the same music, ``lead`` its own where it has one.

    ``first_frame`` and ``end_frame`` are those of the cuts that begin and end it, with their lead.
    """

    id: int
    name: str
    start_s: float
    end_s: float
    first_bar: int
    bars: int
    phrase_bars: int
    group: int
    lead: int | None
    first_frame: int
    end_frame: int


@dataclass(frozen=True)
class PhraseView:
    """A row of the sheet."""

    section: int
    number: int
    start_s: float
    end_s: float
    first_bar: int
    bars: int
    first_frame: int
    end_frame: int
    lyric: str


@dataclass(frozen=True)
class MarkView:
    """A mark."""

    id: int
    set_id: int
    at_s: float
    name: str
    hue: int


@dataclass(frozen=True)
class MarkSetView:
    """A named set of marks."""

    id: int
    name: str
    shown: bool
    hue: int


@dataclass(frozen=True)
class WordView:
    """A word of the lyrics with its own time."""

    at_s: float
    word: str


@dataclass(frozen=True)
class LyricView:
    """A line of the lyrics; ``at_s`` and ``end_s`` mean nothing while it is not ``timed``."""

    id: int
    at_s: float
    end_s: float
    text: str
    timed: bool
    words: list[WordView]


@dataclass(frozen=True)
class DoubtfulView:
    """A passage whose beats may be wrong though the song around is sure: "free" or "unlike" the click."""

    start_s: float
    end_s: float
    reason: str


@dataclass(frozen=True)
class TappedView:
    """A passage whose beats were laid through taps."""

    start_s: float
    end_s: float
    bpm: float


@dataclass(frozen=True)
class TempoView:
    """A stretch of the song with one way of keeping time, as found."""

    start_s: float
    end_s: float
    bpm: float
    steady: bool


@dataclass(frozen=True)
class PassageView:
    """A passage of the song that is left out."""

    id: int
    start_s: float
    end_s: float


@dataclass(frozen=True)
class LevelView:
    """The song in the film: gain, fades, and what comes of the gain."""

    gain_db: float
    fade_in_s: float
    fade_out_s: float
    shape: str
    true_peak_db: float
    loudness_lufs: float


@dataclass(frozen=True)
class SurenessView:
    """Probabilities that the place of the beats, the level they are counted at, the beginning of the bars and the grid are
    right; the factor of the tempo at which it is counted next.
    """

    place: float
    level: float
    bar: float
    rival: float
    grid: float


@dataclass(frozen=True)
class SongView:
    """The song and its grid. ``bars`` are indexes into ``beats``; ``falls`` are the frames of cuts by what they fall on."""

    media: str
    seconds: float
    bpm: float
    steady: bool
    tempo: list[TempoView]
    metre: int
    division: int
    sure: SurenessView
    doubt: str
    doubtful: list[DoubtfulView]
    tapped: list[TappedView]
    readings: list[ReadingView]
    factor: float
    half_shift: bool
    straight: bool
    from_file: bool
    as_found: bool
    pins: list[float]
    beats: list[float]
    beat_frames: list[int]
    falls: dict[str, list[int]]
    bars: list[int]
    first_bar: int
    sections: list[SectionView]
    phrases: list[PhraseView]
    mark_sets: list[MarkSetView]
    marks: list[MarkView]
    lyrics: list[LyricView]
    joins: list[float]


@dataclass(frozen=True)
class HitView:
    """An onset, in song time."""

    song_s: float
    strength: float


@dataclass(frozen=True)
class SongDetail:
    """The heavier part of what listening found."""

    hits: dict[str, list[HitView]]
    lufs_hop_s: float
    lufs: list[float]
    short_term: list[float]
    energy: list[float]
    voice: list[float]
    stems: list[str]


@dataclass(frozen=True)
class StepView:
    """A step of a picture's chain, with keys of the parameters that are not at rest."""

    step: str
    curves: dict[str, tuple[Key, ...]]


@dataclass(frozen=True)
class SpanView:
    """A span of the programme. ``kind`` is picture, black, hole, colour or title; ``text`` a hole's reason, a colour's
    code or a title's words.

    ``chain`` lists the steps of its picture in the order in which they act. With ``blend`` what lies between two
    frames of the file is mixed of both. ``shown`` says what of a card is seen where that is not all of it as it is.
    """

    start: int
    end: int
    kind: str
    media: str | None
    text: str
    time: tuple[Piece, ...]
    blend: bool
    chain: list[StepView] | None
    card: Card | None
    shown: Shown | None


@dataclass(frozen=True)
class PlaceView:
    """A place at which a pass fits; ``section`` names it, ``reasons`` say what else speaks for it."""

    song_start_s: float
    score: float
    section: str
    reasons: list[str]


@dataclass(frozen=True)
class PassView:
    """A pass of a take. ``proposed`` says on what a place that is still to be confirmed rests.

    ``span`` are its frames on the whole song; None where it lies outside.
    """

    id: int
    media: str
    take_start_s: float
    take_end_s: float
    song_start_s: float
    song_end_s: float
    rate: float
    drift_ppm: float
    status: str
    confidence: float
    origin: str
    angle: int | None
    moved_ms: float
    residuals: list[list[float]]
    places: list[PlaceView]
    pitch_kept: bool
    proposed: str
    span: SpanView | None
    verdict: Literal["", "circled", "rejected"]
    note: str


@dataclass(frozen=True)
class MomentView:
    """A moment in a take's picture that was also heard: "flash", "clap" or "count"."""

    take_s: float
    kind: str
    strength: float


@dataclass(frozen=True)
class JointView:
    """A place in a take at which the song, as it was played on set, jumps: what was left out or comes twice.

    ``before`` is the pass that ends there, ``on_beat_s`` where the joint would lie on the beat; ``start_s`` and ``end_s`` are song time, whatever is left out of the film.
    """

    before: int
    take_s: float
    on_beat_s: float
    kind: Literal["left out", "twice"]
    start_s: float
    end_s: float
    words: str


@dataclass(frozen=True)
class CutOnSetView:
    """A part of the song that several takes leave out and the film does not."""

    takes: list[str]
    start_s: float
    end_s: float
    words: str


@dataclass(frozen=True)
class TakeView:
    """A take and where it lies. ``status`` is waiting, locked, choose, unmatched, silent or failed."""

    media: str
    status: str
    confidence: float
    passes: list[PassView]
    slate: str
    moments: list[MomentView]
    joints: list[JointView]


@dataclass(frozen=True)
class SoundView:
    """The programme's sound: pieces on its clock, and the level over all of them."""

    pieces: tuple[SoundPiece, ...]
    gain_db: float
    fade_in_s: float
    fade_out_s: float
    shape: Shape


@dataclass(frozen=True)
class ProgrammeView:
    """The film: pictures in layers from the bottom up, and sound."""

    layers: list[list[SpanView]]
    sound: SoundView


@dataclass(frozen=True)
class AngleView:
    """An angle with what it shows, where it has nothing (frames, half-open), and why its takes are together."""

    id: int
    number: int
    name: str
    hue: int
    because: str
    spans: list[SpanView]
    holes: list[list[int]]


@dataclass(frozen=True)
class FeedView:
    """A choice of pass for an angle in a song range."""

    id: int
    angle: int
    start_s: float
    end_s: float
    pass_id: int


@dataclass(frozen=True)
class JobView:
    """A long work; of an ``edit`` with how many operations had been done to it when it was asked for."""

    id: int
    kind: str
    title: str
    state: str
    progress: float
    message: str
    error: str
    result: dict[str, Any]
    edit: int | None
    operations: int | None


@dataclass(frozen=True)
class RecipeView:
    """Treatments under a name."""

    id: int
    name: str
    treatments: tuple[Treatment, ...]


@dataclass(frozen=True)
class TagsView:
    """Tags to send in If-Match with a change of the whole, so that it is refused where the whole is another by then."""

    settings: str
    lyrics: str


@dataclass(frozen=True)
class ProjectState:
    """Everything about a project but its edit."""

    id: str
    edit: int | None  # the current one
    name: str
    rate: str
    rate_label: str
    first_timecode: str
    rate_num: int
    rate_den: int
    width: int
    height: int
    length: int
    unit: str
    lead: int
    sensitivities: Mapping[HitKind, float]
    limits: Mapping[str, float]
    song: SongView | None
    whole: SongView | None
    left_out: list[PassageView]
    kept: list[list[float]]
    level: LevelView
    media: list[MediaView]
    selects: list[SelectView]
    shot_list: list[Listed]
    recipes: list[RecipeView]
    takes: list[TakeView]
    cuts_on_set: list[CutOnSetView]
    angles: list[AngleView]
    keys: list[list[int | None]]  # for each section in order, the angle behind each of the keys 1 to 9
    feeds: list[FeedView]
    holes: list[list[int]]
    badges: Badges
    tags: TagsView
    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class SourceView:
    """Source of an item: an angle (by id; ``slip`` frames late on purpose), a clip, black, nothing yet (empty, with what
    was planned in ``words``), or what lies beneath.
    """

    kind: str
    angle: int | None
    media: str | None
    in_s: float
    speed: float
    slip: int
    words: str
    card: Card | None
    line: int | None


@dataclass(frozen=True)
class TreatmentsView:
    """Treatments in their order, with what each does in words, and what is wrong with it where that cannot be done.

    ``pieces`` are the shot's own time that is seen in its frames; None where nothing changes it.
    """

    treatments: tuple[Treatment, ...]
    said: list[str]
    wrong: list[str]
    pieces: tuple[Piece, ...] | None
    whole: list[int]


@dataclass(frozen=True)
class ItemView:
    """An item of a lane, frames ``start`` to ``end`` (exclusive), with the relation of its first frame to the grid."""

    id: int
    start: int
    end: int
    source: SourceView
    held: bool
    bar: int
    beat: float
    off_frames: int
    label: str
    treated: TreatmentsView | None


@dataclass(frozen=True)
class LaneView:
    """A lane of an edit: its kind ("base", "over", "ranges"), whether it is seen, and whether it is locked."""

    id: int
    kind: str
    name: str
    on: bool
    locked: bool
    items: list[ItemView]


@dataclass(frozen=True)
class FindingView:
    """A check's finding: ``items`` it is about, where it can be accepted, and the word with which it was."""

    kind: str
    start: int
    end: int
    text: str
    items: list[int]
    accepted: str | None


@dataclass(frozen=True)
class KeptView:
    """Parts of a view that stand in an earlier one and are left out: items at the head and at the tail of each list.

    Those of ``lanes`` are in the order of the view's lanes; the earlier lane is the one of the same id.
    """

    version: int
    lanes: list[list[int]]
    findings: list[int]
    layers: list[list[int]]


@dataclass(frozen=True)
class EditBadges:
    """Badges of an edit on the tabs: how much is cut, and how many checks found something."""

    sheet: str
    handoff: str


@dataclass(frozen=True)
class EditView:
    """An edit, its lanes from the bottom up, and what they put on screen.

    ``length`` is of the song, whose first frame is 0; ``lead`` and ``tail`` frames of film come before and after it.

    Where ``kept`` is given, the lists hold only what changed since the version that it names.
    """

    id: int
    name: str
    length: int
    lead: int
    tail: int
    lanes: list[LaneView]
    programme: ProgrammeView
    findings: list[FindingView]
    undo: str | None
    redo: str | None
    note: str
    badges: EditBadges
    version: int
    kept: KeptView | None
