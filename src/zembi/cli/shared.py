"""Shared parts of the commands: the application they belong to, progress, and the data folder."""

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from importlib import metadata
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from zembi.core.errors import BadInput

app = typer.Typer(
    add_completion=False,
    invoke_without_command=True,
    help="Zembi: cut a music video to its song.",
    pretty_exceptions_enable=False,
)
#: What is told to whoever types the bare name.
NEXT = """Zembi cuts a music video to its song. What to do next:

  zembi demo --open     the demo project, in the browser
  zembi serve --open    your own projects, in the browser
  zembi doctor          whether everything is there that it needs
  zembi --help          all commands"""
ERRORS = Console(stderr=True, highlight=False)

DataFolder = Annotated[Path | None, typer.Option("--data", help="Data folder (default: the platform's own).")]
AsJson = Annotated[
    bool, typer.Option("--json", help="One JSON object on standard output, nothing else there.")
]


@app.callback()
def _begin(
    context: typer.Context,
    version: Annotated[bool, typer.Option("--version", help="Say the version and end.")] = False,
) -> None:
    if version:
        print(f"zembi {metadata.version('zembi')}")
        raise typer.Exit
    if context.invoked_subcommand is None:
        print(NEXT)


@contextmanager
def bar(title: str, quiet: bool = False) -> Iterator[Any]:
    """A progress bar on standard error; yields report(share, text)."""
    columns = (
        TextColumn("{task.description}"),
        BarColumn(),
        TextColumn("{task.percentage:>3.0f} %"),
        TimeElapsedColumn(),
    )
    with Progress(*columns, console=ERRORS, disable=quiet or not sys.stderr.isatty()) as progress:
        task = progress.add_task(title, total=1.0)
        yield lambda share, text: progress.update(task, completed=share, description=text or title)


def open_workspace(data: Path | None, media: list[Path] | None = None) -> Any:
    from zembi.service.project.workspace import Workspace, default_data_folder, default_media_folders

    folder = data_folder(data, default_data_folder)
    return Workspace(folder, [*default_media_folders(folder), *(media or [])])


def data_folder(data: Path | None, default: Callable[[], Path]) -> Path:
    try:
        folder = (data or default()).expanduser().resolve()
    except (OSError, RuntimeError) as fault:
        raise BadInput(f"--data {data}: {fault}.") from None
    if folder.exists() and not folder.is_dir():
        raise BadInput(f"--data {folder} is a file, not a folder.")
    return folder
