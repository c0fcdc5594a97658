"""Notes on a version as people write them: a list pasted from a message, CSV and WebVTT.

A note begins with the time it is about, in any common way: ``1:12``, ``0:48-0:52``, ``1m12``, ``72 s``, ``00:01:12:10``, ``bar 33``,
``bars 33-36``, ``33.2``, or the name of a section with its number. A name before it says who wrote it. A line without a time goes on
with the note before it; the first ones without are about the whole film.
"""

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal, get_args

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most, cell, from_cell, plain_lines
from zembi.core.interchange.lists import Cue, read_vtt, write_vtt
from zembi.core.song.grid import Grid
from zembi.core.timebase import timecode_to_frame

State = Literal["open", "done", "will not do"]
STATES: tuple[State, ...] = get_args(State)
#: Longest note, name of who wrote it, and word why; most notes that are read at once.
LONGEST_NOTE, LONGEST_WHO, LONGEST_WHY = 2000, 60, 200
_MOST = 2000


@dataclass(frozen=True)
class Film:
    """The film that notes are about, for their times.

    Attributes:
        first_s: Time of the song at which the film begins: 0, or below where it has a lead-in.
        end_s: Time of the song at which it ends.
        grid: Of the song as the film has it; None while it is not known.
        sections: Name, start and end of each section, in order.
        rate: Frames a second, for times that count frames.
        first_frame: Number of the film's first timecode.
    """

    first_s: float
    end_s: float
    grid: Grid | None
    sections: Sequence[tuple[str, float, float]]
    rate: Fraction
    first_frame: int = 0


@dataclass(frozen=True)
class ReadNote:
    """A note as it was understood; times are of the song as the film has it.

    Attributes:
        start_s, end_s: What it is about; the same where that is a moment.
        time: The words that were taken for its time; "" where there were none.
    """

    start_s: float
    end_s: float
    text: str
    who: str = ""
    time: str = ""
    state: State = "open"
    why: str = ""


#: A clock's time with minutes, and hours where there are three parts; 1:12, 1:12.5, 1:02:03.
_CLOCK = r"\d{1,3}:\d{2}(?::\d{2})?(?:[.,]\d{1,3})?"
_TIMECODE = r"\d{2}:\d{2}:\d{2}[:;]\d{2}"
_UNITS = r"\d{1,3}\s?m(?:in)?\s?\d{1,2}\s?(?:s(?:ec)?)?|\d{1,5}(?:[.,]\d{1,3})?\s?s(?:ec(?:onds?)?)?\b"
_TIME = rf"(?:{_TIMECODE}|{_CLOCK}|{_UNITS})"
_TO = r"\s*(?:-|–|—|to|until|till)\s*"
_AT = r"(?:at|from|around|about|ca\.?|@|~)?\s*"
_BY_CLOCK = re.compile(rf"{_AT}({_TIME})(?:{_TO}({_TIME}))?", re.IGNORECASE)
_PLACE = r"\d{1,4}(?:\.\d{1,2})?"
_BY_BAR = re.compile(
    rf"{_AT}(?:bars?|measures?|takte?)\s*({_PLACE})(?:{_TO}(?:bars?\s*)?({_PLACE}))?", re.IGNORECASE
)
_BY_PLACE = re.compile(
    rf"{_AT}(\d{{1,4}}\.\d{{1,2}})(?:{_TO}(\d{{1,4}}\.\d{{1,2}}))?(?=\s|:|,|-|–|$)", re.IGNORECASE
)
#: What stands between a time and its note.
_BETWEEN = " \t:;,.-–—)]|>"
_BULLET = re.compile(r"\s*(?:[-*•·]|\d{1,3}[.)])\s+")
_WHO = re.compile(rf"\s*([^\W\d][^:;,]{{0,{LONGEST_WHO - 1}}}?)\s*:\s+", re.UNICODE)


def read_notes(text: str, film: Film, name: str = "") -> list[ReadNote]:
    """Notes from a pasted list, or from CSV or WebVTT as they are written here.

    Raises:
        BadInput: there is nothing to read, or too much.
    """
    lines = plain_lines(text)
    if lines and lines[0].startswith("WEBVTT"):
        return [_of_cue(c) for c in read_vtt(text, name)]
    if lines and "start_s" in [c.strip() for c in lines[0].split(",")]:
        return _from_csv(lines, name or "The table")
    out: list[ReadNote] = []
    for line in lines:
        if not line.strip():
            continue
        found = _read_line(line, film)
        if not found.time and out and out[-1].time:
            # It goes on with the note before it.
            out[-1] = replace(out[-1], text=f"{out[-1].text}\n{line.strip()}".strip()[:LONGEST_NOTE])
        else:
            out.append(found)
        if len(out) > _MOST:
            raise BadInput(f"These are more than {_MOST} notes: bring them in parts.")
    if not out:
        raise BadInput("There is no note in it: write each on a line of its own, with its time before it.")
    return out


def _read_line(line: str, film: Film) -> ReadNote:
    """One line, with or without a bullet and the name of who wrote it."""
    bullet = _BULLET.match(line)
    for begin in dict.fromkeys((0, bullet.end() if bullet else 0)):
        rest = line[begin:].lstrip(" \t([<|")
        found = _timed(rest, film)
        who = _WHO.match(rest) if found is None else None
        if who is not None:
            found = _timed(rest[who.end() :].lstrip(" \t([<|"), film)
            found = found and replace(found, who=who[1].strip())
        if found is not None:
            return found
    return ReadNote(film.first_s, film.end_s, line[bullet.end() if bullet else 0 :].strip()[:LONGEST_NOTE])


