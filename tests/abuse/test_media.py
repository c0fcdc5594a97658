"""Media of every kind: each ends as ready, or as refused in a sentence that names it; nothing outside is read."""

import json
import os
import shutil
import wave
import zipfile
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from tests.abuse.support import everything, tried
from tests.conftest import add, open_studio
from tests.media.films import counts, film
from tests.spans import of, span
from zembi.api.app import create_app
from zembi.core.errors import UnreadableMedia
from zembi.media import sound as sound_module
from zembi.media.derive import derive_picture, write_wave
from zembi.media.probe import probe
from zembi.media.render import Film, render
from zembi.media.size import fitted_inside
from zembi.media.sound import read_sound
from zembi.service.application.studio import Studio
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.entities import Media

RATE = 48_000
URL = "/api/v1/projects/own"


@pytest.fixture
def own(tmp_path: Path) -> Iterator[TestClient]:
    """An empty project, and a folder of files that it may read."""
    (tmp_path / "card").mkdir()
    with TestClient(
        create_app(open_studio(tmp_path / "data", tmp_path / "card")), base_url="http://127.0.0.1"
    ) as client:
        made = client.post(
            "/api/v1/projects", json={"name": "Own", "rate": "25", "width": 320, "height": 180}
        )
        assert made.status_code == 201
        yield client


@pytest.fixture
def card(tmp_path: Path) -> Path:
    return tmp_path / "card"


def project_of(client: TestClient, name: str = "own") -> Project:
    studio: Studio = client.app.state.studio  # type: ignore[attr-defined]
    return studio.workspace.open(name)


