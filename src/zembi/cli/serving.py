"""Commands that serve: the application, and the demo project."""

import json
import sys
import webbrowser
from pathlib import Path
from typing import Annotated, Any

import typer

from zembi.cli.shared import DataFolder, app, bar, data_folder, open_workspace
from zembi.core.errors import BadInput

DEFAULT_PORT = 8765


AllowHost = Annotated[
    list[str] | None,
    typer.Option(
        "--allow-host", help="A name that the server answers to besides its address; may be given often."
    ),
]
OpenIt = Annotated[bool, typer.Option("--open", help="Open the page in the browser.")]


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
    open_it: OpenIt = False,
) -> None:
    """Serve the application: to this machine alone, or beyond it to whoever has the token."""
    for folder in media or []:
        if not folder.is_dir():
            raise BadInput(f"--media {folder}: there is no such folder.")
    _serve(open_workspace(data, media), host, port, allow_host or [], open_it)


def _serve(workspace: Any, host: str, port: int, allowed: list[str], open_it: bool) -> None:
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
        _server_class()(config, said, address if open_it else "").run(sockets=[listening])
    finally:
        studio.stop()
        listening.close()


def _server_class() -> type:
    import uvicorn

    class Announcing(uvicorn.Server):
        """Says where it serves once it really does, and opens an address in the browser where one is given."""

        def __init__(self, config: uvicorn.Config, message: str, opened: str) -> None:
            super().__init__(config)
            self._message, self._opened = message, opened

        async def startup(self, sockets: Any = None) -> None:
            await super().startup(sockets=sockets)
            if self.started:
                print(self._message, flush=True)
            if self.started and self._opened and not webbrowser.open(self._opened):
                print("zembi: no browser was found; open the address by hand.", file=sys.stderr, flush=True)

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
    open_it: OpenIt = False,
) -> None:
    """Make the demo project and serve it."""
    from zembi.demo.project import make_demo
    from zembi.service.project.workspace import default_data_folder

    folder = data_folder(data, default_data_folder)
    with bar("Making the demo project", quiet=report) as shown:
        project = make_demo(folder, _told if report else shown)
    if prepare_only:
        print(project)
        return
    _serve(open_workspace(folder), "127.0.0.1", port, [], open_it)


def _told(share: float, words: str) -> None:
    print(json.dumps({"share": round(share, 4), "words": words}), flush=True)
