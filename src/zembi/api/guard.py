"""Who may talk to the server: only pages that it served itself, asked for under a name of its own, with the token
where it listens beyond this machine. And what every answer tells the browser about itself.
"""

import hmac
import html
import json
from collections.abc import Iterable
from http.cookies import CookieError, SimpleCookie
from urllib.parse import parse_qsl, unquote_to_bytes, urlencode, urlsplit

from starlette.types import ASGIApp, Message, Receive, Scope, Send

#: What the page itself keeps to. Ant Design writes its styles into the page; everything else comes from files.
POLICY = "; ".join((
    "default-src 'none'", "script-src 'self'", "style-src 'self' 'unsafe-inline'", "img-src 'self' data: blob:",
    "font-src 'self'", "connect-src 'self'", "media-src 'self' blob:", "worker-src 'self'", "manifest-src 'self'",
    "base-uri 'none'", "form-action 'self'", "frame-ancestors 'none'", "object-src 'none'",
))  # fmt: skip
HEADERS = (
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"x-frame-options", b"DENY"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
)
COOKIE = "zembi-token"
_YEAR_S = 365 * 86_400


class Refusal(Exception):
    """A request that is not let through: its status, and why, in words."""

    def __init__(self, status: int, code: str, words: str) -> None:
        super().__init__(words)
        self.status, self.code, self.words = status, code, words


class Guard:
    """Refuses requests of other sites, under other names, without the token, or that are no requests at all."""

    def __init__(self, app: ASGIApp, hosts: Iterable[str], token: str = "") -> None:
        self._app = app
        self._hosts = {h.lower() for h in hosts}
        self._token = token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._app(scope, receive, send)
            return
        if scope["type"] != "http":
            await _refuse_upgrade(scope, receive, send)
            return

        async def marked(message: Message) -> None:
            if message["type"] == "http.response.start":
                given = {k.lower() for k, _ in message["headers"]}
                message["headers"] = [*message["headers"], *(h for h in HEADERS if h[0] not in given)]
            await send(message)

        try:
            headers = _headers(scope)
            _check_path(scope)
            self._check_name(headers)
            self._check_origin(headers)
            fresh = self._check_token(scope, headers)
        except Refusal as refusal:
            await _answer(marked, scope, refusal)
            return
        if fresh is not None:
            await marked({"type": "http.response.start", "status": 303, "headers": fresh})
            await marked({"type": "http.response.body", "body": b""})
            return
        await self._app(scope, receive, marked)

    def _check_name(self, headers: dict[str, str]) -> None:
        host = headers.get("host", "")
        name = _host_name(host, "Host") if host else ""
        if name not in self._hosts:
            raise Refusal(
                403,
                "not_allowed",
                f"This server does not answer to the name “{name}”. Start it with --allow-host to allow it.",
            )

    @staticmethod
    def _check_origin(headers: dict[str, str]) -> None:
        site = headers.get("sec-fetch-site", "same-origin")
        origin = headers.get("origin")
        foreign = site not in ("same-origin", "none")
        if origin is not None and origin != "null":
            _host_name(urlsplit_or_refuse(origin), "Origin")
            foreign = foreign or urlsplit(origin).netloc.lower() != headers.get("host", "").lower()
        elif origin == "null":
            foreign = True
        if foreign:
            raise Refusal(403, "not_allowed", "A page of another site may not ask anything here.")

    def _check_token(self, scope: Scope, headers: dict[str, str]) -> list[tuple[bytes, bytes]] | None:
        """Let a request with the token pass; one that brings it in its address is told to keep it in a cookie."""
        if not self._token:
            return None
        query = parse_qsl(scope.get("query_string", b"").decode("latin-1"), keep_blank_values=True)
        given = dict(query).get("token")
        if given is not None and scope["method"] == "GET" and self._is_token(given):
            rest = urlencode([(k, v) for k, v in query if k != "token"])
            place = scope["raw_path"].split(b"?")[0] if scope.get("raw_path") else scope["path"].encode()
            # Never "//elsewhere", nor "/\\elsewhere", which browsers read alike: that would be another server's address.
            where = b"/" + place.replace(b"\\", b"/").lstrip(b"/") + (b"?" + rest.encode() if rest else b"")
            cookie = f"{COOKIE}={self._token}; Path=/; Max-Age={_YEAR_S}; HttpOnly; SameSite=Strict"
            return [(b"location", where), (b"set-cookie", cookie.encode()), (b"content-length", b"0")]
        bearer = headers.get("authorization", "").removeprefix("Bearer ")
        if not (self._is_token(bearer) or self._is_token(_cookie(headers))):
            raise Refusal(
                401,
                "no_token",
                "This server asks for its token: open the address that it printed when it started, or add "
                "?token=… to this one.",
            )
        return None

    def _is_token(self, given: str) -> bool:
        return hmac.compare_digest(given.encode(), self._token.encode())


