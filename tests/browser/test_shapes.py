"""Page and film show the same picture in films of every shape, with several treatments on one shot."""

import base64
import io
import shutil
import sqlite3
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from av.video.reformatter import Colorspace
from numpy.typing import NDArray
from PIL import Image

from tests.abuse.support import LONGER
from tests.browser.chromium import Driver
from tests.browser.conftest import TREATED, Server, serving, until
from tests.copies import copied
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import AngleSource, CardSource, ClipSource, Edit, Item, Lane, checked
from zembi.core.footage.fit import Fit
from zembi.core.titles.presets import PRESETS, worded
from zembi.core.treatments import model as m
from zembi.core.treatments.music import Length, On
from zembi.media.render import film_pictures
from zembi.service.handoff.films import film_of
from zembi.service.media.library import fit as fit_file
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.workspace import Project, open_folder
from zembi.store.edits import load_edit, save_edit
from zembi.store.entities import Media

pytestmark = pytest.mark.browser

#: Width and height of each film, and of the page's picture of it.
SHAPES = {
    "16x9": ((1920, 1080), (480, 270)), "9x16": ((1080, 1920), (270, 480)), "1x1": ((1080, 1080), (360, 360)),
    "4x5": ((864, 1080), (320, 400)), "239x100": ((2048, 858), (568, 238)),
}  # fmt: skip
SHOT = 48
#: Pictures are compared by blocks of so many pixels, by the mean difference of a frame, and of all of them, in 255ths:
#: two codecs and two ways to scale lie between, and what is enlarged has less detail in its proxy.
BLOCK, ONE, ALL = 8, 5.0, 2.0

#: What is done to pictures; what a shot gets is drawn from these.
OF_PICTURES: list[Any] = [
    m.Pulse("scale", 0.2, On("beat")), m.Pulse("shift", 0.05, On("beat")), m.Pulse("turn", 4.0, On("beat")),
    m.Pulse("lightness", 0.4, On("beat")), m.StepUp("scale", 0.15, On("beat")), m.Shake(0.02, 1.0), m.PunchIn(1.6, 0.3, 0.4),
    m.Drift(1.0, 0.5, 0.5, 1.4, 0.4, 0.6), m.Mirror(), m.Turn(8.0), m.Turn(-12.0), m.Bars(2.39), m.Bars(1.0), m.Vignette(0.7),
    m.Blur(0.01, "all"), m.Glow(0.6), m.Fade("out", Length(1, "bars"), "#c04020"), m.Fade("in", Length(1, "bars"), beneath=True),
    m.Flash(On("beat"), "#ffffff"),
]  # fmt: skip
OF_TIME: list[Any] = [
    m.Speed(0.5),
    m.Reverse(),
    m.Ramp((2.0, 0.5)),
    m.Freeze(on=On("beat"), over=Length(0.5)),
]
TRANSITIONS: list[Any] = [
    m.Dissolve(Length(16, "frames")), m.Slide("left", Length(16, "frames")), m.ZoomThrough(2.0, Length(16, "frames")),
    m.Whip("down", Length(16, "frames")), m.Flicker(Length(16, "frames")),
]  # fmt: skip
FITS = [
    Fit(),
    Fit("fill", 0.2, 0.7),
    Fit("own", 0.4, 0.5, 0.7),
    Fit("bars", turn=90),
    Fit("own", 0.5, 0.5, 1.3, turn=270),
]

#: Draws each frame in turn and gives its picture; a jump shows stills until the exact frames are there.
DRAWN = """
const [frames, rate, done] = [arguments[0], arguments[1], arguments[2]];
const canvas = document.getElementById("programme");
const turn = () => new Promise(requestAnimationFrame);
(async () => {
  const out = [];
  for (const frame of frames) {
    window.zembi.clock.seek((frame + 0.2) / rate);
    for (let n = 0; n < 400; n++) {
      await turn();
      const { frame: at, sourceFrame, media } = canvas.dataset;
      if (at === String(frame) && (media === "" || sourceFrame !== "-1")) break;
    }
    out.push([canvas.dataset.frame, canvas.toDataURL("image/png")]);
  }
  done(out);
})();
"""


