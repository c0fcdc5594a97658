"""Making the demo project: the song is played, the takes are filmed, and all is prepared as for an editor."""

import multiprocessing
import os
import pickle
import secrets
import shutil
from collections.abc import Callable, Iterable
from concurrent.futures import Future, ProcessPoolExecutor, as_completed
from functools import cache
from pathlib import Path
from typing import Any

from sqlalchemy import insert, update

from zembi.core.colour.looks import LOOKS
from zembi.core.edit.lanes.over import OVER
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.operations import LayCard, LayLyrics, LayOver, Operation, RoughCut, Treat, TreatRange
from zembi.core.footage.files import SaidOfFile, said_to_dict
from zembi.core.timebase import seconds_to_frame
from zembi.core.titles.presets import PRESETS, worded
from zembi.core.treatments.model import (
    Dissolve,
    Drift,
    Fade,
    FlickerOn,
    Pulse,
    Ramp,
    Stutter,
    treatment_from_dict,
)
from zembi.core.treatments.music import Length, On, Place
from zembi.demo.footage import CLIPS, SHOT_LIST, TAKES, film_clip, film_take, take_photograph
from zembi.demo.song import ACT, LYRICS, PLAN, TITLE, perform
from zembi.demo.synth import Performance
from zembi.media.derive import write_flac
from zembi.service.application import work
from zembi.service.application.showcase import MAKING_DEMO
from zembi.service.edit import cutting
from zembi.service.lineup import aligning
from zembi.service.media.library import add_rows, grade
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.workspace import Project, Workspace
from zembi.store import tables
from zembi.store.edits import load_edit
from zembi.store.entities import Media, Pass

PROJECT_ID = "lamp-room"
#: The edit that a new project begins with.
EDIT = 1
#: The grade of the loft's takes.
_BROUGHT_UP = {"exposure": 1.0, "temperature": 0.12, "contrast": 1.16, "saturation": 1.15}
#: Written last; a demo without it was interrupted and is made again.
_COMPLETE = "demo-complete"

Progress = Callable[[float, str], None]


def _film_take(index: int, performance: Path, folder: str) -> str:
    return str(film_take(TAKES[index], _played(performance), Path(folder)))


def _film_clip(index: int, folder: str) -> str:
    return str(film_clip(CLIPS[index], Path(folder)))


@cache
def _played(path: Path) -> Performance:
    """The song as it was played once for all that film it."""
    made: Performance = pickle.loads(path.read_bytes())
    return made


def _prepare(folder: str, media: str) -> str:
    work.prepare(Path(folder), {"media": media}, lambda _s, _w: None)
    return media


def _align(folder: str, media: str) -> str:
    aligning.align_take(Path(folder), {"media": media}, lambda _s, _w: None)
    return media


def _each(futures: Iterable["Future[Any]"], start: float, end: float, text: str, progress: Progress) -> None:
    waiting = list(futures)
    for done, future in enumerate(as_completed(waiting), 1):
        future.result()
        progress(start + (end - start) * done / len(waiting), f"{text} ({done} of {len(waiting)})")


def make_demo(data: Path, progress: Progress = lambda _s, _w: None) -> Path:
    """Make the demo project under a data folder, or find it made.

    Returns:
        The project's folder.
    """
    target = Workspace(data).projects_folder / PROJECT_ID
    if (target / _COMPLETE).exists():
        return target
    for left in (target, *data.glob(f"{MAKING_DEMO}*")):
        shutil.rmtree(left, ignore_errors=True)
    # Made aside: it appears among the projects only when it is complete.
    aside = data / f"{MAKING_DEMO}{secrets.token_hex(6)}"
    try:
        _make(Workspace(aside), progress).rename(target)
    finally:
        shutil.rmtree(aside, ignore_errors=True)
    progress(1.0, "Ready")
    return target


