"""Other pages and other machines: who is answered, and what the page may do."""

import asyncio
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.abuse.support import Idle
from tests.conftest import open_studio
from tests.serving import free_port, serve_command
from zembi.api.app import create_app
from zembi.api.guard import Guard
from zembi.api.listening import names_of, token_of
from zembi.core.errors import BadInput

URL = "/api/v1/projects/small"
TOKEN = "t" * 43


@pytest.fixture
def guarded(data: Path, footage: Path) -> Iterator[TestClient]:
    """A server that listens beyond this machine."""
    app = create_app(
        open_studio(data, footage, Idle), hosts=names_of("0.0.0.0", ["studio.local"]), token=TOKEN
    )
    with TestClient(app, base_url="http://studio.local", follow_redirects=False) as client:
        yield client


@pytest.mark.parametrize("path", ["/", "/api/v1/projects", URL, "/api/nothing", "/assets/nothing.js"])
@pytest.mark.parametrize("method", ["GET", "POST", "OPTIONS", "DELETE"])
def test_every_answer_tells_the_browser_to_keep_to_itself(client: TestClient, path: str, method: str) -> None:
    headers = (
        client.request(method, path).headers
        if (method, path) != ("DELETE", URL)
        else client.get(path).headers
    )
    assert headers["x-content-type-options"] == "nosniff"
    assert headers["x-frame-options"] == "DENY"
    policy = dict(p.strip().split(" ", 1) for p in headers["content-security-policy"].split(";"))
    assert policy["default-src"] == policy["frame-ancestors"] == policy["object-src"] == "'none'"
    assert policy["script-src"] == "'self'"
    assert headers["cross-origin-resource-policy"] == "same-origin"


@pytest.mark.parametrize("path", ["/", "/api/v1/projects", f"{URL}/events", "/api/nothing"])
def test_an_upgrade_to_a_web_socket_is_refused_at_any_address(tmp_path: Path, path: str) -> None:
    port = free_port()
    command = serve_command(tmp_path, "--port", str(port))
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None
        server.stdout.readline()
        with socket.create_connection(("127.0.0.1", port)) as asked:
            asked.sendall(
                f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
                "Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\nSec-WebSocket-Version: 13\r\n\r\n".encode()
            )
            head = asked.recv(65536).decode()
        server.terminate()
    status = int(head.split()[1])
    assert 400 <= status < 500, head
    assert "x-content-type-options: nosniff" in head.lower()


