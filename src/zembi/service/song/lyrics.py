"""Lyrics: pasting and reading them, timing lines, and giving them out. Times are song time."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from zembi.core.edit.operations.context import SungLine
from zembi.core.edit.sung import followed
from zembi.core.errors import BadInput, NotFound
from zembi.core.interchange.lists import write_vtt
from zembi.core.interchange.lyrics import cues_of, read_lyrics, write_lrc, write_srt
from zembi.core.song.lyrics import LyricLine, line_ends
from zembi.service.handoff.films import Export, file_stem
from zembi.service.project.snapshot import Snapshot, edits_of, snapshot_of
from zembi.service.project.tags import check_tag, tag_of
from zembi.service.project.transactions import one_moment, one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.edits import save_edit
from zembi.store.entities import Lyric

#: A line of lyrics is cut after so many signs.
LONGEST_LINE = 1000
KINDS = {"lrc": "text/plain", "srt": "application/x-subrip", "vtt": "text/vtt"}


def lines_of(rows: list[Lyric]) -> list[LyricLine]:
    """Lyric rows, in order, as the core's lines in song time."""
    return [
        LyricLine(r.text, r.at_s if r.timed else None, tuple((t, w) for t, w in r.words))
        for r in in_order(rows)
    ]


def in_order(rows: list[Lyric]) -> list[Lyric]:
    """Lyric rows as sung: by position, which times keep to."""
    return sorted(rows, key=lambda r: (r.position, r.at_s, r.id))


def sung_lines(snapshot: Snapshot) -> list[SungLine]:
    """Timed lines of the working song in order, in working time."""
    rows = in_order(snapshot.project.database.all(Lyric))
    ends = line_ends(lines_of(rows), snapshot.song_seconds)
    to = snapshot.map.to_working
    return [
        SungLine(r.id, r.text, to(r.at_s), to(end))
        for r, end in zip(rows, ends, strict=True)
        if end is not None and snapshot.map.holds(r.at_s)
    ]


def lyrics_tag(rows: list[Lyric]) -> str:
    """The tag of lyrics: another as soon as a word, a time or the order is."""
    return tag_of(_tagged(rows))


def _tagged(rows: list[Lyric]) -> list[list[Any]]:
    return [[r.text, r.at_s, r.timed, list(map(list, r.words))] for r in in_order(rows)]


@one_transaction
def set_lyrics(project: Project, text: str, name: str = "", *, known: str | None = None) -> int:
    """Replace the lyrics by a text in any of the formats; returns the number of lines.

    Raises:
        BadInput: no line in it.
        Changed: ``known`` is given, and is not the tag of the lyrics as they are.
    """
    check_tag(known, _tagged(project.database.all(Lyric)), "The lyrics were")
    lines = read_lyrics(text, name)
    before = project.database.all(Lyric)
    with (
        project.database.changing(f"Lyrics of {len(lines)} lines") as change,
        _titles_follow(project, change) as now,
    ):
        change.delete_all(tables.lyric)
        made = change.insert_all(tables.lyric, [
            {
                "at_s": line.at_s or 0.0, "text": line.text[:LONGEST_LINE], "position": position,
                "timed": line.at_s is not None, "words": [list(w) for w in line.words],
            }
            for position, line in enumerate(lines)
        ])  # fmt: skip
        now.clear()
        now.update(_same_words(in_order(before), lines, made))
    return len(lines)


def _same_words(before: list[Lyric], lines: list[LyricLine], ids: list[int]) -> dict[int, int]:
    """New ids of lines by their old ones: the n-th of the same words is the n-th."""
    waiting: dict[str, list[int]] = {}
    for line, new in zip(lines, ids, strict=True):
        waiting.setdefault(line.text[:LONGEST_LINE], []).append(new)
    return {row.id: waiting[row.text].pop(0) for row in before if waiting.get(row.text)}


@contextmanager
def _titles_follow(project: Project, change: Change) -> Iterator[dict[int, int]]:
    """Let titles of every edit follow what is done to the lyrics meanwhile, in the same step of undo.

    Gives the ids that lines have afterwards by those that they have; to be changed where they get others.
    """
    snapshot = snapshot_of(project)
    before = {line.id: line for line in sung_lines(snapshot)}
    now = {row.id: row.id for row in project.database.all(Lyric)}
    yield now
    after = {line.id: line for line in sung_lines(snapshot_of(project, change.connection))}
    for edit_id, edit in edits_of(project).items():
        moved = followed(edit, before, after, now, snapshot.rate)
        if moved is not edit:
            save_edit(change, edit_id, moved, edit)


@one_transaction
def change_line(
    project: Project,
    line_id: int,
    *,
    song_s: float | None = None,
    working_s: float | None = None,
    text: str | None = None,
    timed: bool | None = None,
) -> None:
    """Time a line, in song or working time, take its time off, or change its words. Word times move along with it.

    Raises:
        BadInput: outside the song, or no words.
    """
    snapshot = snapshot_of(project)
    row = project.database.one(Lyric, id=line_id)
    values: dict[str, Any] = {}
    at = snapshot.map.to_song(working_s) if working_s is not None else song_s
    if at is not None:
        if not 0 <= at <= snapshot.song_seconds:
            raise BadInput("A line has to begin inside the song.")
        by = at - row.at_s
        values |= {
            "at_s": at,
            "timed": True,
            "words": [[t + by, w] for t, w in row.words] if row.timed else [],
        }
    if timed is False:
        values |= {"timed": False, "words": []}
    if text is not None:
        if not text.strip():
            raise BadInput("A line of lyrics needs words; delete it instead.")
        values |= {"text": text.strip(), "words": row.words if text.strip() == row.text else []}
    what = "Time a line" if at is not None else "Change a line"
    with project.database.changing(what) as change, _titles_follow(project, change):
        change.update(tables.lyric, {"id": line_id}, values)


@one_transaction
def delete_line(project: Project, line_id: int) -> None:
    """Delete a line."""
    with project.database.changing("Delete a line") as change, _titles_follow(project, change) as now:
        now.pop(line_id, None)
        change.delete(tables.lyric, {"id": line_id})


@one_moment
def export_lyrics(project: Project, kind: str) -> Export:
    """Lyrics of the whole song as a file.

    Raises:
        BadInput: an unknown format.
        NotFound: there are none.
    """
    if kind not in KINDS:
        raise BadInput(f"“{kind}” is not a format of lyrics: {', '.join(KINDS)}.")
    snapshot = snapshot_of(project)
    rows = project.database.all(Lyric)
    if not rows:
        raise NotFound("There are no lyrics yet.")
    lines = lines_of(rows)
    end = snapshot.song_seconds
    text = (
        write_lrc(lines)
        if kind == "lrc"
        else write_srt(cues_of(lines, end))
        if kind == "srt"
        else write_vtt(cues_of(lines, end))
    )
    return Export(f"{file_stem(snapshot.about.name)}.{kind}", KINDS[kind], text.encode())
