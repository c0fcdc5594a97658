"""Facts of files, and the editor's labels of clips and selects; both are kept as JSON."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from fractions import Fraction
from typing import Any

from zembi.core.errors import BadInput
from zembi.core.footage.fit import WHOLE, Fit, Framing
from zembi.core.timebase import timecode_to_frame


@dataclass(frozen=True)
class Facts:
    """Facts that probing found of a file, and its stamp: size and time of change when it was probed.

    Attributes:
        duration_s: Seconds of picture (of sound for a song); 0 while it is not known.
        width, height: Picture size as shown, after rotation and pixel aspect.
        rotation: Degrees counter-clockwise that the stored picture must be turned to be upright.
        rate: Average frame rate; None without picture.
        variable: Whether frames are spaced unevenly.
        frames: Number of picture frames.
        timecode: First frame's timecode as the file gives it, "" if none.
        sound_offset_s: Seconds from the first picture frame to the first sound sample (positive: sound later).
        created: When the camera says recording began, ISO 8601, "" if it does not.
        camera: Maker, model, serial number, lens or reel as the file gives them, "" if it does not.
        still: Whether it is one picture, shown for as long as is asked.
        alpha: Whether parts of its picture are transparent.
        size: Bytes; -1 while it is not known.
        mtime_ns: Time of change; -1 while it is not known.
    """

    duration_s: float = 0.0
    has_video: bool = False
    has_sound: bool = False
    width: int = 0
    height: int = 0
    rotation: int = 0
    rate: Fraction | None = None
    variable: bool = False
    frames: int = 0
    video_codec: str = ""
    pixel_format: str = ""
    sample_rate: int = 0
    channels: int = 0
    sound_codec: str = ""
    timecode: str = ""
    sound_offset_s: float = 0.0
    created: str = ""
    camera: str = ""
    still: bool = False
    alpha: bool = False
    size: int = -1
    mtime_ns: int = -1

    @property
    def first_frame(self) -> int:
        """Number of the first frame on the file's own timecode; 0 without one or where it is unreadable."""
        if not self.timecode or self.rate is None:
            return 0
        try:
            return timecode_to_frame(self.timecode, self.rate)
        except BadInput:
            return 0


@dataclass(frozen=True)
class Said:
    """Labels of a clip or select.

    Attributes:
        rating: Stars, 0 where there are none.
        hue: Number of its colour, 0 for none.
        speed: At which it is laid.
        moment_s: The moment that belongs on a beat, in seconds of the file; None where none is marked.
    """

    rating: int = 0
    tags: tuple[str, ...] = ()
    hue: int = 0
    note: str = ""
    speed: float = 1.0
    moment_s: float | None = None


@dataclass(frozen=True)
class SaidOfFile(Said):
    """Labels of a file.

    Attributes:
        in_s, out_s: In and out of a clip; None where none was set.
        fit: How it lies in the film.
        grade: Its colours wherever it is shown: controls that are not at rest, with their values.
        evened: Corrections of its light along its length; see ``core/colour/evening.py``.
        table, table_share: Number of the table of colours before that, 0 for none, and how much of it.
        role: What a stem holds, "" where it is none.
        camera: What the editor calls its camera.
        slate: What its slate says.
        undecided: Whether its kind was left to be told by its sound, and nobody has said yes to what came of it.
    """

    in_s: float | None = None
    out_s: float | None = None
    fit: Fit = WHOLE
    grade: tuple[tuple[str, float], ...] = ()
    evened: tuple[tuple[float, ...], ...] = ()
    table: int = 0
    table_share: float = 1.0
    role: str = ""
    camera: str = ""
    slate: str = ""
    undecided: bool = False


def _known(kind: type, data: Mapping[str, Any]) -> dict[str, Any]:
    names = {f.name for f in fields(kind)}
    return {k: v for k, v in data.items() if k in names}


def facts_from_dict(data: Mapping[str, Any]) -> Facts:
    """The inverse of :func:`facts_to_dict`; what it does not know is left out."""
    known = _known(Facts, data)
    if "rate" in known:
        known["rate"] = Fraction(known["rate"]) if known["rate"] else None
    return Facts(**known)


def facts_to_dict(facts: Facts) -> dict[str, Any]:
    """Facts as JSON, the rate as a fraction ("24000/1001")."""
    return {**vars(facts), "rate": str(facts.rate) if facts.rate else ""}


def said_from_dict(data: Mapping[str, Any]) -> Said:
    """The inverse of :func:`said_to_dict` for a select."""
    return Said(**_known(Said, data) | {"tags": tuple(data.get("tags", ()))})


def said_of_file_from_dict(data: Mapping[str, Any]) -> SaidOfFile:
    """The inverse of :func:`said_to_dict` for a file."""
    fit = dict(data.get("fit", {}))
    to = fit.pop("to", None)
    lies = Fit(**fit, to=Framing(**to) if to else None)
    return SaidOfFile(
        **_known(SaidOfFile, data)
        | {
            "tags": tuple(data.get("tags", ())),
            "fit": lies,
            "grade": tuple(data.get("grade", {}).items()),
            "evened": tuple(tuple(row) for row in data.get("evened", ())),
        }
    )


def said_to_dict(said: Said) -> dict[str, Any]:
    """Labels as JSON, without those at their defaults."""
    rest = {f.name: f.default for f in fields(said)}
    out = {k: v for k, v in vars(said).items() if v != rest[k]}
    if "tags" in out:
        out["tags"] = list(said.tags)
    if "grade" in out:
        out["grade"] = dict(out["grade"])
    return {k: asdict(v) if isinstance(v, Fit) else v for k, v in out.items()}
