"""Playing in the real page: frames of the programme that are drawn with nine angles beside it, pulses, dissolves, titles, colour.

The demo's takes are laid side by side over one passage, so that nine angles have picture there. Prints how many frames
of the programme were drawn of those that the song went through, beside the same passage of one plain shot with no wall; and how
long after a control of a grade was moved its picture is there.

Usage: python benchmarks/playing.py [--data FOLDER] [--only WORDS]   (a folder with the demo made; made anew without)
"""

import argparse
import shutil
import sys
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import delete, insert, update

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.browser.chromium import chromium
from tests.browser.conftest import serving, until
from tests.browser.editor import Editor
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.ranges import RANGES
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import AngleSource, Beneath, CardSource, Item, Lane, checked
from zembi.core.titles.card import Anchor, Card, CardLine
from zembi.core.treatments.model import Dissolve, Grade, Pulse, SpellOn
from zembi.core.treatments.music import Length, On
from zembi.demo.project import PROJECT_ID, make_demo
from zembi.service.media.library import grade
from zembi.service.project.workspace import Workspace
from zembi.store import tables
from zembi.store.edits import load_edit, save_edit
from zembi.store.entities import Media, Pass, Version

RATE = 24
#: The passage, in song time: as long as the shortest take that is laid there.
FIRST_S, LONG_S = 30.0, 13.5
#: Seconds that are played before frames are counted, and that they are.
WARM_S, PLAYED_S = 1.5, 9.5
NINE = 9


def side_by_side(folder: Path) -> list[int]:
    """Nine takes on nine angles, all over the passage; returns the angles."""
    project = Workspace(folder).open(PROJECT_ID)
    passes = {p.media: p for p in project.database.all(Pass) if p.take_end_s - p.take_start_s > LONG_S}
    kept = list(passes.values())[:NINE]
    assert len(kept) == NINE, "too few takes"
    with project.database.writing() as connection:
        connection.execute(delete(tables.pass_).where(tables.pass_.c.id.not_in([p.id for p in kept])))
        known = [r.id for r in connection.execute(tables.angle.select().order_by(tables.angle.c.number))]
        for number in range(len(known) + 1, NINE + 1):
            row = {"number": number, "name": f"Extra {number}", "hue": number, "by_hand": True, "because": ""}
            known.append(connection.execute(insert(tables.angle).values(**row)).inserted_primary_key[0])
        for angle, p in zip(known, kept, strict=True):
            place = {"song_start_s": FIRST_S, "rate": 1.0, "status": "locked", "angle": angle}
            connection.execute(
                update(tables.pass_)
                .where(tables.pass_.c.id == p.id)
                .values(take_end_s=p.take_start_s + LONG_S, **place)
            )
    return known


def cut(folder: Path, angles: list[int], treated: bool, titled: bool = False, coloured: bool = False) -> None:
    """Write the edit: one plain shot, or a cut on each of so many frames, every other a dissolve, all of it pulsing.

    With ``titled`` three cards lie over it: one that stands, one that comes letter by letter, and one that pulses. With
    ``coloured`` each file has a grade of its own, and a look lies over all.
    """
    project = Workspace(folder).open(PROJECT_ID)
    for n, media in enumerate(project.database.all(Media, kind="take")):
        grade(project, media.id, {"exposure": 0.05 * (n + 1), "temperature": 0.1} if coloured else {})
    first, end = round(FIRST_S * RATE), round((FIRST_S + LONG_S) * RATE)
    length = project.database.one(Version, id=1).length
    edit = new_edit(length, (Item(0, AngleSource(angles[0])),))
    if treated:
        starts = list(range(first, end, 26))
        shots = [
            Item(at, AngleSource(angles[n % NINE]), treatments=(Dissolve(Length(1)),) if n % 2 else ())
            for n, at in enumerate(starts)
        ]
        pulse = Item(first, Beneath(), end, treatments=(Pulse("scale", 0.06, On("low", 0.0)),))
        edit = new_edit(length, (Item(0, AngleSource(angles[0])), *shots), ranges=(pulse,))
    if coloured:
        (lane,) = edit.of_kind(RANGES)
        look = Item(first, Beneath(), end, treatments=(Grade(contrast=1.1, saturation=0.8, strength=0.5),))
        edit = edit.with_items(lane, [*lane.items, look])
    if titled:
        cards = (
            (card("burn the fog away, the light is low", "bottom", 0.07), ()),
            (
                card("Orrin Vale and the Keepers", "top left", 0.06),
                (SpellOn(by="letter", every=Length(4, "frames")),),
            ),
            (card("LAMP ROOM", "middle", 0.2), (Pulse("scale", 0.06, On("beat")),)),
        )
        lanes = [
            Lane(TITLES, (Item(first, CardSource(words), end, treatments=treatments),), f"Titles {n}")
            for n, (words, treatments) in enumerate(cards)
        ]
        edit = checked(replace(edit, lanes=(*edit.lanes, *lanes)))
    with project.database.changing("to be played") as change:
        save_edit(change, 1, edit, load_edit(change.connection, 1))
    project.database.close()


