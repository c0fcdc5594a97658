"""Every route, asked for anything that its own document allows and much that it does not."""

import string
import time
from pathlib import Path
from typing import Any
from urllib.parse import quote

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from tests.abuse.support import Idle, everything, sound, tried
from tests.conftest import open_studio
from tests.copies import copied
from zembi.api.app import create_app
from zembi.service.project.workspace import Project
from zembi.store.entities import Angle, Media, Pass, Section

DOCUMENT = create_app(None).openapi()
SCHEMAS = DOCUMENT["components"]["schemas"]
#: Streams do not end; they are tried by themselves.
ROUTES = [
    (method.upper(), path, what)
    for path, methods in sorted(DOCUMENT["paths"].items())
    for method, what in sorted(methods.items())
    if not path.endswith("/events")
]
SLOWEST_S = 5.0

wild_numbers = st.sampled_from([
    0, -1, 1, 2**31, 2**63 - 1, 2**63, -(2**63) - 1, 10**40, 0.5, -0.0, 1e300, float("nan"), float("inf"), -float("inf"), 1e-320,
])  # fmt: skip
wild_words = st.one_of(
    st.sampled_from([
        "", " ", "\0", "a\0b", "\ud800", "x" * 300, "é" * 200, "../../etc/passwd", "~nobody", "~", "/", "//", ".", "..", "C:\\x", "\n", "\r\n",
        "=1+1", "<script>", "%00", "%", "💥", "\u202e", "-1", "NaN", "null", "' OR 1=1 --", "/" + "a/" * 2000, "/tmp/" + "n" * 300,
    ]),
    st.text(max_size=12),
)  # fmt: skip
anything: st.SearchStrategy[Any] = st.recursive(
    st.one_of(st.none(), st.booleans(), wild_numbers, wild_words),
    lambda inner: st.one_of(
        st.lists(inner, max_size=3), st.dictionaries(st.text(max_size=5), inner, max_size=3)
    ),
    max_leaves=6,
)


def values(schema: dict[str, Any]) -> st.SearchStrategy[Any]:
    """Mostly what a schema allows, at its edges too."""
    if "$ref" in schema:
        return values(SCHEMAS[schema["$ref"].rsplit("/", 1)[1]])
    if "anyOf" in schema:
        return st.one_of(*(values(s) for s in schema["anyOf"]))
    if "enum" in schema:
        return st.sampled_from(schema["enum"])
    if "const" in schema:
        return st.just(schema["const"])
    match schema.get("type"):
        case "null":
            return st.none()
        case "boolean":
            return st.booleans()
        case "integer":
            return st.one_of(st.integers(0, 12), wild_numbers)
        case "number":
            return st.one_of(st.floats(-5, 60), wild_numbers)
        case "string":
            return wild_words
        case "array":
            items = [values(s) for s in schema.get("prefixItems", [])]
            return (
                st.tuples(*items).map(list)
                if items
                else st.lists(values(schema.get("items", {})), max_size=4)
            )
        case "object":
            needed = schema.get("required", [])
            fields = {k: values(s) for k, s in schema.get("properties", {}).items()}
            return st.fixed_dictionaries(
                {k: v for k, v in fields.items() if k in needed},
                optional={k: v for k, v in fields.items() if k not in needed},
            )
    return anything


class Target:
    """A server with the small project, and ids of things that are there."""

    def __init__(self, client: TestClient, project: Project) -> None:
        self.client, self.project = client, project
        with project.database.reading():
            self.known = {
                "project_id": ["small"], "media_id": [m.id for m in project.database.all(Media)],
                "pass_id": [p.id for p in project.database.all(Pass)], "angle_id": [a.id for a in project.database.all(Angle)],
                "section_id": [s.id for s in project.database.all(Section)], "what": ["done.json", "stills.jpg", "nothing"],
                "kind": ["vtt", "csv", "mid", "lrc", "srt", "otio", "edl", "midi"],
            }  # fmt: skip


