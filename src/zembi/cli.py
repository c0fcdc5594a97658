"""The command line: serve, demo, listen, align, shots, group, render, export, doctor."""

import dataclasses
import json
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from fractions import Fraction
from pathlib import Path
from typing import Annotated, Any
from urllib.parse import unquote, urlsplit

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from zembi import __version__
from zembi.core.errors import BadInput, ZembiError
from zembi.core.programme.size import checked_size

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    help="Zembi: cut a music video to its song.",
    pretty_exceptions_enable=False,
)
_err = Console(stderr=True, highlight=False)

DEFAULT_PORT = 8765
#: Largest timeline read.
_MOST_TIMELINE_BYTES = 64 << 20
DataFolder = Annotated[Path | None, typer.Option("--data", help="Data folder (default: the platform's own).")]
AsJson = Annotated[
    bool, typer.Option("--json", help="One JSON object on standard output, nothing else there.")
]


def main() -> None:
    """Run the command line. Exit 0 done, 2 wrong use or unreadable input, 1 anything else."""
    try:
        raise SystemExit(app(standalone_mode=False) or 0)
    except BadInput as fault:
        _fail(fault.message, 2)
    except ZembiError as fault:
        _fail(fault.message, 1)
    except KeyboardInterrupt:
        _fail("Stopped.", 1)
    except OSError as fault:
        from zembi.jobs.disk import disk_fault

        _fail(disk_fault(fault, Path.cwd()).message, 1)
    except Exception as fault:
        said = getattr(fault, "format_message", None)
        if said is not None:  # the words of the library that reads the arguments
            _fail(f"{said().rstrip(chr(46))}. Try zembi --help.", 2)
        if os.environ.get("ZEMBI_TRACE"):
            raise
        _fail(f"{type(fault).__name__}: {fault}", 1)


def _fail(message: str, code: int) -> None:
    print(f"zembi: {' '.join(message.split())}", file=sys.stderr)
    raise SystemExit(code)


@contextmanager
def _bar(title: str, quiet: bool = False) -> Iterator[Any]:
    """A progress bar on standard error; yields report(share, text)."""
    columns = (
        TextColumn("{task.description}"),
        BarColumn(),
        TextColumn("{task.percentage:>3.0f} %"),
        TimeElapsedColumn(),
    )
    with Progress(*columns, console=_err, disable=quiet or not sys.stderr.isatty()) as progress:
        task = progress.add_task(title, total=1.0)
        yield lambda share, text: progress.update(task, completed=share, description=text or title)


def _workspace(data: Path | None, media: list[Path] | None = None) -> Any:
    from zembi.service.project.workspace import Workspace, default_data_folder, default_media_folders

    folder = _data_folder(data, default_data_folder)
    return Workspace(folder, [*default_media_folders(folder), *(media or [])])


def _data_folder(data: Path | None, default: Callable[[], Path]) -> Path:
    try:
        folder = (data or default()).expanduser().resolve()
    except (OSError, RuntimeError) as fault:
        raise BadInput(f"--data {data}: {fault}.") from None
    if folder.exists() and not folder.is_dir():
        raise BadInput(f"--data {folder} is a file, not a folder.")
    return folder


AllowHost = Annotated[
    list[str] | None,
    typer.Option(
        "--allow-host", help="A name that the server answers to besides its address; may be given often."
    ),
]