def card(words: str, anchor: Anchor, size: float) -> Card:
    """A card of one line with an outline."""
    return Card((CardLine(words),), anchor=anchor, size=size, outline=0.03)


def choose_layout(editor: Editor, name: str, has: str) -> None:
    """Choose a layout of the Sheet, and wait for something that it alone has."""
    layouts = editor.find("layout").find_elements("css selector", ".ant-segmented-item")
    next(e for e in layouts if e.text.lower() == name).click()
    editor.find(has)


def to_passage(editor: Editor) -> None:
    """Go to the passage that is played, and wait for its picture."""
    frame = round((FIRST_S + 0.5) * RATE)
    editor.page.execute_script(f"window.zembi.clock.seek({(frame + 0.3) / RATE})")
    until(lambda: editor.programme()["frame"] == str(frame), "the first picture")


def played(editor: Editor, live: bool) -> tuple[int, int, int]:
    """Frames drawn, frames that went by, and pictures on the wall."""
    editor.go("sheet")
    if live:
        choose_layout(editor, "live", "live-end")
    to_passage(editor)
    said: dict[str, Any] = editor.page.execute_async_script(
        """
        const done = arguments[arguments.length - 1], [warm, seconds] = arguments;
        const canvas = document.getElementById("programme"), seen = new Set();
        const watch = new MutationObserver(() => seen.add(canvas.dataset.frame));
        window.zembi.clock.play();
        setTimeout(() => {
          const begin = window.zembi.clock.position();
          watch.observe(canvas, { attributes: true, attributeFilter: ["data-frame"] });
          setTimeout(() => {
            const end = window.zembi.clock.position();
            window.zembi.clock.pause();
            watch.disconnect();
            done({ drawn: seen.size, from: begin, to: end, wall: document.querySelectorAll("canvas").length - 1 });
          }, seconds * 1000);
        }, warm * 1000);
        """,
        WARM_S,
        PLAYED_S,
    )
    return int(said["drawn"]), round((said["to"] - said["from"]) * RATE), int(said["wall"])


def moved(editor: Editor) -> list[float]:
    """Milliseconds from each movement of a control that is dragged to its picture."""
    editor.go("sheet")
    choose_layout(editor, "colour", "control-exposure")
    to_passage(editor)
    spent: list[float] = editor.page.execute_async_script(
        """
        const done = arguments[arguments.length - 1];
        const word = document.querySelector("[data-testid=control-exposure]"), canvas = document.getElementById("programme");
        const { x, y } = word.getBoundingClientRect();
        const fire = (type, by) => word.dispatchEvent(new PointerEvent(
          type, { bubbles: true, pointerId: 1, clientX: x + 4 + by, clientY: y + 4, buttons: 1 }));
        const drawn = () => new Promise((told) => {
          const watch = new MutationObserver(() => { watch.disconnect(); told(); });
          watch.observe(canvas, { attributes: true, attributeFilter: ["data-clock"] });
        });
        const wait = (ms) => new Promise((told) => setTimeout(told, ms));
        (async () => {
          const spent = [];
          await wait(1500);
          fire("pointerdown", 0);
          for (let n = 1; n <= 30; n++) {
            const begin = performance.now(), seen = drawn();
            fire("pointermove", 3 * n + 3);
            await Promise.race([seen, wait(3000)]);
            spent.push(performance.now() - begin);
            await wait(120);
          }
          fire("pointerup", 93);
          done(spent);
        })();
        """
    )
    return spent


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--data", type=Path)
    parser.add_argument("--only", default="", help="words in the name of what is played")
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made) / "data"
        if asked.data:
            shutil.copytree(asked.data, folder)
        else:
            folder.mkdir()
            make_demo(folder)
        angles = side_by_side(folder)
        page = chromium(Path(made) / "profile")
        page.set_window_size(1280, 939)
        page.set_script_timeout(60)
        try:
            for name, live, treated, titled, coloured in (
                ("one plain shot, small wall", False, False, False, False),
                ("one plain shot, nine angles", True, False, False, False),
                ("one plain shot, three titles, nine angles", True, False, True, False),
                ("one shot, colour, nine angles of colour", True, False, False, True),
                ("cuts, dissolves and pulses, nine angles", True, True, False, False),
                ("all that and three titles, nine angles", True, True, True, False),
                ("all that but titles, and colour, nine angles", True, True, False, True),
            ):
                if asked.only not in name:
                    continue
                cut(folder, angles, treated, titled, coloured)
                with serving(folder) as server:
                    drawn, went, wall = played(Editor(page, server), live)
                print(
                    f"{name:42} {drawn:4d} of {went:4d} frames drawn ({100 * drawn / went:5.1f} %), {wall} other pictures"
                )
            cut(folder, angles, treated=False)
            with serving(folder) as server:
                spent = moved(Editor(page, server))
            print(
                f"a control that is dragged: seen after {np.median(spent):.0f} ms, 95 % {np.percentile(spent, 95):.0f} (asked: 50)"
            )
        finally:
            page.quit()


if __name__ == "__main__":
    main()