def several(project: Project, seed: int, count: int) -> Edit:
    """An edit in which each shot has up to four treatments, some with one of time, with transitions between shots."""
    rng = np.random.default_rng(seed)
    snapshot = snapshot_of(project)
    broll = [r for r in project.database.all(Media) if r.kind == "broll" and r.seconds > 6]
    clips = [r.id for r in sorted(broll, key=lambda r: r.name)]
    for n, clip in enumerate(clips):
        fit_file(project, clip, FITS[n % len(FITS)])
    angles = [a.id for a in snapshot.angles if a.number in (1, 2)]
    shots = []
    for n in range(count):
        chosen = [OF_PICTURES[k] for k in rng.permutation(len(OF_PICTURES))[: rng.integers(1, 5)]]
        source: Any = (
            AngleSource(angles[n % 2]) if n % 3 == 0 else ClipSource(clips[n % len(clips)], 0.5, 0.5)
        )
        if isinstance(source, ClipSource) and n % 2:
            chosen.insert(0, OF_TIME[n % len(OF_TIME)])
        if n % 4 == 2:
            chosen.append(TRANSITIONS[n // 4 % len(TRANSITIONS)])
        shots.append(Item(SHOT * n, source, treatments=tuple(chosen)))
    small = m.PunchIn(1.0), m.Turn(12.0), m.Fade("in", Length(1, "beats"), beneath=True)
    over = Item(SHOT * 2 + 10, ClipSource(clips[0], 1.0), SHOT * 3 - 6, treatments=small)
    edit = new_edit(snapshot.length, (*shots, Item(SHOT * count, AngleSource(angles[0]))), (over,))
    return checked(replace(edit, lanes=(*edit.lanes, Lane(TITLES, tuple(titles(rng, count)), TITLES.title))))


def titles(rng: np.random.Generator, count: int) -> list[Item]:
    """A title on most shots, in another style, place and way of coming each."""
    ways: list[tuple[m.Treatment, ...]] = [
        (), (m.Fade("in", Length(12, "frames"), beneath=True),), (m.FlickerOn("in", "1001101"),), (m.PunchIn(1.2),),
        (m.Shake(0.01, 2.0, Length(4, "frames")),), (m.Drift(1.0, 0.5, 0.5, 1.3, 0.4, 0.5),), (m.Blur(0.01),),
    ]  # fmt: skip
    styles = [replace(s, turn=t) for s, t in zip(PRESETS.values(), (0, 0, 5, -4, 0, 0, 90), strict=True)]
    return [
        Item(
            SHOT * n + 4,
            CardSource(worded(styles[int(rng.integers(len(styles)))], "Lamp Room", "Orrin Vale")),
            SHOT * n + SHOT - 2,
            treatments=ways[n % len(ways)],
        )
        for n in range(count)
        if n % 4
    ]


@pytest.fixture(scope="module")
def shaped(server: Server, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server with the demo project in every shape."""
    data = tmp_path_factory.mktemp("shapes") / "data"
    copied(server.data, data)
    for shape, ((width, height), _) in SHAPES.items():
        folder = copied(data / "projects" / "lamp-room", data / "projects" / shape)
        for left in folder.glob("project.db*"):
            left.unlink()
        shutil.copy(folder / TREATED, folder / "project.db")
        with sqlite3.connect(folder / "project.db") as connection:
            connection.execute("UPDATE project SET width = ?, height = ?, name = ?", (width, height, shape))
        connection.close()
    with serving(data) as own:
        yield own


def seen_small(picture: Image.Image) -> NDArray[np.int16]:
    """A picture by its blocks of pixels: where everything lies and its colour, without what proxies lose of detail."""
    return np.asarray(picture.convert("RGB").reduce(BLOCK)).astype(np.int16)


def of_the_film(project: Project, frames: list[int], size: tuple[int, int]) -> list[NDArray[np.int16]]:
    """The film's pictures, scaled down to the size of the page's."""
    out = []
    for frame in frames:
        (made,) = film_pictures(film_of(project, 1, frame, frame + 1))
        # A frame that was put together does not say by which colours it is coded; the film does.
        rgb = made.reformat(format="rgb24", src_colorspace=Colorspace.ITU709).to_ndarray()
        out.append(seen_small(Image.fromarray(rgb).resize(size, Image.Resampling.BOX)))
    return out


@pytest.mark.parametrize("shape", SHAPES)
def test_the_page_shows_the_film_in_its_shape(page: Driver, shaped: Server, shape: str) -> None:
    size = SHAPES[shape][1]
    project = open_folder(Path(shaped.data / "projects" / shape))
    with project.database.reading() as connection:
        before = load_edit(connection, 1)
    count = min(30, 8 * LONGER)
    edit = several(project, list(SHAPES).index(shape), count)
    with project.database.changing("Several on each") as change:
        save_edit(change, 1, edit, before)
    rng = np.random.default_rng(len(shape))
    frames = sorted(
        {SHOT * n + int(k) for n in range(count) for k in (rng.integers(0, SHOT), rng.integers(0, 8))}
    )
    page.get(f"{shaped.url}/p/{shape}/sheet")
    until(lambda: page.execute_script("return window.zembi && document.getElementById('programme')"), shape)
    until(lambda: page.execute_script("return document.getElementById('programme').dataset.frame"), "drawn")
    page.set_script_timeout(120)
    drawn = page.execute_async_script(DRAWN, frames, 24)
    wanted = of_the_film(project, frames, size)
    apart = []
    for (at, png), frame, film in zip(drawn, frames, wanted, strict=True):
        picture = Image.open(io.BytesIO(base64.b64decode(png.split(",")[1]))).convert("RGB")
        assert (picture.size, at) == (size, str(frame))
        apart.append(float(np.abs(seen_small(picture) - film).mean()))
    worst = [
        (f, round(a, 2), [t.kind for t in edit.shots[f // SHOT].treatments])
        for f, a in zip(frames, apart, strict=True)
        if a >= ONE
    ]
    assert worst == []
    print(f"{shape}: mean {np.mean(apart):.2f}, most {max(apart):.2f}")
    assert np.mean(apart) < ALL
    project.database.close()


@pytest.mark.parametrize("shape", ["9x16", "239x100"])
def test_every_picture_of_the_programme_has_the_films_shape(page: Driver, shaped: Server, shape: str) -> None:
    """Programme, wall, live layout, second window, passes compared, the film so far, and the stills of shots."""
    (width, height), _ = SHAPES[shape]

    def ratios(css: str) -> list[float]:
        return list(page.execute_script(
            "return [...document.querySelectorAll(arguments[0])].map((c) => "
            "c.tagName === 'CANVAS' ? c.width / c.height : c.clientWidth / c.clientHeight)", css,
        ))  # fmt: skip

    def all_shaped(css: str, least: int = 1) -> None:
        found = until(lambda: len(r := ratios(css)) >= least and r, css)
        # Sides are whole and even; those of a small still are a few points.
        off = 0.02 if "canvas" in css else 0.12
        assert all(abs(r / (width / height) - 1) < off for r in found), (css, found)

    url = f"{shaped.url}/p/{shape}"
    page.get(f"{url}/sheet")
    all_shaped("canvas#programme")
    all_shaped("[data-testid^=wall-] canvas", 2)
    all_shaped("[data-testid=shot] .still", 3)
    until(lambda: page.execute_script("return !!window.zembi"), "the page")
    page.execute_script(
        "[...document.querySelectorAll('.ant-segmented-item-label')].find((e) => e.textContent === 'live').click()"
    )
    all_shaped("[data-testid=live] canvas#programme")
    all_shaped("[data-testid=live] [data-testid^=wall-] canvas", 2)
    page.get(f"{url}/screen")
    all_shaped("canvas#programme")
    page.get(f"{url}/handoff")
    all_shaped("canvas#film")
    page.get(f"{url}/coverage")
    until(lambda: page.execute_script(
        "const b = [...document.querySelectorAll('button')].find((e) => e.textContent.startsWith('Compare passes'));"
        "if (!b || b.disabled) return false; b.click(); return true"
    ), "passes are compared")  # fmt: skip
    all_shaped("canvas[id^=alternate-picture]")
    page.get("about:blank")