def _timed(text: str, film: Film) -> ReadNote | None:
    """A note that begins with a time; None where none stands there, or none that the film has."""
    for read in (_by_section, _by_bar, _by_clock):
        found = read(text, film)
        if found is None:
            continue
        start, end, until = found
        if not film.first_s - 1e-6 <= start < film.end_s:
            continue
        end = min(max(start, end), film.end_s)
        words = text[until:].lstrip(_BETWEEN).strip()
        return ReadNote(start, end, words[:LONGEST_NOTE], time=text[:until].strip())
    return None


def _by_section(text: str, film: Film) -> tuple[float, float, int] | None:
    plain = text.casefold()
    # The longest name first: "Chorus 10" before "Chorus 1".
    for name, start, end in sorted(film.sections, key=lambda s: -len(s[0])):
        called = name.casefold()
        if called and plain.startswith(called) and not plain[len(called) : len(called) + 1].isalnum():
            return start, end, len(called)
    return None


def _by_bar(text: str, film: Film) -> tuple[float, float, int] | None:
    match = _BY_BAR.match(text) or _BY_PLACE.match(text)
    if match is None or film.grid is None:
        return None
    try:
        start, _ = _of_place(match[1], film.grid)
        _, end = _of_place(match[2] or match[1], film.grid)
    except BadInput:
        return None
    # One beat is a moment; a bar, or bars, are as long as they are.
    moment = "." in match[1] and not match[2]
    return start, start if moment else end, match.end()


def _of_place(place: str, grid: Grid) -> tuple[float, float]:
    """Start and end of a bar, or of a beat where one is named; song time.

    Raises:
        BadInput: the song has no such place.
    """
    bar, _, beat = place.partition(".")
    start = grid.time_of(int(bar), float(beat or 1))
    if beat:
        return start, grid.time_of(int(bar), float(beat) + 1)
    return start, grid.bar_of(start)[1]


def _by_clock(text: str, film: Film) -> tuple[float, float, int] | None:
    match = _BY_CLOCK.match(text)
    if match is None or text[match.end() : match.end() + 1].isdigit():
        return None
    try:
        start = _of_clock(match[1], film)
        end = _of_clock(match[2], film) if match[2] else start
    except BadInput:
        return None
    return start, end, match.end()


def _of_clock(time: str, film: Film) -> float:
    """Time of the song of a time of the film.

    Raises:
        BadInput: frames that the rate does not have.
    """
    if re.fullmatch(_TIMECODE, time):
        frames = timecode_to_frame(time, film.rate) - film.first_frame
        return film.first_s + frames / float(film.rate)
    plain = time.replace(",", ".")
    numbers = [float(n) for n in re.findall(r"\d+(?:\.\d+)?", plain)]
    if ":" in plain:
        # Minutes and seconds, with hours before them where there are three.
        seconds = 0.0
        for n in numbers:
            seconds = 60 * seconds + n
    elif "m" in plain.lower():
        seconds = 60 * numbers[0] + (numbers[1] if len(numbers) > 1 else 0.0)
    else:
        seconds = numbers[0]
    return film.first_s + seconds


def _of_cue(cue: Cue) -> ReadNote:
    """A note of a cue, whose words may begin with who wrote them."""
    who, mark, text = cue.text.partition(": ")
    if not mark or len(who) > LONGEST_WHO:
        who, text = "", cue.text
    # A moment is written as a cue of a thousandth.
    end = cue.start_s if cue.end_s - cue.start_s < 0.002 else cue.end_s
    return ReadNote(cue.start_s, end, text[:LONGEST_NOTE], who.strip(), "as timed text")


_COLUMNS = ("start_s", "end_s", "who", "note", "state", "why")


def _from_csv(lines: Sequence[str], name: str) -> list[ReadNote]:
    rows = csv.DictReader(lines)
    out = []
    try:
        for row in rows:
            where = f"{name}, line {rows.line_num}"
            said = {k: from_cell((row.get(k) or "").strip()) for k in _COLUMNS}
            try:
                start = float(said["start_s"])
                end = float(said["end_s"] or start)
            except ValueError:
                raise BadInput(f"{where}: “{said['start_s'][:40]}” is not a time in seconds.") from None
            if not (-36_000 < start < 36_000 and start <= end < 36_000):
                raise BadInput(f"{where}: its times are not in a film.")
            state: State = next((s for s in STATES if s == said["state"]), "open")
            out.append(
                ReadNote(
                    start, end, said["note"][:LONGEST_NOTE], said["who"][:LONGEST_WHO], "as a table", state,
                    said["why"][:LONGEST_WHY],
                )
            )  # fmt: skip
    except csv.Error as fault:
        raise BadInput(f"{name}, line {rows.line_num}, is not a row of a table ({fault}).") from None
    at_most(len(out), name)
    return out


def write_notes_csv(notes: Sequence[ReadNote]) -> str:
    """A table of notes, which :func:`read_notes` reads back."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(_COLUMNS)
    table.writerows(
        [f"{n.start_s:.6f}", f"{n.end_s:.6f}", cell(n.who), cell(n.text), n.state, cell(n.why)] for n in notes
    )
    return out.getvalue()


def write_notes_vtt(notes: Sequence[ReadNote]) -> str:
    """Notes as WebVTT: who wrote each, and its words; its state is not held."""
    return write_vtt(
        [
            Cue(max(0.0, n.start_s), max(0.0, n.end_s), f"{n.who}: {n.text}" if n.who else n.text)
            for n in notes
        ]
    )