@app.command()
def serve(
    data: DataFolder = None,
    host: Annotated[str, typer.Option(help="Address to listen on.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="Port to listen on.")] = DEFAULT_PORT,
    media: Annotated[
        list[Path] | None,
        typer.Option("--media", help="A folder that footage may be read from; may be given often."),
    ] = None,
    allow_host: AllowHost = None,
) -> None:
    """Serve the application: to this machine alone, or beyond it to whoever has the token."""
    for folder in media or []:
        if not folder.is_dir():
            raise BadInput(f"--media {folder}: there is no such folder.")
    _serve(_workspace(data, media), host, port, allow_host or [])


def _serve(workspace: Any, host: str, port: int, allowed: list[str]) -> None:
    import uvicorn

    from zembi.api.app import create_app
    from zembi.api.listening import LOOPBACK, listen_on, names_of, token_of
    from zembi.service.application.studio import Studio

    beyond = host not in LOOPBACK
    token = token_of(workspace.data) if beyond else ""
    hosts = names_of(host, allowed)
    listening = listen_on(host, port)
    studio = Studio(workspace)
    try:
        studio.start()
    except BaseException:
        listening.close()
        raise
    application = create_app(studio, hosts=hosts, token=token)
    config = uvicorn.Config(application, log_level="warning", timeout_graceful_shutdown=1)
    shown = f"[{host}]" if ":" in host else host
    address = f"http://{shown}:{listening.getsockname()[1]}" + (f"/?token={token}" if token else "")
    said = f"Zembi is ready at {address}"
    if beyond:
        print(
            f"zembi: listening beyond this machine, as {', '.join(sorted(hosts))}. Allow other names with --allow-host.",
            file=sys.stderr, flush=True,
        )  # fmt: skip
    try:
        _server_class()(config, said).run(sockets=[listening])
    finally:
        studio.stop()
        listening.close()


def _server_class() -> type:
    import uvicorn

    class Announcing(uvicorn.Server):
        """Says where it serves once it really does."""

        def __init__(self, config: uvicorn.Config, message: str) -> None:
            super().__init__(config)
            self._message = message

        async def startup(self, sockets: Any = None) -> None:
            await super().startup(sockets=sockets)
            if self.started:
                print(self._message, flush=True)

    return Announcing


@app.command()
def demo(
    data: DataFolder = None,
    prepare_only: Annotated[
        bool, typer.Option("--prepare-only", help="Make the demo project and end.")
    ] = False,
    report: Annotated[
        bool, typer.Option("--report", help="Tell how far it is, a line of JSON each.")
    ] = False,
    port: Annotated[int, typer.Option(help="Port to serve on.")] = DEFAULT_PORT,
) -> None:
    """Make the demo project and serve it."""
    from zembi.demo.project import make_demo
    from zembi.service.project.workspace import default_data_folder

    folder = _data_folder(data, default_data_folder)
    with _bar("Making the demo project", quiet=report) as shown:
        project = make_demo(folder, _told if report else shown)
    if prepare_only:
        print(project)
        return
    _serve(_workspace(folder), "127.0.0.1", port, [])


def _told(share: float, words: str) -> None:
    print(json.dumps({"share": round(share, 4), "words": words}), flush=True)


@app.command()
def listen(song: Path, as_json: AsJson = False) -> None:
    """Listen to a song: tempo, beats, bars, sections, hits, loudness."""
    from zembi.service.application.work import listen_to

    with _bar("Listening", as_json) as report:
        found = listen_to(song, report)
    if as_json:
        print(json.dumps(_listen_document(found)))
        return
    print(
        f"{found.tempo_bpm:.2f} BPM{'' if found.tempo_steady else ' (moving)'}, {found.metre}/4, {len(found.downbeats)} bars, sure {100 * found.confidence:.0f} %"
    )
    for s in found.sections:
        print(f"{s.start_s:8.2f} s  {s.label} ({s.bars} bars)")


def _listen_document(found: Any) -> dict[str, Any]:
    def cut(values: list[float]) -> list[float]:
        return [round(v, 5) for v in values]

    downbeats = found.downbeats
    phrases = []
    for s in found.sections:
        inside = [b for b in downbeats if s.start_s - 1e-3 <= b < s.end_s - 1e-3]
        starts = inside[::4]
        for k, start in enumerate(starts):
            end = starts[k + 1] if k + 1 < len(starts) else s.end_s
            phrases.append(
                {"start_s": round(start, 5), "end_s": round(end, 5), "bars": min(4, len(inside) - 4 * k)}
            )
    return {
        "duration_s": round(found.duration_s, 5), "tempo_bpm": round(found.tempo_bpm, 4), "tempo_steady": found.tempo_steady,
        "tempo": [{"start_s": round(t.start_s, 5), "end_s": round(t.end_s, 5), "bpm": round(t.bpm, 4), "steady": t.steady} for t in found.tempo],
        "metre": found.metre, "division": found.division, "confidence": round(found.confidence, 4),
        "readings": [{"tempo_bpm": round(r.tempo_bpm, 4), "shift_beats": r.shift_beats, "score": round(float(r.score), 4)} for r in found.readings],
        "beats": cut(found.beats), "downbeats": cut(downbeats), "phrases": phrases,
        "sections": [{"start_s": round(s.start_s, 5), "end_s": round(s.end_s, 5), "label": s.label, "group": s.group} for s in found.sections],
        "hits": {band: [{"at_s": round(h.at_s, 5), "strength": round(h.strength, 4)} for h in hits] for band, hits in found.hits.items()},
        "loudness": {"hop_s": found.lufs_hop_s, "lufs": [round(v, 2) for v in found.lufs], "short_term": [round(v, 2) for v in found.short_term]},
        "energy": {"hop_s": found.lufs_hop_s, "values": [round(v, 3) for v in found.energy]},
        "voice": {"hop_s": found.lufs_hop_s, "likely": [round(v, 3) for v in found.voice]},
    }  # fmt: skip


@app.command()
def align(song: Path, takes: list[Path], as_json: AsJson = False) -> None:
    """Line takes up to a song by waveform."""
    from zembi.service.application.work import align_files

    with _bar("Lining up", as_json) as report:
        found = align_files(song, takes, report)
    documents = [_align_document(take, f) for take, f in zip(takes, found, strict=True)]
    if as_json:
        print(json.dumps({"song": str(song), "takes": documents}))
        return
    for d in documents:
        print(f"{d['file']}: {d['status']} ({100 * d['confidence']:.1f} %)")
        for p in d["passes"]:
            print(
                f"    take {p.take_start_s:.3f} to {p.take_end_s:.3f} s lies at song {p.song_start_s:.4f} s, rate {p.rate:.6f}"
            )
        for c in d["candidates"]:
            print(
                f"    or: take {c['take_start_s']:.3f} s at song {c['song_start_s']:.4f} s ({c['score']:.2f})"
            )


@app.command()
def shots(file: Path, as_json: AsJson = False) -> None:
    """Find where finished footage is cut."""
    from zembi.service.application.footage import shots_of

    with _bar("Looking", as_json) as report:
        found = shots_of(file, report)
    if as_json:
        rows = [
            {
                "first": s.first,
                "end": s.end,
                "in": s.begins,
                **({"dissolve": list(s.dissolve)} if s.dissolve else {}),
            }
            for s in found.shots
        ]
        rate = f"{found.rate.numerator}/{found.rate.denominator}"
        print(json.dumps({"file": str(file), "rate": rate, "frames": found.frames, "shots": rows}))
        return
    for n, s in enumerate(found.shots, 1):
        mixed = f", dissolved from frame {s.dissolve[0]} to {s.dissolve[1]}" if s.dissolve else ""
        print(f"{n:4d}  frames {s.first} to {s.end} ({s.end - s.first}){mixed}")


@app.command()
def group(takes: list[Path], as_json: AsJson = False) -> None:
    """Group takes by the camera set-up that shot them."""
    from zembi.service.application.footage import groups_of

    with _bar("Looking", as_json) as report:
        found = groups_of(takes, report)
    documents = [
        {"name": g.name, "files": [str(takes[i]) for i in g.takes], "because": g.because} for g in found
    ]
    if as_json:
        print(json.dumps({"groups": documents}))
        return
    for d in documents:
        print(f"{d['name']} ({d['because']})")
        for name in d["files"]:
            print(f"    {name}")


def _align_document(take: Path, found: Any) -> dict[str, Any]:
    settled = [p for p in found.passes if not p.rivals]
    return {
        "file": str(take), "status": found.status, "confidence": round(found.confidence, 4),
        "passes": [
            {"take_start_s": round(p.take_start_s, 6), "take_end_s": round(p.take_end_s, 6), "song_start_s": round(p.song_start_s, 6), "rate": round(p.rate, 9)}
            for p in settled
        ],
        "candidates": [
            {"take_start_s": round(c.take_start_s, 6), "song_start_s": round(c.song_start_s, 6), "score": round(c.score, 4)}
            for p in found.passes for c in p.rivals
        ],
    }  # fmt: skip


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
) -> None:
    """Render a project's current edit, or an .otio timeline."""
    from zembi.media.render import render as render_film

    if out.suffix.lower() != ".mp4":
        raise BadInput(f"--out {out}: the film is an .mp4 file.")
    if not edit.exists():
        raise BadInput(f"{edit} is not there.")
    shape = _size(size) if size is not None else None
    if edit.is_dir():
        film = _project_film(edit, rate, start, end, shape)
    else:
        film = _timeline_film(edit, rate, start, end, song)
        if shape is not None:
            film = dataclasses.replace(film, width=shape[0], height=shape[1])
    if song is not None:
        film = dataclasses.replace(film, song=song)
    with _bar("Rendering") as report:
        with suppress(OSError):
            out.parent.mkdir(parents=True, exist_ok=True)
        render_film(film, out, progress=report)


def _project_film(
    folder: Path, rate: str | None, start: str | None, end: str | None, size: tuple[int, int] | None
) -> Any:
    from zembi.core.timebase import parse_rate
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
    return film_of(project, current_edit(project), first, until, size)


def _timeline_film(
    path: Path, rate: str | None, start: str | None, end: str | None, song: Path | None
) -> Any:
    from zembi.core.interchange.timeline import read_timeline
    from zembi.core.programme.flatten import media_seen
    from zembi.core.programme.sound import SILENT
    from zembi.core.timebase import parse_rate, seconds_to_frame
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
    files = {url: _media_path(url, path.parent) for url in media_seen(shown, 0, shown.length)}
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
    first, until = 0, shown.length
    if start or end:
        first, until = _bar_range(sound, read.rate, start, end, shown.length, seconds_to_frame)
    facts = probe(next(iter(files.values())), need=("picture",)) if files else None
    width, height = (facts.width // 2 * 2, facts.height // 2 * 2) if facts else (1920, 1080)
    if song is not None:
        shown = dataclasses.replace(shown, sound=SILENT)
    return Film(shown, files, sound, read.rate, width, height, first, until)


def _bar_range(
    sound: Path | None, rate: Fraction, start: str | None, end: str | None, length: int, to_frame: Any
) -> tuple[int, int]:
    """Frames of --from and --to for a timeline: its song is listened to."""
    from zembi.core.song.corrections import Corrections, build_grid
    from zembi.service.application.work import listen_to

    if sound is None:
        raise BadInput("--from and --to count bars, and this timeline has no song: name it with --song.")
    found = listen_to(sound, lambda _s, _w: None)
    grid = build_grid(found.beats, found.downbeats, found.metre, found.duration_s, Corrections())

    def frame(text: str) -> int:
        try:
            bar, beat = text.split(":")
            return int(min(max(0, to_frame(grid.time_of(int(bar), float(beat)), rate)), length))
        except ValueError:
            raise BadInput(f"“{text}” is not a place in the song: write bar:beat, as in 13:1.") from None

    return frame(start) if start else 0, frame(end) if end else length


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


@app.command()
def doctor(data: DataFolder = None) -> None:
    """Check everything that Zembi needs, one line each."""
    failed = 0
    for name, problem in _checks(data):
        print(f"{'ok' if not problem else 'NO':3} {name}{': ' + problem if problem else ''}")
        failed += bool(problem)
    if failed:
        raise SystemExit(1)


def _checks(data: Path | None) -> Iterator[tuple[str, str]]:
    import importlib

    from zembi.api.app import PAGE
    from zembi.service.project.workspace import default_data_folder, free_bytes

    version = ".".join(str(v) for v in sys.version_info[:3])
    yield f"Zembi {__version__}", ""
    yield f"Python {version}", "" if sys.version_info >= (3, 11) else "install Python 3.11 or newer"
    for module in (
        "numpy",
        "scipy",
        "soxr",
        "av",
        "opentimelineio",
        "mido",
        "PIL",
        "fastapi",
        "sqlalchemy",
        "alembic",
    ):
        try:
            importlib.import_module(module)
            yield f"library {module}", ""
        except ImportError as fault:
            yield f"library {module}", f"{fault}; run make install"
    import av

    for codec, mode in (
        ("libx264", "w"),
        ("aac", "w"),
        ("flac", "w"),
        ("h264", "r"),
        ("hevc", "r"),
        ("prores", "r"),
        ("mp3", "r"),
        ("vorbis", "r"),
    ):
        try:
            av.codec.Codec(codec, mode)  # type: ignore[arg-type]
            yield f"codec {codec} ({'encode' if mode == 'w' else 'decode'})", ""
        except Exception:
            yield f"codec {codec}", "missing from the installed PyAV; run make install"
    folder = (data or default_data_folder()).expanduser()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe_file = folder / f".doctor-{os.getpid()}"
        probe_file.touch()
        probe_file.unlink()
        free = free_bytes(folder)
        yield f"data folder {folder}", "" if free > 2 << 30 else f"only {free / 1e9:.1f} GB free; make room"
    except OSError as fault:
        yield f"data folder {folder}", f"cannot be written ({fault.strerror}); choose another with --data"
    yield "browser build of the page", "" if (PAGE / "index.html").is_file() else "not built; run make build"


if __name__ == "__main__":
    main()