def _headers(scope: Scope) -> dict[str, str]:
    return {k.decode("latin-1").lower(): v.decode("latin-1") for k, v in scope["headers"]}


def _check_path(scope: Scope) -> None:
    """Refuse an address that no file or row can be called: not text, or with a NUL in it."""
    raw = scope.get("raw_path") or scope["path"].encode()
    for part in (raw.split(b"?")[0], scope.get("query_string", b"").replace(b"+", b" ")):
        plain = unquote_to_bytes(part)
        try:
            text = plain.decode()
        except UnicodeDecodeError:
            raise Refusal(400, "bad_input", "The address is not text in UTF-8.") from None
        if "\0" in text:
            raise Refusal(400, "bad_input", "The address holds a NUL character.")


def urlsplit_or_refuse(origin: str) -> str:
    """The host and port of an origin."""
    try:
        parts = urlsplit(origin)
    except ValueError:
        raise Refusal(400, "bad_input", f"“{origin[:80]}” is not an Origin.") from None
    if parts.scheme not in ("http", "https"):
        raise Refusal(403, "not_allowed", "A page of another site may not ask anything here.")
    return parts.netloc


def _host_name(host: str, what: str) -> str:
    try:
        parts = urlsplit(f"//{host}")
        name, _port = parts.hostname, parts.port
    except ValueError:
        name = None
    if not name or any(c in host for c in "/\\@?# \t"):
        raise Refusal(400, "bad_input", f"“{host[:80]}” is not a {what}.")
    return name.lower()


def _cookie(headers: dict[str, str]) -> str:
    try:
        kept = SimpleCookie(headers.get("cookie", "")).get(COOKIE)
    except CookieError:
        return ""
    return kept.value if kept else ""


async def _refuse_upgrade(scope: Scope, receive: Receive, send: Send) -> None:
    """Refuse a web socket: nothing here speaks over one."""
    await receive()
    if "websocket.http.response" in scope.get("extensions", {}):
        body = json.dumps(
            {"code": "bad_input", "detail": "Nothing here is asked over a web socket."}
        ).encode()
        head = [
            (b"content-type", b"application/json"),
            (b"content-length", str(len(body)).encode()),
            *HEADERS,
        ]
        await send({"type": "websocket.http.response.start", "status": 400, "headers": head})
        await send({"type": "websocket.http.response.body", "body": body})
    else:
        await send({"type": "websocket.close", "code": 1008})


async def _answer(send: Send, scope: Scope, refusal: Refusal) -> None:
    """Say no: to a person in a page with a way on, to a program in JSON."""
    headers = _headers(scope)
    wants_page = headers.get("sec-fetch-dest") == "document" or "text/html" in headers.get("accept", "")
    if wants_page and refusal.status in (401, 403) and not scope["path"].startswith("/api/"):
        form = (
            '<form method="get" action="/"><label>Token <input name="token" autofocus></label> <button>Open</button></form>'
            if refusal.status == 401
            else '<p><a href="/">Open Zembi</a></p>'
        )
        body = f"<!doctype html><meta charset=utf-8><title>Zembi</title><p>{html.escape(refusal.words)}</p>{form}".encode()
        kind = b"text/html; charset=utf-8"
    else:
        body = json.dumps({"code": refusal.code, "detail": refusal.words}).encode()
        kind = b"application/json"
    head = [(b"content-type", kind), (b"content-length", str(len(body)).encode())]
    await send({"type": "http.response.start", "status": refusal.status, "headers": head})
    await send({"type": "http.response.body", "body": b"" if scope["method"] == "HEAD" else body})
