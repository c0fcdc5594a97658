"""Lyrics as plain text, LRC (with word times too), SubRip and WebVTT, both ways."""

import re
from dataclasses import dataclass

from zembi.core.errors import BadInput
from zembi.core.interchange.lists import Cue, read_vtt, write_vtt

_LRC_TIME = r"(\d+):(\d{1,2})(?:[.:](\d{1,3}))?"
_SRT_TIME = r"(\d+):(\d{2}):(\d{2})[,.](\d{3})"
#: A line that nothing follows shows this long in formats that want an end.
_LAST_S = 4.0


@dataclass(frozen=True)
class LyricLine:
    """A line of the lyrics.

    Attributes:
        text: Its words.
        at_s: Song time at which it is sung; None while it is not timed.
        words: (song time, word) of each word where they are known.
    """

    text: str
    at_s: float | None = None
    words: tuple[tuple[float, str], ...] = ()


def _seconds(minutes: str, seconds: str, part: str | None) -> float:
    return int(minutes) * 60 + int(seconds) + (int(part) / 10 ** len(part) if part else 0.0)


def read_text(text: str) -> list[LyricLine]:
    """Pasted lyrics: a line each; empty lines and headings in square brackets are left out."""
    lines = (line.strip() for line in text.splitlines())
    return [LyricLine(line) for line in lines if line and not re.fullmatch(r"\[[^\]]*\]", line)]


def read_lrc(text: str) -> list[LyricLine]:
    """LRC: times in front of lines (several for repeats), ``offset`` obeyed, words in ``<mm:ss.xx>`` kept."""
    offset = 0.0
    out: list[LyricLine] = []
    for raw in text.splitlines():
        line = raw.strip().lstrip("\ufeff")
        tag = re.fullmatch(r"\[([A-Za-z#]\w*):(.*)\]", line)
        if tag:
            if tag[1].lower() == "offset" and re.fullmatch(r"\s*[+-]?\d+\s*", tag[2]):
                # A positive offset brings the words forward.
                offset = int(tag[2]) / 1000
            continue
        times = []
        while stamp := re.match(rf"\[{_LRC_TIME}\]\s*", line):
            times.append(_seconds(*stamp.groups()))
            line = line[stamp.end() :]
        if not times:
            if line:
                out.append(LyricLine(re.sub(rf"<{_LRC_TIME}>", "", line).strip()))
            continue
        words = tuple(
            (max(0.0, _seconds(*m.groups()[:3]) - offset), m[4].strip())
            for m in re.finditer(rf"<{_LRC_TIME}>([^<]*)", line)
            if m[4].strip()
        )
        plain = re.sub(r"\s+", " ", re.sub(rf"<{_LRC_TIME}>", "", line)).strip()
        for at in times:
            moved = tuple((w + at - times[0], word) for w, word in words)
            if plain:
                out.append(LyricLine(plain, max(0.0, at - offset), moved))
    timed = sorted((line for line in out if line.at_s is not None), key=lambda line: line.at_s or 0.0)
    return [*timed, *(line for line in out if line.at_s is None)]


def read_srt(text: str) -> list[LyricLine]:
    """SubRip: each subtitle a line at its start; its end is not kept."""
    found = re.finditer(
        rf"{_SRT_TIME}\s*-->\s*{_SRT_TIME}[^\n]*\n(.*?)(?=\n\s*\n|\Z)", text.replace("\r\n", "\n"), re.DOTALL
    )
    out = []
    for m in found:
        words = " ".join(re.sub(r"<[^>]+>", "", m[9]).split())
        if words:
            out.append(LyricLine(words, int(m[1]) * 3600 + int(m[2]) * 60 + int(m[3]) + int(m[4]) / 1000))
    return out


def read_lyrics(text: str, name: str = "") -> list[LyricLine]:
    """Lyrics in whichever of the formats they are.

    Args:
        text: The file's text, or what was pasted.
        name: The file's name, for messages.

    Raises:
        BadInput: there is no line in it.
    """
    plain = text.lstrip("\ufeff")
    if plain.startswith("WEBVTT"):
        lines = [LyricLine(c.text, c.start_s) for c in read_vtt(plain, name) if c.text]
    elif re.search(_SRT_TIME + r"\s*-->", plain):
        lines = read_srt(plain)
    elif re.search(rf"^\s*\[{_LRC_TIME}\]", plain, re.MULTILINE):
        lines = read_lrc(plain)
    else:
        lines = read_text(plain)
    if not lines:
        raise BadInput(f"{name or 'The text'} holds no line of lyrics.")
    return lines


def _stamp(seconds: float, digits: int = 2) -> str:
    whole = round(max(0.0, seconds) * 10**digits)
    minutes, rest = divmod(whole, 60 * 10**digits)
    return f"{minutes:02d}:{rest // 10**digits:02d}.{rest % 10**digits:0{digits}d}"


def write_lrc(lines: list[LyricLine]) -> str:
    """LRC to the millisecond; words with times in the enhanced form, lines without a time as plain text."""
    out = []
    for line in lines:
        words = " ".join(f"<{_stamp(at, 3)}> {word}" for at, word in line.words)
        body = words or line.text
        out.append(body if line.at_s is None else f"[{_stamp(line.at_s, 3)}]{body}")
    return "\n".join(out) + "\n"


def cues_of(lines: list[LyricLine], end_s: float) -> list[Cue]:
    """Timed lines as cues, each until the next, the last for four seconds or until the song ends."""
    timed = [line for line in lines if line.at_s is not None]
    out = []
    for i, line in enumerate(timed):
        start = line.at_s or 0.0
        after = timed[i + 1].at_s if i + 1 < len(timed) else None
        out.append(Cue(start, min(start + _LAST_S, max(end_s, start)) if after is None else after, line.text))
    return out


def write_srt(lines: list[LyricLine], end_s: float) -> str:
    """SubRip of the timed lines."""

    def clock(seconds: float) -> str:
        ms = round(seconds * 1000)
        return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d},{ms % 1000:03d}"

    return "\n".join(
        f"{n}\n{clock(c.start_s)} --> {clock(c.end_s)}\n{c.text}\n"
        for n, c in enumerate(cues_of(lines, end_s), 1)
    )


def write_lyrics_vtt(lines: list[LyricLine], end_s: float) -> str:
    """WebVTT of the timed lines."""
    return write_vtt(cues_of(lines, end_s))