def clicks(path: Path, seconds: float, channels: int = 1, level: float = 0.5, rate: int = RATE) -> Path:
    """A WAV of a click every half second; silence where the level is 0."""
    count = round(seconds * rate)
    mono = np.zeros(count, np.float32)
    for at in range(0, count, rate // 2):
        mono[at : at + 200] = level * np.sin(np.arange(min(200, count - at)) / 3)
    with wave.open(str(path), "wb") as out:
        out.setnchannels(channels)
        out.setsampwidth(2)
        out.setframerate(rate)
        out.writeframes((np.repeat(mono[:, None], channels, axis=1) * 32767).astype("<i2").tobytes())
    return path


def state_of(client: TestClient, name: str) -> dict[str, Any]:
    return next(m for m in client.get(URL).json()["media"] if m["file"] == name)


@pytest.mark.parametrize("size", [(8192, 16), (16, 4096), (16, 16), (4096, 18)])
def test_a_picture_of_any_shape_is_prepared_or_refused_by_name(
    own: TestClient, card: Path, size: tuple[int, int]
) -> None:
    film(card / "odd.mp4", Fraction(25), 6, size=(max(size[0], 320), max(size[1], 180)))
    with av.open(str(card / "odd.mp4"), "w") as out:
        stream = out.add_stream("libx264", rate=25)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        for n in range(6):
            frame = av.VideoFrame(*size, "yuv420p")
            frame.pts = n
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    add(own, URL, card, "broll", "odd.mp4")
    found = state_of(own, "odd.mp4")
    assert (found["state"], found["prepared"]) == ("ready", True), found["error"]
    index = own.get(f"{URL}/media/{found['id']}/wall.json").json()
    assert len(index["sizes"]) == 6
    target = card / "out.mp4"
    render(Film(of([span(0, 6, "m")]), {"m": card / "odd.mp4"}, None, Fraction(25), 320, 180, 0, 6), target)
    assert probe(target).frames == 6


@tried(200)
@given(*[st.integers(1, 9000)] * 2, *[st.integers(8, 300)] * 2)
def test_a_shape_inside_another_is_even_and_fits(width: int, height: int, w: int, h: int) -> None:
    inner = fitted_inside(width, height, 2 * w, 2 * h)
    assert all(side % 2 == 0 and side >= 2 for side in inner)
    assert inner[0] <= 2 * w
    assert inner[1] <= 2 * h
    assert inner[0] >= 2 * w - 2 or inner[1] >= 2 * h - 2


@pytest.mark.parametrize("seconds", [0.001, 0.1, 0.24, 0.99, 1.99])
def test_a_song_too_short_to_be_one_is_refused_and_the_project_stays_open(
    own: TestClient, card: Path, seconds: float
) -> None:
    clicks(card / "short.wav", seconds)
    answer = own.post(f"{URL}/media", json={"paths": [str(card / "short.wav")], "kind": "song"})
    assert answer.status_code == 422
    assert "short.wav" in answer.json()["detail"]
    assert own.get(URL).json()["media"] == []


@pytest.mark.parametrize(("seconds", "level"), [(2.0, 0.5), (2.3, 0.0), (3.0, 0.5), (6.0, 0.0), (12.0, 0.0)])
def test_a_short_or_silent_song_can_be_worked_with_and_handed_off(
    own: TestClient, card: Path, seconds: float, level: float
) -> None:
    clicks(card / "song.wav", seconds, level=level)
    add(own, URL, card, "song", "song.wav")
    found = state_of(own, "song.wav")
    assert (found["state"], found["prepared"]) == ("ready", True), found["error"]
    film(card / "rope.mp4", Fraction(25), 30)
    (clip,) = add(own, URL, card, "broll", "rope.mp4")
    assert own.get(f"{URL}/edits/1").status_code == 200
    assert own.post(f"{URL}/edits/1", json={"op": "lay", "item": 4, "media": clip}).status_code in (200, 409)
    for path in (
        "song/detail",
        "edits/1/export/otio",
        "edits/1/export/edl",
        "song/marks.vtt",
        "song/marks.csv",
        "edits/1/export/vtt",
    ):
        answer = own.get(f"{URL}/{path}")
        assert answer.status_code == 200, f"{path}: {answer.text}"
    for path in ("song/marks.mid", "edits/1/export/midi", "edits/1/export/csv"):
        answer = own.get(f"{URL}/{path}")
        assert answer.status_code in (200, 409), f"{path}: {answer.text}"
    for action in ("halve", "double", "as found"):
        assert own.patch(f"{URL}/song/grid", json={"action": action}).status_code in (200, 409)
    assert (
        own.patch(f"{URL}/song/grid", json={"action": "tempo", "bpm": 120, "song_s": 0.1}).status_code == 200
    )
    assert own.get(URL).json()["song"]["bpm"] == pytest.approx(120)
    assert own.get(f"{URL}/edits/1/export/midi").status_code == 200


def test_sound_that_would_fill_the_memory_is_refused(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    path = clicks(tmp_path / "long.wav", 5.0, channels=2)
    monkeypatch.setattr(sound_module, "MOST_SOUND_BYTES", 4 * 2 * RATE * 4)
    with pytest.raises(UnreadableMedia, match=r"long\.wav is too long"):
        read_sound(path)
    monkeypatch.setattr(sound_module, "MOST_SOUND_BYTES", 4 * 2 * RATE * 6)
    assert read_sound(path)[0].shape == (5 * RATE, 2)


def test_a_song_of_an_hour_is_refused_before_anything_is_read(own: TestClient, card: Path) -> None:
    with wave.open(str(card / "long.wav"), "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(1)
        out.setframerate(8000)
        out.writeframes(bytes(8000 * 3600))
    answer = own.post(f"{URL}/media", json={"paths": [str(card / "long.wav")], "kind": "song"})
    assert (answer.status_code, "minutes" in answer.json()["detail"]) == (422, True)


LISTS = {
    "list.m3u8": "#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\n{}\n#EXT-X-ENDLIST\n", "list.mp4": "ffconcat version 1.0\nfile '{}'\n",
    "concat.mp4": "#EXTM3U\n#EXTINF:5,\n{}\n", "list.pls": "[playlist]\nFile1={}\n", "list.sdp": "v=0\nc=IN IP4 127.0.0.1\nm=audio 5004 RTP/AVP 0\n",
    "film.mpd": "<?xml version='1.0'?><MPD><Period><BaseURL>{}</BaseURL></Period></MPD>", "list.wav": "ffconcat version 1.0\nfile {}\n",
}  # fmt: skip


@pytest.mark.parametrize("name", LISTS)
def test_lists_that_name_other_files_are_not_followed(
    own: TestClient, card: Path, tmp_path: Path, name: str
) -> None:
    secret = clicks(tmp_path / "secret.wav", 3.0)
    (card / name).write_text(LISTS[name].format(secret))
    with pytest.raises(UnreadableMedia, match=name.replace(".", r"\.")):
        probe(card / name)
    answer = own.post(f"{URL}/media", json={"paths": [str(card / name)], "kind": "song"})
    assert answer.status_code == 422


@pytest.mark.parametrize("make", [
    lambda p: os.mkfifo(p), lambda p: p.mkdir(), lambda p: p.write_bytes(b""), lambda p: p.symlink_to("/dev/zero"), lambda p: p.symlink_to(p),
    lambda p: p.write_bytes(os.urandom(5000)), lambda p: p.write_bytes(b"RIFF\xff\xff\xff\xffWAVEfmt \xff\xff\xff\xff"), lambda p: p.symlink_to("/nowhere"),
])  # fmt: skip
def test_what_is_no_media_file_is_refused_at_once(
    own: TestClient, card: Path, make: Callable[[Path], object]
) -> None:
    make(card / "x.mp4")
    with pytest.raises(UnreadableMedia, match=r"x\.mp4"):
        probe(card / "x.mp4")
    answer = own.post(f"{URL}/media", json={"paths": [str(card / "x.mp4")], "kind": "take"})
    assert answer.status_code in (201, 400, 403)
    if answer.status_code == 201:
        found = state_of(own, "x.mp4")
        assert found["state"] == "failed"
        assert "x.mp4" in found["error"]


@tried(25)
@given(cut=st.floats(0.02, 0.98), at=st.floats(0, 1), noise=st.binary(min_size=1, max_size=200))
def test_a_damaged_film_is_prepared_or_refused_in_words(
    tmp_path_factory: pytest.TempPathFactory, cut: float, at: float, noise: bytes
) -> None:
    folder = tmp_path_factory.mktemp("damaged")
    whole = film(folder / "whole.mkv", Fraction(25), 30).read_bytes()
    place = int(at * (len(whole) - len(noise)))
    damaged = whole[:place] + noise + whole[place + len(noise) :]
    (folder / "x.mkv").write_bytes(damaged[: int(cut * len(whole)) + 100])
    try:
        probe(folder / "x.mkv", need=("picture",))
        derive_picture(folder / "x.mkv", folder / "cache", "c", lambda _s, _w: None)
    except UnreadableMedia as fault:
        words = fault.message
        assert "x.mkv" in words
    assert not list(folder.glob("cache/*.making-*"))


def test_a_file_replaced_by_another_is_named_on_its_card_in_the_checks_and_before_a_render(
    client: TestClient, footage: Path, tmp_path: Path
) -> None:
    url = "/api/v1/projects/small"
    clip = next(m for m in client.get(url).json()["media"] if m["name"] == "gulls")
    laid = client.post(f"{url}/edits/1", json={"op": "lay over", "working_s": 4.0, "media": clip["id"]})
    assert laid.status_code == 200, laid.text
    kept = tmp_path / "gulls.mp4"
    shutil.copy2(footage / "gulls.mp4", kept)
    try:
        shutil.copy(footage / "rope.mp4", footage / "gulls.mp4")
        found = next(m for m in client.get(url).json()["media"] if m["id"] == clip["id"])
        assert (found["condition"], "replaced" in found["trouble"]) == ("changed", True)
        assert any("replaced" in f["text"] for f in client.get(f"{url}/edits/1").json()["findings"])
        answer = client.post(f"{url}/edits/1/renders", json={})
        assert (answer.status_code, "gulls.mp4 was replaced" in answer.json()["detail"]) == (409, True)
        # The same size and time do not hide it from a render.
        same = kept.read_bytes()
        (footage / "gulls.mp4").write_bytes(same[:-4000] + b"x" * 4000)
        os.utime(footage / "gulls.mp4", ns=(kept.stat().st_atime_ns, kept.stat().st_mtime_ns))
        assert client.post(f"{url}/edits/1/renders", json={}).status_code == 409
        # Touched only: the same content is the same file.
        (footage / "gulls.mp4").write_bytes(same)
        now = next(m for m in client.get(url).json()["media"] if m["id"] == clip["id"])
        assert now["condition"] == "ok"
    finally:
        shutil.copy2(kept, footage / "gulls.mp4")


def test_a_file_swapped_for_a_link_is_not_read(
    client: TestClient, footage: Path, project: Project, tmp_path: Path
) -> None:
    url = "/api/v1/projects/small"
    clip = next(m for m in client.get(url).json()["media"] if m["name"] == "rope")
    outside = tmp_path / "outside.mp4"
    shutil.copy(footage / "gulls.mp4", outside)
    shutil.move(footage / "rope.mp4", footage / "kept-rope.mp4")
    try:
        (footage / "rope.mp4").symlink_to(outside)
        found = next(m for m in client.get(url).json()["media"] if m["id"] == clip["id"])
        assert (found["condition"], "outside the allowed" in found["trouble"]) == ("unreadable", True)
        client.post(f"{url}/media/{clip['id']}/preparations")
        assert "outside the allowed" in project.database.one(Media, id=clip["id"]).error
        laid = client.post(f"{url}/edits/1", json={"op": "lay over", "working_s": 4.0, "media": clip["id"]})
        assert laid.status_code == 200, laid.text
        assert client.post(f"{url}/edits/1/renders", json={}).status_code == 409
    finally:
        (footage / "rope.mp4").unlink()
        shutil.move(footage / "kept-rope.mp4", footage / "rope.mp4")


def test_a_folder_named_in_a_copied_project_is_not_read(
    client: TestClient, project: Project, tmp_path: Path
) -> None:
    outside = tmp_path / "elsewhere"
    outside.mkdir()
    film(outside / "secret.mp4", Fraction(24), 24)
    clip = project.database.all(Media, kind="broll")[0].id
    with project.database.writing() as connection:
        moved = {"root": str(outside), "path": "secret.mp4", "content": ""}
        connection.execute(tables.media.update().where(tables.media.c.id == clip).values(**moved))
    client.post(f"/api/v1/projects/small/media/{clip}/preparations")
    row = project.database.one(Media, id=clip)
    assert (row.state, "outside the allowed media folders" in row.error) == ("failed", True)


@pytest.mark.parametrize(
    "fault",
    [
        PermissionError(13, "Permission denied"),
        OSError(40, "Too many levels of symbolic links"),
        OSError(36, "File name too long"),
    ],
)
def test_a_folder_that_cannot_be_reached_leaves_the_project_open(
    client: TestClient, footage: Path, monkeypatch: pytest.MonkeyPatch, fault: OSError
) -> None:
    real = Path.resolve

    def resolve(self: Path, strict: bool = False) -> Path:
        if self.name == "rope.mp4":
            raise fault
        return real(self, strict)

    monkeypatch.setattr(Path, "resolve", resolve)
    answer = client.get("/api/v1/projects/small")
    assert answer.status_code == 200
    rope = next(m for m in answer.json()["media"] if m["file"] == "rope.mp4")
    assert (rope["condition"], "rope.mp4 cannot be reached" in rope["trouble"]) == ("unreadable", True)
    assert client.get("/api/v1/projects/small/edits/1").status_code == 200


def test_two_takes_of_one_name_both_come_out_of_the_line_up(
    client: TestClient, footage: Path, project: Project
) -> None:
    other = footage / "card b"
    other.mkdir(exist_ok=True)
    shutil.copy(footage / "GAL_01.mp4", other / "GAL_01.mp4")
    add(client, "/api/v1/projects/small", other, "take", "GAL_01.mp4")
    job = client.post("/api/v1/projects/small/lineup/exports").json()["job"]
    made = client.get(f"/api/v1/projects/small/lineup/exports/{job}")
    (project.folder / "x.zip").write_bytes(made.content)
    with zipfile.ZipFile(project.folder / "x.zip") as archive:
        sounds = [Path(n).name for n in archive.namelist() if n.endswith(".wav")]
        passes = json.loads(archive.read(next(n for n in archive.namelist() if n.endswith("passes.json"))))[
            "passes"
        ]
    assert {"GAL_01.wav", "GAL_01-2.wav"} <= set(sounds)
    assert len({p["file"] for p in passes if p["take"] == "GAL_01"}) == 2


def test_refused_files_leave_the_project_as_it_was(own: TestClient, card: Path) -> None:
    before = everything(project_of(own).database)
    (card / "words.wav").write_text("words")
    for body in (
        {"paths": [str(card / "words.wav")], "kind": "song"},
        {"paths": ["/etc/passwd"], "kind": "take"},
        {"paths": ["\0"], "kind": "take"},
    ):
        assert own.post(f"{URL}/media", json=body).status_code in (400, 403, 422)
    assert everything(project_of(own).database) == before


def test_the_counts_of_a_narrow_film_are_still_read(tmp_path: Path) -> None:
    """Fitting a picture inside another is the same for ordinary shapes as it always was."""
    film(tmp_path / "tall.mp4", Fraction(25), 4, size=(180, 320))
    render(
        Film(of([span(0, 4, "m")]), {"m": tmp_path / "tall.mp4"}, None, Fraction(25), 640, 360, 0, 4),
        tmp_path / "o.mp4",
    )
    assert probe(tmp_path / "o.mp4").frames == 4
    film(tmp_path / "wide.mp4", Fraction(25), 4)
    render(
        Film(of([span(0, 4, "m")]), {"m": tmp_path / "wide.mp4"}, None, Fraction(25), 640, 360, 0, 4),
        tmp_path / "w.mp4",
    )
    assert list(counts(tmp_path / "w.mp4")) == [0, 1, 2, 3]
    write_wave(tmp_path / "x.wav", np.zeros(RATE, np.float32), RATE)
    assert probe(tmp_path / "x.wav").duration_s == pytest.approx(1.0)