@pytest.fixture(scope="module")
def target(tmp_path_factory: pytest.TempPathFactory, prepared: Path, footage: Path) -> Any:
    data = copied(prepared, tmp_path_factory.mktemp("answers") / "data")
    studio = open_studio(data, footage, Idle)
    with TestClient(create_app(studio), base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        yield Target(client, studio.workspace.open("small"))


def _text(value: Any) -> str:
    return "".join(c for c in str(value) if not "\ud800" <= c <= "\udfff")


@pytest.mark.parametrize(("method", "path", "what"), ROUTES, ids=lambda v: v if isinstance(v, str) else "")
@tried(10)
@given(data=st.data())
def test_every_route_answers_in_words_soon_and_a_refusal_changes_nothing(
    target: Target, data: st.DataObject, method: str, path: str, what: dict[str, Any]
) -> None:
    address, query = path, {}
    for parameter in what.get("parameters", []):
        name = parameter["name"]
        known = target.known.get(name, list(range(1, 6)))
        wild = st.one_of(wild_words, wild_numbers)
        if parameter["in"] == "path":
            # Deleting the project itself is tried elsewhere.
            gone = (method, path) == ("DELETE", "/api/v1/projects/{project_id}")
            mostly = (
                wild.filter(lambda v: v != "small")
                if gone
                else st.one_of(st.sampled_from(known), st.sampled_from(known), wild)
            )
            if name == "project_id" and not gone:
                mostly = st.one_of(*[st.just("small")] * 6, wild_words)
            chosen = _text(data.draw(mostly, label=name)) or "x"
            address = address.replace(
                f"{{{name}}}", quote(chosen, safe="") if chosen not in (".", "..") else "%2e"
            )
        elif data.draw(st.booleans()):
            query[name] = _text(data.draw(st.one_of(values(parameter["schema"]), wild), label=name))
    more: dict[str, Any] = {}
    content = what.get("requestBody", {}).get("content", {}).get("application/json")
    if content:
        body = data.draw(
            st.one_of(values(content["schema"]), values(content["schema"]), anything), label="body"
        )
        import json

        more = {"content": json.dumps(body).encode(), "headers": {"content-type": "application/json"}}
    elif method in ("POST", "PUT", "PATCH"):
        more = {"content": data.draw(st.binary(max_size=60))}
    database = target.project.database
    before = everything(database)
    begin = time.monotonic()
    answer = target.client.request(method, address, params=query, **more)
    assert time.monotonic() - begin < SLOWEST_S
    assert str(answer.status_code) in what["responses"], (
        f"{answer.status_code} is not declared: {answer.text[:300]}"
    )
    if answer.status_code >= 400:
        assert answer.json()["detail"]
        assert everything(database) == before
    elif method == "GET":
        assert everything(database) == before


def test_after_all_that_the_project_is_sound(target: Target) -> None:
    sound(target.project)
    assert target.client.get("/api/v1/projects/small").status_code == 200
    edit = target.client.get("/api/v1/projects/small/edits/1")
    # One of the many undos may have taken the song back: then there is nothing to cut, and that is what is said.
    assert edit.status_code == (200 if target.project.about.song else 409), edit.text


RAW = [
    b"/api/v1/projects/%00", b"/api/v1/projects/%ff%fe", b"/api/v1/folders?path=%00", b"/api/v1/folders?path=~nobody", b"/api/v1/folders?path=%ff",
    b"/api/v1/projects/small/samples/x?start_s=nan&seconds=1", b"/api/v1/projects/small/samples/x?start_s=1e400&seconds=1",
    b"/api/v1/projects/" + b"a" * 300, b"/api/v1/projects/" + b"a" * 5000, b"/api/nothing/at/all", b"/api", b"/api/", b"/api/v1/projects/small/derived/x/..%2f..%2fproject.db",
    b"/assets/..%2f..%2f..%2fetc%2fpasswd", b"/api/v1/projects/small/handoff/renders/99999999999999999999999",
]  # fmt: skip


@pytest.mark.parametrize("address", RAW, ids=lambda a: a[:60].decode())
def test_addresses_that_are_none_are_answered_in_json(target: Target, address: bytes) -> None:
    answer = target.client.get(address.decode())
    assert 400 <= answer.status_code < 500
    if address.startswith(b"/api/"):
        assert answer.json()["detail"]
    assert "root:" not in answer.text


def test_folders_with_links_that_lead_nowhere_are_listed(client: TestClient, footage: Path) -> None:
    folder = footage / "links"
    folder.mkdir(exist_ok=True)
    for name, to in (
        ("loop.mp4", "loop.mp4"),
        ("broken.mp4", "nothing.mp4"),
        ("out.mp4", "/etc/passwd"),
        ("self", "."),
    ):
        (folder / name).unlink(missing_ok=True)
        (folder / name).symlink_to(to)
    (folder / "take.mp4").write_bytes(b"x")
    with open(bytes(folder) + b"/\xff\xfe.mp4", "wb"):
        pass
    answer = client.get("/api/v1/folders", params={"path": str(folder)})
    assert answer.status_code == 200
    names = [e["name"] for e in answer.json()["entries"]]
    assert "take.mp4" in names
    assert "loop.mp4" not in names
    assert "broken.mp4" not in names
    assert client.get("/api/v1/folders", params={"path": str(folder / "loop.mp4")}).status_code < 500
    for name in ("out.mp4", "loop.mp4", "broken.mp4"):
        answer = client.post(
            "/api/v1/projects/small/media", json={"paths": [str(folder / name)], "kind": "song"}
        )
        assert 400 <= answer.status_code < 500


@pytest.mark.parametrize(
    "name",
    [
        "x" * 255,
        "é" * 127,
        "a" * 250 + ".wav",
        ".",
        "..",
        "a/b.wav",
        "con\\aux",
        "\u202egpj.wav",
        string.punctuation,
    ],
)
def test_an_upload_that_is_refused_leaves_no_file(target: Target, name: str) -> None:
    folder = target.project.folder / "media"
    before = sorted(folder.iterdir()) if folder.exists() else []
    answer = target.client.post(
        "/api/v1/projects/small/uploads", params={"name": name, "kind": "song"}, content=b"not a song"
    )
    assert answer.status_code == 422, answer.text
    assert (sorted(folder.iterdir()) if folder.exists() else []) == before


def test_uploads_of_one_name_at_once_keep_both(target: Target) -> None:
    from concurrent.futures import ThreadPoolExecutor

    def send(n: int) -> list[str]:
        answer = target.client.post(
            "/api/v1/projects/small/uploads", params={"name": "same.mp4", "kind": "broll"}, content=b"%d" % n
        )
        return list(answer.json())

    with ThreadPoolExecutor(6) as pool:
        ids = [i for made in pool.map(send, range(6)) for i in made]
    rows = [target.project.database.one(Media, id=i) for i in ids]
    assert sorted(target.project.path_of(r).read_bytes() for r in rows) == [b"%d" % n for n in range(6)]