def _make(workspace: Workspace, progress: Progress) -> Path:
    project = workspace.create(TITLE, "24", 1920, 1080)
    folder = project.folder
    media = folder / "media"
    media.mkdir()
    progress(0.01, f"Playing “{TITLE}” by {ACT}")
    performance = perform()
    write_flac(media / f"{TITLE}.flac", performance.audio, performance.sample_rate)
    played = folder / "performance.pickle"
    played.write_bytes(pickle.dumps(performance))
    context = multiprocessing.get_context("spawn")
    with (
        ProcessPoolExecutor(max(1, os.cpu_count() or 1), mp_context=context) as pool,
        ProcessPoolExecutor(1, mp_context=context) as bench,
    ):
        order = sorted(range(len(TAKES)), key=lambda i: -TAKES[i].seconds)
        filming = [pool.submit(_film_take, i, played, str(media)) for i in order]
        filming += [pool.submit(_film_clip, i, str(media)) for i in range(len(CLIPS))]
        _each(filming, 0.03, 0.5, "Filming", progress)
        played.unlink()
        ids = {}
        for kind, files in (
            ("song", [f"{TITLE}.flac"]),
            ("take", [f"{t.name}.mp4" for t in TAKES]),
            ("broll", [*(f"{c.name}.mp4" for c in CLIPS), take_photograph(media).name]),
        ):
            ids[kind] = add_rows(workspace, project, [str(media / f) for f in files], kind)
        _label(project)
        preparing = {
            m: pool.submit(_prepare, str(folder), m) for kind in ("song", "take", "broll") for m in ids[kind]
        }
        # One after another, so that angles are numbered in the order of the takes; others are prepared meanwhile.
        preparing[ids["song"][0]].result()
        for done, media_id in enumerate(ids["take"], 1):
            preparing[media_id].result()
            bench.submit(_align, str(folder), media_id).result()
            progress(0.5 + 0.4 * done / len(ids["take"]), f"Lining up ({done} of {len(ids['take'])})")
        _each(preparing.values(), 0.9, 0.99, "Preparing", progress)
    _finish(project, performance.downbeats_s)
    (folder / _COMPLETE).touch()
    project.database.close()
    progress(1.0, "Ready")
    return folder


def _label(project: Project) -> None:
    """Name cameras and clips as an editor would."""
    cameras = {t.name: t.camera for t in TAKES}
    with project.database.writing() as connection:
        for row in project.database.all(Media):
            values: dict[str, Any] = {"name": row.name.replace("_", " ")} if row.kind == "broll" else {}
            if row.kind == "take":
                values = (
                    {"tags": said_to_dict(SaidOfFile(camera=cameras[row.name]))} if cameras[row.name] else {}
                )
            if values:
                connection.execute(update(tables.media).where(tables.media.c.id == row.id).values(**values))


def _plan_shots(project: Project) -> None:
    """Write the shot list and tick off what was shot."""
    media = {m.name: m.id for m in project.database.all(Media)}
    passes = {p.media: p.id for p in project.database.all(Pass)}
    with project.database.writing() as connection:
        for position, (section, what, camera, shot) in enumerate(SHOT_LIST, 1):
            done = [{"pass": passes[media[n]]} if media[n] in passes else {"media": media[n]} for n in shot]
            values = {"section": section, "what": what, "camera": camera, "position": position, "done": done}
            connection.execute(insert(tables.listed_shot).values(**values))


def _finish(project: Project, downbeats_s: list[float]) -> None:
    """Lay the lyrics on their phrases and make a first rough cut."""
    first_bar = 0
    starts = []
    for part in PLAN.parts:
        starts.append(first_bar)
        first_bar += part.bars
    with project.database.writing() as connection:
        for index, phrase, words in LYRICS:
            at = downbeats_s[starts[index] + 4 * phrase]
            connection.execute(insert(tables.lyric).values(at_s=at, text=words))
    _plan_shots(project)
    _rough_cut(project)
    clips = {m.name: m.id for m in project.database.all(Media, kind="broll")}
    for bar, name in ((7, "Gulls over stern"), (23, "Swell slow"), (37, "Beam turn")):
        cutting.operate(project, EDIT, LayOver(downbeats_s[bar - 1], clips[name]))
    _treat(project)
    _title(project)


