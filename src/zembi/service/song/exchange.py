"""Giving out and reading in marks, sections and the grid: WebVTT, CSV and Standard MIDI File. Song time."""

import dataclasses
from itertools import pairwise

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most
from zembi.core.interchange.lists import Cue, read_cues_csv, read_vtt, write_cues_csv, write_vtt
from zembi.core.interchange.midi import TempoMap, read_midi, write_midi
from zembi.jobs.apart import apart
from zembi.service.handoff.films import Export, cues_of, file_stem
from zembi.service.project.snapshot import Snapshot, snapshot_of
from zembi.service.project.transactions import one_moment
from zembi.service.project.workspace import Project
from zembi.service.song.marks import HUES
from zembi.store import tables
from zembi.store.database import Change
from zembi.store.entities import MarkSet, every

KINDS = {"vtt": "text/vtt", "csv": "text/csv", "mid": "audio/midi"}
#: Largest file read, most sections, and longest name of a mark.
MOST_BYTES, MOST_SECTIONS, LONGEST_NAME = 8 << 20, 500, 200


@one_moment
def export_marks(project: Project, kind: str) -> Export:
    """Marks and sections of the whole song; with "mid" the grid too.

    Raises:
        BadInput: an unknown format.
    """
    if kind not in KINDS:
        raise BadInput(f"“{kind}” is not a format of marks: {', '.join(KINDS)}.")
    whole = snapshot_of(project).whole
    cues = cues_of(whole)
    if kind == "mid":
        data = write_midi(whole.need_grid(), cues)
    else:
        data = (write_vtt(cues) if kind == "vtt" else write_cues_csv(cues)).encode()
    return Export(f"{file_stem(whole.about.name)}_marks.{kind}", KINDS[kind], data)


def import_marks(project: Project, name: str, data: bytes) -> str:
    """Read marks and sections (and, from MIDI, the grid) from a file; returns what was read, in words.

    Sections in the file take the place of those there are; marks become a set named after the file.

    Raises:
        BadInput: a file that is none of the formats, or with nothing in it.
    """
    if len(data) > MOST_BYTES:
        raise BadInput(f"{name} is too large for a list of marks.")
    if data[:4] == b"MThd":
        return _keep_tempo_map(project, name, apart(name, read_midi, data, name))
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput(f"{name} is not text in UTF-8; save it as WebVTT, CSV or MIDI.") from None
    cues = read_vtt(text, name) if text.startswith("WEBVTT") else read_cues_csv(text, name)
    with project.database.changing(f"Read {name}") as change:
        return _keep(change, snapshot_of(project), name, cues)


def _keep_tempo_map(project: Project, name: str, found: TempoMap) -> str:
    with project.database.changing(f"Read {name}") as change:
        snapshot = snapshot_of(project)
        inside = [i for i, b in enumerate(found.beats) if b < snapshot.song_seconds + 10]
        if len(inside) < 2:
            raise BadInput(f"{name} has fewer than two beats inside the song.")
        first, last = inside[0], inside[-1]
        laid = dataclasses.replace(
            type(snapshot.corrections)(),
            read_beats=found.beats[first : last + 1],
            read_bars=tuple(b - first for b in found.bars if first <= b <= last),
        )
        change.update(tables.corrections, {"id": 1}, {"data": dataclasses.asdict(laid)})
        said = _keep(change, snapshot, name, list(found.markers)) if found.markers else ""
    return f"the grid{', ' + said if said else ''}"


def _keep(change: Change, snapshot: Snapshot, name: str, cues: list[Cue]) -> str:
    inside = [c for c in cues if 0 <= c.start_s <= snapshot.song_seconds]
    if not inside:
        raise BadInput(f"{name} holds no mark inside the song.")
    known = {s.name: s for s in snapshot.song_sections}
    sections = [c for c in inside if c.kind == "section"]
    marks = [c for c in inside if c.kind != "section" and not (not c.kind and c.text in known)]
    if sections:
        change.delete_all(tables.section)
        groups = {row.name: row.repeat_group for row in snapshot.song_sections}
        fresh = 1 + max(groups.values(), default=-1)
        ordered = sorted(sections, key=lambda c: c.start_s)
        rows = []
        for cue in [c for c, d in pairwise([*ordered, Cue(1e9, 1e9, "")]) if d.start_s - c.start_s > 0.05]:
            bars = known[cue.text].phrase_bars if cue.text in known else 4
            group = groups.setdefault(cue.text, fresh + len(groups))
            rows.append({
                "start_s": cue.start_s, "name": cue.text or "Section", "phrase_bars": bars, "repeat_group": group,
            })  # fmt: skip
        at_most(len(rows), f"{name}, sections,", MOST_SECTIONS)
        change.insert_all(tables.section, rows)
    if marks:
        count = len(every(change.connection, MarkSet))
        made = change.insert(tables.mark_set, {"name": name, "shown": True, "hue": count % HUES})
        labels = ["" if c.text == "mark" else c.text[:LONGEST_NAME] for c in marks]
        change.insert_all(tables.mark, [
            {"set_id": made["id"], "at_s": c.start_s, "name": label, "hue": -1} for c, label in zip(marks, labels, strict=True)
        ])  # fmt: skip
    parts = [f"{len(sections)} sections"] * bool(sections) + [f"{len(marks)} marks"] * bool(marks)
    return " and ".join(parts) or "nothing new"
