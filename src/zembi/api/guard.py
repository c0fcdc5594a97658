"""Who may talk to the server: only pages that it served itself, asked for under its own name."""

import json
from collections.abc import Iterable
from urllib.parse import urlsplit

from starlette.types import ASGIApp, Receive, Scope, Send

_SAFE = {"GET", "HEAD", "OPTIONS"}


class Guard:
    """Refuses foreign Host headers (name rebinding) and changes asked for by pages of another origin."""

    def __init__(self, app: ASGIApp, hosts: Iterable[str]) -> None:
        self._app = app
        self._hosts = set(hosts)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = {k.decode("latin-1").lower(): v.decode("latin-1") for k, v in scope["headers"]}
        host = headers.get("host", "")
        refusal = ""
        if self._hosts and (urlsplit(f"//{host}").hostname or "") not in self._hosts:
            refusal = f"This server does not answer to the name “{host}”."
        elif scope["method"] not in _SAFE and self._foreign(headers, host):
            refusal = "A page of another origin may not change anything here."
        if refusal:
            body = json.dumps({"code": "not_allowed", "detail": refusal}).encode()
            head = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode())]
            await send({"type": "http.response.start", "status": 403, "headers": head})
            await send({"type": "http.response.body", "body": body})
            return
        await self._app(scope, receive, send)

    @staticmethod
    def _foreign(headers: dict[str, str], host: str) -> bool:
        if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return True
        origin = headers.get("origin")
        return origin is not None and urlsplit(origin).netloc != host