def _rough_cut(project: Project) -> None:
    """Cut on bars: shots of a bar in the choruses, of two elsewhere, each as far as its angle reaches."""
    snapshot = snapshot_of(project)
    for section, (first, end) in zip(
        snapshot.sections, snapshot.falls.section_frames(snapshot.length), strict=True
    ):
        beats = 4 if section.name.startswith("Chorus") else 8
        plain = RoughCut(first, end, seed=2, beats=beats, broll=0.0, without=("over", "energy", "hits"))
        cutting.operate(project, EDIT, plain)


def _title(project: Project) -> None:
    """Name song and act where the band comes in, show the words of the last chorus, and end on a card."""
    snapshot = snapshot_of(project)
    sections = {s.name: s for s in snapshot.sections}
    frames = dict(
        zip((s.name for s in snapshot.sections), snapshot.falls.section_frames(snapshot.length), strict=True)
    )
    opening = worded(PRESETS["main title"], TITLE, f"{ACT}")
    chorus, outro = frames["Chorus 3"], sections["Outro"].start_s
    bar = 4 * 60 / snapshot.need_grid().bpm
    for operation in (
        LayCard(opening, 2 * bar, "bar", end_s=4 * bar),
        LayLyrics(chorus[0], chorus[1]),
        LayCard(
            worded(PRESETS["end card"], TITLE, ACT, "filmed at the Harrow light"),
            outro + bar,
            "bar",
            end_s=outro + 3 * bar,
        ),
    ):
        cutting.operate(project, EDIT, operation)
    with project.database.reading() as connection:
        edit = load_edit(connection, EDIT)
    first, *_words, last = [i.id for lane in edit.of_kind(TITLES) for i in lane.items]
    cutting.operate(project, EDIT, Treat((first,), (FlickerOn(),)))
    cutting.operate(project, EDIT, Treat((last,), (Fade("in", Length(1.0, "bars"), beneath=True),)))


def _treat(project: Project) -> None:
    """Treat what the music asks for: it fades in and out, the bridge comes softly, the choruses pulse on the kick and have a
    look of their own at half its strength. The loft, filmed flat and dark, is brought up and nearer the lamp room.
    """
    for media in project.database.all(Media, kind="take"):
        if media.name.startswith("LOFT"):
            grade(project, media.id, _BROUGHT_UP)
    with project.database.reading() as connection:
        edit = load_edit(connection, EDIT)
    sections = snapshot_of(project).section_spans
    starts = {s.name: seconds_to_frame(s.start_s, project.rate) for s in sections}
    ends = [*list(starts.values())[1:], edit.length]

    def shot(frame: int) -> int:
        return edit.shots[edit.index_at(frame)].id

    two_bars = Length(2.0, "bars")
    (over,) = edit.of_kind(OVER)
    swell, beam = (over.items[k].id for k in (1, 2))
    treated: list[Operation] = [
        Treat((shot(0),), (Drift(to_scale=1.08), Fade("in", two_bars))),
        Treat((shot(starts["Bridge"] + 1),), (Dissolve(Length(1.0, "bars")),)),
        Treat((shot(edit.length - 1),), (Fade("out", two_bars),)),
        Treat((swell,), (Ramp((1.5, 0.5), (Place(23, 3),)),)),
        Treat((beam,), (Stutter(on=On("bar"), piece=Length(0.25), times=4),)),
        *(
            TreatRange(
                start,
                end,
                (
                    Pulse("scale", 0.05, On("low", 0.5)),
                    treatment_from_dict({"kind": "grade", **LOOKS["Old varnish"], "strength": 0.5}),
                ),
            )
            for (name, start), end in zip(starts.items(), ends, strict=True)
            if name.startswith("Chorus")
        ),
    ]
    for operation in treated:
        cutting.operate(project, EDIT, operation)