@pytest.mark.parametrize("headers", [
    {"sec-fetch-site": "cross-site"}, {"sec-fetch-site": "same-site"}, {"origin": "http://evil.example"}, {"origin": "null"},
    {"origin": "http://127.0.0.1:9"}, {"origin": "ftp://127.0.0.1"}, {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"},
])  # fmt: skip
@pytest.mark.parametrize("path", ["/api/v1/projects", URL, f"{URL}/events", "/", "/api/v1/folders"])
def test_no_other_site_is_answered_even_to_read(
    client: TestClient, headers: dict[str, str], path: str
) -> None:
    answer = client.get(path, headers=headers)
    assert answer.status_code == 403
    assert "another site" in answer.text
    assert "access-control-allow-origin" not in answer.headers


@pytest.mark.parametrize(
    "host", ["[", "[::1", "a b", "a/b", "127.0.0.1:port", "127.0.0.1:99999", "user@127.0.0.1", "#"]
)
def test_a_host_that_is_none_is_a_bad_request(client: TestClient, host: str) -> None:
    assert client.get("/api/v1/projects", headers={"host": host}).status_code == 400


@pytest.mark.parametrize("origin", ["http://[", "http://a b", "http://:x", "http://127.0.0.1:99999"])
def test_an_origin_that_is_none_is_a_bad_request(client: TestClient, origin: str) -> None:
    assert client.get("/api/v1/projects", headers={"origin": origin}).status_code == 400


def test_beyond_this_machine_the_token_is_asked_for_and_kept(guarded: TestClient) -> None:
    for path in ("/api/v1/projects", URL, f"{URL}/events", "/api/v1/projects/small/derived/x/y"):
        answer = guarded.get(path)
        assert (answer.status_code, answer.json()["code"]) == (401, "no_token")
    assert guarded.post(f"{URL}/undo").status_code == 401
    assert guarded.get("/api/v1/projects", params={"token": "wrong"}).status_code == 401
    assert guarded.get("/api/v1/projects", headers={"authorization": f"Bearer {TOKEN}"}).status_code == 200
    page = guarded.get("/", headers={"accept": "text/html"})
    assert (page.status_code, "Token" in page.text) == (401, True)
    let_in = guarded.get(f"/p/small/song?token={TOKEN}&x=1")
    assert (let_in.status_code, let_in.headers["location"]) == (303, "/p/small/song?x=1")
    cookie = let_in.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Strict" in cookie
    assert guarded.get("/api/v1/projects").status_code == 200, "the page keeps it"


def test_the_token_does_not_lead_to_another_server(guarded: TestClient) -> None:
    let_in = guarded.get(f"http://studio.local//evil.example/x?token={TOKEN}")
    assert let_in.headers["location"] == "/evil.example/x"


@pytest.mark.parametrize(
    "place", [rb"/\evil.example", rb"\\evil.example", rb"/\/evil.example", b"//evil.example", rb"/\\/\evil"]
)
def test_nor_by_a_backslash_which_browsers_read_as_a_slash(place: bytes) -> None:
    """Asked as a raw request: clients write the sign in another way."""
    sent: list[dict[str, Any]] = []

    async def send(message: Any) -> None:
        sent.append(message)

    scope = {
        "type": "http", "method": "GET", "path": place.decode(), "raw_path": place,
        "query_string": f"token={TOKEN}".encode(), "headers": [(b"host", b"studio.local")],
    }  # fmt: skip
    guard = Guard(None, ["studio.local"], TOKEN)  # type: ignore[arg-type]
    asyncio.run(guard(scope, None, send))  # type: ignore[arg-type]
    where = dict(sent[0]["headers"])[b"location"]
    assert sent[0]["status"] == 303
    assert where.startswith(b"/evil")


def test_only_names_that_were_allowed_are_answered(guarded: TestClient) -> None:
    headers = {"authorization": f"Bearer {TOKEN}"}
    for host, status in (
        ("studio.local:8765", 200),
        ("STUDIO.local", 200),
        ("127.0.0.1", 200),
        ("evil.example", 403),
        ("192.0.2.1", 403),
    ):
        assert guarded.get("/api/v1/projects", headers={**headers, "host": host}).status_code == status


@pytest.mark.parametrize("name", ["", "a b", "*", "x:80", "http://x", "x/y"])
def test_a_name_that_is_none_cannot_be_allowed(name: str) -> None:
    with pytest.raises(BadInput):
        names_of("0.0.0.0", [name])


def test_the_token_stays_over_a_restart_and_is_its_owners_alone(tmp_path: Path) -> None:
    token = token_of(tmp_path)
    assert token == token_of(tmp_path)
    assert len(token) > 40
    assert (tmp_path / "token").stat().st_mode & 0o077 == 0


def test_the_start_line_of_a_server_beyond_this_machine_lets_one_in(tmp_path: Path) -> None:
    port = free_port()
    command = serve_command(tmp_path, "--host", "0.0.0.0", "--port", str(port))
    server = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        assert server.stdout is not None
        address = server.stdout.readline().split()[-1].replace("0.0.0.0", "127.0.0.1")
        assert "?token=" in address
        with pytest.raises(urllib.error.HTTPError) as refused:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/v1/projects")
        assert refused.value.code == 401
        refused.value.close()
        jar = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        with jar.open(address) as page:
            assert page.status == 200
        with jar.open(f"http://127.0.0.1:{port}/api/v1/projects") as answer:
            assert answer.read() == b"[]"
    finally:
        server.kill()
        server.communicate()


def asked(request: urllib.request.Request | str) -> int:
    """The status of an answer that has to come soon."""
    with urllib.request.urlopen(request, timeout=5) as answer:
        return int(answer.status)


def test_two_hundred_streams_leave_room_for_requests(tmp_path: Path) -> None:
    """Each stream once held a connection of the database for its life; twenty stopped everything."""
    command = [sys.executable, "-m", "zembi.cli", "serve", "--data", str(tmp_path), "--port", "0"]
    server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    streams: list[socket.socket] = []
    try:
        assert server.stdout is not None
        port = int(server.stdout.readline().strip().rsplit(":", 1)[1])
        body = b'{"name": "x", "rate": "24", "width": 320, "height": 180}'
        ask = urllib.request.Request(
            f"http://127.0.0.1:{port}/api/v1/projects", body, {"content-type": "application/json"}
        )
        assert asked(ask) == 201
        for _ in range(200):
            stream = socket.create_connection(("127.0.0.1", port))
            stream.sendall(b"GET /api/v1/projects/x/events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
            streams.append(stream)
        for stream in streams:
            stream.settimeout(20)
            assert b"200 OK" in stream.recv(4096)
        begin = time.monotonic()
        for _ in range(20):
            assert asked(f"http://127.0.0.1:{port}/api/v1/projects/x") == 200
        assert time.monotonic() - begin < 20
        undo = urllib.request.Request(
            f"http://127.0.0.1:{port}/api/v1/projects/x/song/mark-sets",
            b'{"of": "nothing", "name": "a"}',
            {"content-type": "application/json"},
        )
        assert asked(undo) == 201
    finally:
        for stream in streams:
            stream.close()
        server.kill()
        server.communicate()
