"""Lyrics as plain text, LRC (with word times too), SubRip and WebVTT, both ways."""

import re

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most, plain_lines, within, without_tags
from zembi.core.interchange.lists import Cue, read_vtt
from zembi.core.song.lyrics import LyricLine, line_ends

# Every expression is bounded, so that reading takes time in proportion to the length.
_LRC_TIME = r"(\d{1,4}):(\d{1,2})(?:[.:](\d{1,3}))?"
_STAMP = re.compile(rf"\[{_LRC_TIME}\][ \t]{{0,16}}")
_WORD = re.compile(rf"<{_LRC_TIME}>([^<]*)")
_WORD_TIME = re.compile(rf"<{_LRC_TIME}>")
_SRT_TIME = r"(\d{1,3}):(\d{2}):(\d{2})[,.](\d{3})"
_SRT_TIMES = re.compile(rf"{_SRT_TIME}[ \t]{{0,16}}-->[ \t]{{0,16}}{_SRT_TIME}")
#: Words with times that repeats of a line may make together.
_MOST_WORDS = 50_000
_FARTHEST_OFFSET_S = 3600.0


def _seconds(minutes: str, seconds: str, part: str | None) -> float:
    return int(minutes) * 60 + int(seconds) + (int(part) / 10 ** len(part) if part else 0.0)


def read_text(text: str) -> list[LyricLine]:
    """Pasted lyrics: a line each; empty lines and headings in square brackets are left out."""
    lines = (line.strip() for line in plain_lines(text))
    return [LyricLine(line) for line in lines if line and not re.fullmatch(r"\[[^\]]*\]", line)]


def read_lrc(text: str) -> list[LyricLine]:
    """LRC: times in front of lines (several for repeats), ``offset`` obeyed, words in ``<mm:ss.xx>`` kept.

    Raises:
        BadInput: an offset of more than an hour, or too many lines.
    """
    offset = 0.0
    out: list[LyricLine] = []
    words_kept = 0
    for raw in plain_lines(text):
        line = raw.strip()
        tag = re.fullmatch(r"\[([A-Za-z#]\w{0,40}):([^\]]*)\]", line)
        if tag:
            if tag[1].lower() == "offset":
                offset = _offset(tag[2].strip(), offset)
            continue
        times, at = [], 0
        while stamp := _STAMP.match(line, at):
            times.append(_seconds(*stamp.groups()))
            at = stamp.end()
        line = line[at:]
        plain = " ".join(_WORD_TIME.sub("", line).split())
        if not plain:
            continue
        if not times:
            out.append(LyricLine(plain))
            continue
        words = [(_seconds(*m.groups()[:3]), m[4].strip()) for m in _WORD.finditer(line) if m[4].strip()]
        words_kept += len(words) * len(times)
        for start in times if words_kept <= _MOST_WORDS else []:
            moved = tuple((max(0.0, w - offset + start - times[0]), word) for w, word in words)
            out.append(LyricLine(plain, max(0.0, start - offset), moved))
        if words_kept > _MOST_WORDS:
            raise BadInput(f"The text times more than {_MOST_WORDS:,} words.")
        at_most(len(out), "The text")
    timed = sorted((line for line in out if line.at_s is not None), key=lambda line: line.at_s or 0.0)
    return [*timed, *(line for line in out if line.at_s is None)]


def _offset(said: str, before: float) -> float:
    """A positive offset brings the words forward; what is no number is left out."""
    if not re.fullmatch(r"[+-]?\d{1,18}", said):
        if re.fullmatch(r"[+-]?\d+", said):
            raise BadInput("The text has an offset of more than an hour.")
        return before
    return within(int(said) / 1000, "The offset in seconds", -_FARTHEST_OFFSET_S, _FARTHEST_OFFSET_S)


def read_srt(text: str) -> list[LyricLine]:
    """SubRip: each subtitle a line at its start; its end is not kept."""
    return [LyricLine(" ".join(c.text.split()), c.start_s) for c in srt_cues(text)]


def srt_cues(text: str) -> list[Cue]:
    """SubRip with its ends, line by line; tags are left out."""
    out: list[Cue] = []
    times: re.Match[str] | None = None
    words: list[str] = []
    for line in [*plain_lines(text), ""]:
        found = _SRT_TIMES.search(line) if "-->" in line else None
        if found:
            times, words = found, []
        elif line.strip():
            words.append(line)
        else:
            plain = [" ".join(part.split()) for part in without_tags("\n".join(words)).split("\n")]
            if times is not None and any(plain):
                n = [int(v) for v in times.groups()]
                start, end = (h * 3600 + m * 60 + s + ms / 1000 for h, m, s, ms in (n[:4], n[4:]))
                out.append(Cue(start, end, "\n".join(p for p in plain if p)))
            times, words = None, []
    return out


def read_lyrics(text: str, name: str = "") -> list[LyricLine]:
    """Lyrics in whichever of the formats they are.

    Args:
        text: The file's text, or what was pasted.
        name: The file's name, for messages.

    Raises:
        BadInput: there is no line in it, or too many.
    """
    plain = text.lstrip("\ufeff")
    if plain.startswith("WEBVTT"):
        lines = [LyricLine(c.text, c.start_s) for c in read_vtt(plain, name) if c.text]
    elif _SRT_TIMES.search(plain):
        lines = read_srt(plain)
    elif re.search(rf"^[ \t]{{0,16}}\[{_LRC_TIME}\]", plain.replace("\r", "\n"), re.MULTILINE):
        lines = read_lrc(plain)
    else:
        lines = read_text(plain)
    if not lines:
        raise BadInput(f"{name or 'The text'} holds no line of lyrics.")
    at_most(len(lines), name or "The text")
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
    """Timed lines as cues, in a song that ends at ``end_s``."""
    ends = line_ends(lines, end_s)
    return [
        Cue(line.at_s, end, line.text)
        for line, end in zip(lines, ends, strict=True)
        if line.at_s is not None and end is not None
    ]


def write_srt(cues: list[Cue]) -> str:
    """SubRip of cues."""

    def clock(seconds: float) -> str:
        ms = round(seconds * 1000)
        return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d},{ms % 1000:03d}"

    return "\n".join(
        f"{n}\n{clock(c.start_s)} --> {clock(c.end_s)}\n{c.text}\n" for n, c in enumerate(cues, 1)
    )
