"""Curves and layers that no operation makes yet: the page draws them as the film does."""

import base64
import io
import json
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image
from pydantic import TypeAdapter

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, until
from tests.browser.editor import Editor
from tests.looks import chain
from tests.spans import of
from zembi.core.picture.chain import PLAIN
from zembi.core.picture.curves import Curve, Key
from zembi.core.programme.model import Black, Picture, Programme, Span
from zembi.core.timemap import Piece, TimeMap, playback
from zembi.media.render import Film, film_pictures
from zembi.service.answers.spans import span_view
from zembi.service.answers.views import SpanView
from zembi.service.project.workspace import open_folder
from zembi.store.entities import Media

SIZE = (480, 270)
INSTEAD = """
const real = window.fetch, layers = %s;
window.fetch = async (request, options) => {
  const answer = await real(request, options);
  const url = typeof request === "string" ? request : request.url;
  if (!url.endsWith("/edits/1") || !answer.ok) return answer;
  const edit = await answer.json();
  edit.programme.layers = layers;
  return new Response(JSON.stringify(edit), { status: 200, headers: { "content-type": "application/json" } });
};
"""


def straight(*keys: tuple[float, float]) -> Curve:
    return Curve(tuple(Key(frame, value, "straight") for frame, value in keys))


def made(wide: str, close: str, clip: str) -> Programme:
    """A dissolve, a ramp, a picture in the picture that turns, a fade to black, a lift to white, and black over all."""
    base = [
        Span(0, 60, Picture(wide), playback(60, 3.0)),
        Span(48, 120, Picture(close), playback(72, 10.0), chain(opacity=straight((0, 0), (12, 1)))),
        Span(120, 168, Picture(wide), TimeMap((Piece(48, 8.0, 2.0, 0.0),)), chain(lightness=straight((0, 1), (48, 0)))),
        Span(168, 216, Picture(close), TimeMap((Piece(48, 14.0, -1.0, -1.0),)), chain(lightness=straight((0, 1), (40, 2)))),
    ]  # fmt: skip
    apart = chain(
        scale=straight((0, 0.5), (40, 0.8)), x=straight((0, -0.2), (40, 0.1)), y=straight((0, 0.1)),
        turn=Curve((Key(0, 0, "smooth"), Key(40, 30, "smooth"))), opacity=straight((0, 1), (20, 1), (40, 0.5)),
    )  # fmt: skip
    punched = chain(scale=Curve((Key(0, 1.4, "hold"), Key(12, 1.2, "hold"))), x=straight((0, 0.1)))
    over = [
        Span(70, 110, Picture(clip), playback(40, 0.5), apart),
        Span(125, 150, Picture(clip), playback(25, 1.0), punched),
        Span(200, 206, Black(), chain=chain(opacity=straight((0, 0.5)))),
    ]
    return of(base, over)


@pytest.fixture
def editor(page: Driver, server: Server) -> Editor:
    return Editor(page, server)


@pytest.fixture
def two(editor: Editor, server: Server) -> Iterator[tuple[Film, Film]]:
    """The made film, and the same without its curves; the page has the made one while this lasts."""
    project = open_folder(server.data / "projects" / "lamp-room")
    rows = {m.name: m for m in project.database.all(Media)}
    names = [rows[n].id for n in ("GAL_01", "LAMP_01", "Gulls over stern")]
    programme = made(*names)
    files = {m.id: project.file_of(m) for m in rows.values() if m.id in names}
    film = Film(programme, files, None, Fraction(24), *SIZE, 0, programme.length)
    plain = replace(
        film,
        programme=of(*[[replace(s, chain=PLAIN) for s in layer.spans] for layer in programme.layers]),
    )
    layers = TypeAdapter(list[list[SpanView]]).dump_json(
        [[span_view(s) for s in la.spans] for la in programme.layers]
    )
    added = editor.page.execute_cdp_cmd(
        "Page.addScriptToEvaluateOnNewDocument", {"source": INSTEAD % layers.decode()}
    )
    editor.go("sheet")
    yield film, plain
    editor.page.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", added)
    editor.go("sheet")


def pictures(film: Film) -> list[NDArray[np.int16]]:
    return [p.to_ndarray(format="rgb24").astype(np.int16) for p in film_pictures(film)]


def test_the_page_draws_every_curve_as_the_film_has_it(editor: Editor, two: tuple[Film, Film]) -> None:
    wanted, without = (pictures(f) for f in two)
    apart = []
    for frame in (
        10,
        47,
        48,
        53,
        59,
        65,
        70,
        80,
        95,
        109,
        118,
        121,
        126,
        140,
        149,
        155,
        160,
        167,
        170,
        190,
        201,
        210,
    ):
        editor.page.execute_script(f"window.zembi.clock.seek({(frame + 0.2) / 24})")
        until(lambda f=frame: editor.programme()["frame"] == str(f), f"frame {frame} is drawn")  # type: ignore[misc]
        best = 255.0
        for _ in range(40):
            # A far jump shows a still until the exact frame is there.
            drawn = Image.open(io.BytesIO(base64.b64decode(editor.programme()["png"].split(",")[1])))
            seen = np.asarray(drawn.convert("RGB")).astype(np.int16)
            best = float(np.abs(seen - wanted[frame]).mean())
            if best < 4 and editor.programme()["sourceFrame"] != "-1":
                break
        apart.append((frame, round(best, 2), round(float(np.abs(seen - without[frame]).mean()), 2)))
    assert [a for a in apart if a[1] >= 4] == [], json.dumps(apart)
    # What the curves do is far more than the codec's difference.
    changed = {53, 80, 95, 155, 160, 190, 201}
    assert [a for a in apart if a[0] in changed and a[2] < 8] == [], json.dumps(apart)
