"""Cut lists, marks and sections as CSV and WebVTT."""

import csv
import io
import re
from dataclasses import dataclass
from fractions import Fraction

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most, cell, from_cell, plain_lines, within, without_tags
from zembi.core.programme.model import Black, Span
from zembi.core.song.grid import Grid, relation
from zembi.core.timebase import frame_to_timecode


@dataclass(frozen=True)
class Cue:
    """A named stretch of the song in seconds; ``kind`` is "section", "mark" or "" where it is not told."""

    start_s: float
    end_s: float
    text: str
    kind: str = ""


def write_csv(spans: list[Span], names: dict[str, str], grid: Grid, rate: Fraction) -> str:
    """Table of what is on screen: one row a stretch; the speed is that at its start."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(
        ["start", "end", "frames", "bar", "beat", "against the grid", "file", "in seconds", "speed"]
    )
    for s in spans:
        r = relation(grid, s.start, rate)
        what = names.get(s.media or "", "") or ("black" if isinstance(s.content, Black) else "")
        speed = f"{s.time.pieces[0].speed:.6f}" if s.time.pieces else ""
        table.writerow([
            frame_to_timecode(s.start, rate), frame_to_timecode(s.end, rate), s.frames, r.bar, f"{r.beat:g}", cell(r.label),
            cell(what), f"{s.time.start_s:.6f}" if s.media else "", speed,
        ])  # fmt: skip
    return out.getvalue()


def _clock(seconds: float) -> str:
    thousandths = round(max(0.0, seconds) * 1000)
    return f"{thousandths // 3_600_000:02d}:{thousandths // 60_000 % 60:02d}:{thousandths // 1000 % 60:02d}.{thousandths % 1000:03d}"


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace("\n", " ")


def write_vtt(cues: list[Cue]) -> str:
    """WebVTT cues."""
    blocks = [
        (f"{c.kind}\n" if c.kind else "")
        + f"{_clock(c.start_s)} --> {_clock(max(c.end_s, c.start_s + 0.001))}\n{_escaped(c.text)}"
        for c in cues
    ]
    return "WEBVTT\n\n" + "\n\n".join(blocks) + "\n"


_VTT_TIME = r"(?:(\d{1,3}):)?(\d{2}):(\d{2})\.(\d{3})"
_VTT_TIMES = re.compile(rf"[ \t]{{0,16}}{_VTT_TIME}[ \t]{{0,16}}-->[ \t]{{0,16}}{_VTT_TIME}")


def read_vtt(text: str, name: str = "") -> list[Cue]:
    """WebVTT cues; a cue's identifier "section" or "mark" is its kind. Styles, notes and positions are left out.

    Raises:
        BadInput: not WebVTT, or too many cues.
    """
    lines = plain_lines(text)
    if not lines[0].startswith("WEBVTT"):
        raise BadInput(f"{name or 'The text'} is not WebVTT: it has to begin with WEBVTT.")
    out = []
    block: list[str] = []
    for line in [*lines, ""]:
        if line.strip():
            block.append(line)
            continue
        cue = _vtt_cue(block)
        block = []
        if cue is not None:
            out.append(cue)
    at_most(len(out), name or "The text")
    return out


def _vtt_cue(block: list[str]) -> Cue | None:
    at = next((i for i, line in enumerate(block) if "-->" in line), None)
    times = _VTT_TIMES.match(block[at]) if at is not None else None
    if at is None or times is None:
        return None
    g = [int(v or 0) for v in times.groups()]
    start, end = ((((h * 60 + m) * 60 + s) * 1000 + ms) / 1000 for h, m, s, ms in (g[:4], g[4:]))
    words = " ".join(without_tags(" ".join(block[at + 1 :])).split())
    for coded, sign in (("&lt;", "<"), ("&gt;", ">"), ("&nbsp;", " "), ("&amp;", "&")):
        words = words.replace(coded, sign)
    kind = block[at - 1].strip() if at else ""
    return Cue(start, end, words, kind if kind in ("section", "mark") else "")


def write_cues_csv(cues: list[Cue]) -> str:
    """Sections and marks as a table: kind, start and end in seconds, name."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["kind", "start_s", "end_s", "name"])
    table.writerows([c.kind, f"{c.start_s:.6f}", f"{c.end_s:.6f}", cell(c.text)] for c in cues)
    return out.getvalue()


def read_cues_csv(text: str, name: str = "") -> list[Cue]:
    """The inverse of :func:`write_cues_csv`; only ``start_s`` has to be there, in any order of columns.

    Raises:
        BadInput: no such column, or a time that is not a number, with its line.
    """
    what = name or "The table"
    rows = csv.DictReader(plain_lines(text))
    out = []
    try:
        if "start_s" not in (rows.fieldnames or []):
            raise BadInput(f"{what} needs a column “start_s” with times in seconds.")
        for row in rows:
            out.append(_cue_of(row, f"{what}, line {rows.line_num}"))
    except csv.Error as fault:
        raise BadInput(f"{what}, line {rows.line_num}, is not a row of a table ({fault}).") from None
    at_most(len(out), what)
    return out


def _cue_of(row: dict[str, str | None], where: str) -> Cue:
    said = row.get("start_s") or ""
    try:
        start = within(float(said), f"{where}: the time")
        end = within(float(row.get("end_s") or start), f"{where}: the end")
    except ValueError:
        raise BadInput(f"{where}: “{said[:40]}” is not a time.") from None
    return Cue(start, end, from_cell((row.get("name") or "").strip()), (row.get("kind") or "").strip())
