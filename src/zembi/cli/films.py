"""Commands that hand off: a film, and files for other programs."""

import dataclasses
import os
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Annotated, Any
from urllib.parse import unquote, urlsplit

import typer

from zembi.cli.shared import app, bar
from zembi.core.errors import BadInput
from zembi.core.programme.size import checked_size

#: Largest timeline read.
_MOST_TIMELINE_BYTES = 64 << 20


def _size(text: str) -> tuple[int, int]:
    try:
        width, height = (int(p) for p in text.lower().replace("×", "x").split("x"))
    except ValueError:
        raise BadInput(f"“{text}” is not a picture size: write 1920x1080.") from None
    return checked_size(width, height)


@app.command()
def render(
    edit: Path,
    out: Annotated[Path, typer.Option("--out", help="The .mp4 to make.")],
    song: Annotated[
        Path | None, typer.Option(help="The sound (default: the project's or timeline's own).")
    ] = None,
    rate: Annotated[str | None, typer.Option(help="Frame rate, as 24000/1001 (default: the edit's).")] = None,
    size: Annotated[
        str | None, typer.Option(help="Picture size, as 1920x1080 (default: the project's).")
    ] = None,
    start: Annotated[str | None, typer.Option("--from", help="First bar:beat.")] = None,
    end: Annotated[str | None, typer.Option("--to", help="bar:beat to stop before.")] = None,
    version: Annotated[
        str | None, typer.Option(help="Name of the version (default: the one that is worked on).")
    ] = None,
) -> None:
    """Render a version of a project, or an .otio timeline."""
    from zembi.media.render import render as render_film

    if out.suffix.lower() != ".mp4":
        raise BadInput(f"--out {out}: the film is an .mp4 file.")
    if not edit.exists():
        raise BadInput(f"{edit} is not there.")
    shape = _size(size) if size is not None else None
    if edit.is_dir():
        film = _project_film(edit, version, rate, start, end, shape)
    else:
        if version is not None:
            raise BadInput(f"{edit} is one version: --version is for projects.")
        film = _timeline_film(edit, rate, start, end, song)
        if shape is not None:
            film = dataclasses.replace(film, width=shape[0], height=shape[1])
    if song is not None:
        film = dataclasses.replace(film, song=song)
    with bar("Rendering") as report:
        with suppress(OSError):
            out.parent.mkdir(parents=True, exist_ok=True)
        render_film(film, out, progress=report)


def _project_film(
    folder: Path,
    version: str | None,
    rate: str | None,
    start: str | None,
    end: str | None,
    size: tuple[int, int] | None,
) -> Any:
    from zembi.core.timebase import parse_rate
    from zembi.service.edit.versions import version_named
    from zembi.service.handoff.films import film_of, position_frame
    from zembi.service.project.snapshot import current_edit
    from zembi.service.project.workspace import open_folder

    project = open_folder(folder)
    if rate is not None and parse_rate(rate) != project.rate:
        raise BadInput(
            f"This project is at {project.rate} frames a second; its cuts are frames of that rate, so --rate cannot differ."
        )
    first = position_frame(project, start) if start else None
    until = position_frame(project, end) if end else None
    chosen = version_named(project, version) if version is not None else current_edit(project)
    return film_of(project, chosen, first, until, size)


def _timeline_film(
    path: Path, rate: str | None, start: str | None, end: str | None, song: Path | None
) -> Any:
    from zembi.core.interchange.timeline import read_timeline
    from zembi.core.programme.flatten import media_seen
    from zembi.core.programme.sound import SILENT
    from zembi.core.timebase import parse_rate
    from zembi.jobs.apart import apart
    from zembi.media.probe import probe
    from zembi.media.render import Film

    try:
        if path.stat().st_size > _MOST_TIMELINE_BYTES:
            raise BadInput(f"{path} is too large for a timeline.")
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as fault:
        raise BadInput(f"{path} cannot be read as an .otio timeline ({fault}).") from None
    read = apart(path.name, read_timeline, text, rate=parse_rate(rate) if rate else None)
    shown = read.programme
    files = {url: _media_path(url, path.parent) for url in media_seen(shown, shown.first, shown.end)}
    sound = song or (_media_path(read.song_url, path.parent) if read.song_url else None)
    for file in [*files.values(), *([sound] if sound else [])]:
        if not file.exists():
            raise BadInput(f"{path.name} names {file}, which is not there.")
    for warning in read.warnings:
        typer.echo(f"{path.name}: {warning}", err=True)
    for handle in read.handles:
        seconds = probe(_media_path(handle.url, path.parent), need=("picture",)).duration_s
        missing = handle.time.outside(0.0, seconds, read.rate)
        if missing:
            raise BadInput(
                f"The dissolve at “{handle.clip}” needs {handle.time.frames} frames beyond the clip's range, and the file "
                f"has {missing} too few."
            )
    first, until = shown.first, shown.end
    if start or end:
        first, until = _bar_range(sound, read.rate, start, end, shown.length)
    facts = probe(next(iter(files.values())), need=("picture",)) if files else None
    width, height = (facts.width // 2 * 2, facts.height // 2 * 2) if facts else (1920, 1080)
    if song is not None:
        shown = dataclasses.replace(shown, sound=SILENT)
    return Film(shown, files, sound, read.rate, width, height, first, until)


def _bar_range(
    sound: Path | None, rate: Fraction, start: str | None, end: str | None, length: int
) -> tuple[int, int]:
    """Frames of --from and --to for a timeline: its song is listened to."""
    from zembi.core.song.corrections import Corrections, build_grid
    from zembi.core.treatments.music import Music, place_from
    from zembi.service.song.listening import listen_to

    if sound is None:
        raise BadInput("--from and --to count bars, and this timeline has no song: name it with --song.")
    found = listen_to(sound, lambda _s, _w: None)
    grid = build_grid(found.beats, found.downbeats, found.metre, found.duration_s, Corrections())

    music = Music(rate, grid)
    frames = [min(music.frame_of(place_from(text)), length) if text else None for text in (start, end)]
    return frames[0] or 0, length if frames[1] is None else frames[1]


def _media_path(url: str, folder: Path) -> Path:
    try:
        parts = urlsplit(url)
    except ValueError:
        raise BadInput(f"{url[:200]} is not the address of a file.") from None
    if parts.scheme == "file":
        return Path(unquote(parts.path))
    if parts.scheme and len(parts.scheme) > 1:
        raise BadInput(f"{url} is not a file on this machine.")
    local = Path(unquote(url)) if not (folder / url).exists() else Path(url)
    return local if local.is_absolute() else folder / local


@app.command()
def export(
    edit: Path,
    form: Annotated[str, typer.Option("--format", help="otio, edl, csv, vtt or midi.")],
    out: Annotated[Path, typer.Option("--out", help="The file to make.")],
) -> None:
    """Export a project's current edit to an open format."""
    from zembi.service.handoff.films import checked_format
    from zembi.service.handoff.films import export as make
    from zembi.service.project.snapshot import current_edit
    from zembi.service.project.workspace import open_folder

    project = open_folder(edit)
    checked_format(form)
    made = make(project, current_edit(project), form)
    part = out.with_name(f".{out.name}.part")
    try:
        part.write_bytes(made.data)
        os.replace(part, out)
    except OSError as fault:
        raise BadInput(f"{out} cannot be written ({fault.strerror}).") from None
