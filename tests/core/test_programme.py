"""The programme: what an edit compiles to, what is on top, curves, and the list of sound."""

import itertools
import json
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.looks import AS_IT_IS, Look, acts, chain, look_at
from tests.spans import of, span
from zembi.core.edit.checks import check
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, ClipSource, Item
from zembi.core.edit.model import BlackSource as BlackSource
from zembi.core.picture.chain import PLAIN, Chain, covers
from zembi.core.picture.curves import Curve, Key
from zembi.core.programme.flatten import flattened, media_seen, on_screen, one_by_one, stretches
from zembi.core.programme.model import Black, Hole, Layer, Programme, Span, Title, Why, trimmed
from zembi.core.programme.sound import song_sound
from zembi.core.song.cutdown import SongMap
from zembi.core.titles.card import Card, CardLine

RATE = Fraction(24)
CURVES = json.loads((Path(__file__).parents[1] / "cases" / "curves.json").read_text())
#: An angle with a hole from frame 40 to 60.
ANGLES = {7: [span(0, 40, "wide", 2.0), span(60, 200, "wide", 9.0)]}
NAMES = {7: "angle 2, Deck,"}


def fading(frames: int) -> Chain:
    return chain(opacity=Curve((Key(0, 0.0, "straight"), Key(frames, 1.0, "straight"))))


@pytest.mark.parametrize("case", CURVES, ids=lambda c: c["name"])
def test_the_table_of_curves(case: dict[str, Any]) -> None:
    curve = Curve(tuple(Key(**k) for k in case["keys"]))
    for frame, value in case["at"]:
        assert curve.at(frame) == pytest.approx(value, abs=1e-9)


def test_a_curve_goes_on_where_a_span_is_cut() -> None:
    curves = chain(scale=Curve((Key(0, 1.0, "smooth"), Key(30, 1.5, "straight"))))
    whole = Span(100, 140, Black(), chain=curves)
    part = trimmed(whole, 112, 130, RATE)
    assert [look_at(part.chain, n, 16 / 9) for n in range(18)] == [
        look_at(curves, n + 12, 16 / 9) for n in range(18)
    ]
    assert trimmed(whole, 0, 200, RATE) is whole


def test_a_look_hides_what_is_beneath_only_where_it_covers_the_frame() -> None:
    assert covers(acts(AS_IT_IS))
    assert covers(acts(Look(scale=1.2, x=0.1, y=-0.1)))
    assert not any(
        covers(acts(look))
        for look in (Look(scale=0.99), Look(opacity=0.5), Look(turn=3), Look(scale=1.2, x=0.11))
    )
    assert look_at(PLAIN, 5) == AS_IT_IS


def compile_it(*shots: Item, over: tuple[Item, ...] = ()) -> Programme:
    return compiled(new_edit(200, shots, over), Material(ANGLES, NAMES, RATE))


def test_an_edit_becomes_layers_whose_spans_say_where_they_come_from() -> None:
    programme = compile_it(
        Item(0, AngleSource(7)), Item(100, ClipSource("rope", 1.0, 0.5)), Item(150, BlackSource()),
        over=(Item(120, ClipSource("gull", 3.0), 130),),
    )  # fmt: skip
    base, over = programme.layers
    assert [(s.start, s.end, type(s.content).__name__, s.why) for s in base.spans] == [
        (0, 40, "Picture", Why("base", 0, 4)), (40, 60, "Hole", Why("base", 0, 4)), (60, 100, "Picture", Why("base", 0, 4)),
        (100, 150, "Picture", Why("base", 100, 5)), (150, 200, "Black", Why("base", 150, 6)),
    ]  # fmt: skip
    assert base.spans[1].content == Hole("angle 2, Deck, has no take here")
    assert [(s.media, s.why) for s in over.spans] == [("gull", Why("over", 120, 7))]
    assert base.spans[3].time.times(RATE)[10] == pytest.approx(1.0 + 0.5 * 10.5 / 24)


def test_black_laid_over_is_black_and_an_angle_without_a_take_lets_through_and_is_told() -> None:
    over = (Item(10, BlackSource(), 20), Item(30, AngleSource(7), 70))
    programme = compile_it(Item(0, ClipSource("rope", 0.0)), over=over)
    assert [(s.start, s.end, s.media) for s in on_screen(programme, RATE)] == [
        (0, 10, "rope"), (10, 20, None), (20, 30, "rope"), (30, 40, "wide"), (40, 60, "rope"), (60, 70, "wide"),
        (70, 200, "rope"),
    ]  # fmt: skip
    found = check(programme, {"rope": 60.0, "wide": 60.0}, {}, {}, RATE)
    assert [(f.kind, f.start, f.end) for f in found] == [("hole", 40, 60)]
    assert "what lies beneath shows for 20 frames" in found[0].text


def test_black_on_purpose_is_no_hole_and_a_hole_names_its_angle() -> None:
    programme = compile_it(Item(0, BlackSource()), Item(30, AngleSource(7)), Item(80, BlackSource()))
    found = check(programme, {"wide": 60.0}, {}, {}, RATE)
    assert [(f.start, f.end, f.text) for f in found] == [
        (40, 60, "No picture for 20 frames: angle 2, Deck, has no take here.")
    ]


def test_a_film_of_nothing_but_black_is_told_and_one_shot_ends_that() -> None:
    (found,) = check(compile_it(Item(0, BlackSource()), Item(90, BlackSource())), {}, {}, {}, RATE)
    assert (found.kind, found.start, found.end) == ("uncut", 0, 200)
    assert "Nothing is cut yet" in found.text
    assert (
        check(
            compile_it(Item(0, BlackSource()), Item(90, ClipSource("rope", 0.0))), {"rope": 9.0}, {}, {}, RATE
        )
        == []
    )


def test_a_hole_under_a_cutaway_is_none() -> None:
    over = (Item(35, ClipSource("rope", 0.0), 65),)
    programme = compile_it(Item(0, AngleSource(7)), over=over)
    assert check(programme, {"wide": 60.0, "rope": 9.0}, {}, {}, RATE) == []
    assert media_seen(programme, 35, 65) == ["rope"]
    assert media_seen(programme, 30, 66) == ["wide", "rope"]


@st.composite
def lanes(draw: st.DrawFn) -> list[Span]:
    edges = sorted(draw(st.sets(st.integers(0, 100), max_size=8)))
    kinds = st.sampled_from(["a", "b", None, "black", "title"])
    out = []
    for start, end in itertools.pairwise(edges):
        kind = draw(kinds)
        if kind == "black":
            out.append(Span(start, end, Black()))
        elif kind == "title":
            out.append(Span(start, end, Title(Card((CardLine("Lamp Room"),)))))
        else:
            out.append(span(start, end, kind, draw(st.floats(0, 9))))
    return out


@settings(max_examples=200)
@given(st.lists(lanes(), min_size=1, max_size=3))
def test_what_is_on_top_is_the_uppermost_that_hides(lanes: list[list[Span]]) -> None:
    layers = [Layer(str(n), tuple(lane)) for n, lane in enumerate(lanes)]
    seen = flattened(layers, RATE)
    assert all(a.end <= b.start for a, b in itertools.pairwise(seen))
    for frame in range(100):
        top = next((s for s in seen if s.start <= frame < s.end), None)
        stack = [s for lane in lanes for s in lane if s.start <= frame < s.end]
        wanted = next((s for s in reversed(stack) if s.hides), None)
        if wanted is None:
            assert top is None or top in stack or not top.hides
            continue
        assert top is not None
        assert top.content == wanted.content
        if top.media:
            was = wanted.time.times(RATE)[frame - wanted.start]
            assert top.time.times(RATE)[frame - top.start] == pytest.approx(was, abs=1e-9)


@settings(max_examples=200)
@given(st.lists(lanes(), min_size=1, max_size=3))
def test_stretches_have_in_each_frame_all_that_can_be_seen(lanes: list[list[Span]]) -> None:
    programme = of(*lanes, length=100)
    runs = list(stretches(programme, 0, 100))
    assert [r[0] for r in runs] == [0, *[r[1] for r in runs[:-1]]]
    assert runs[-1][1] == 100
    for begin, until, stack in runs:
        for frame in range(begin, until):
            alive = [
                s
                for lane in lanes
                for s in lane
                if s.start <= frame < s.end and not isinstance(s.content, Hole)
            ]
            top = max((i for i, s in enumerate(alive) if s.hides), default=0)
            assert stack == alive[top:]


def test_two_that_overlap_are_both_seen_until_one_ends_and_the_later_is_on_top() -> None:
    later = Span(50, 120, span(0, 1, "b").content, span(50, 120, "b").time, fading(20))
    lane = [span(0, 70, "a"), later]
    programme = of(lane)
    assert [(a, b, [s.media for s in stack]) for a, b, stack in stretches(programme, 0, 120)] == [
        (0, 50, ["a"]), (50, 70, ["a", "b"]), (70, 120, ["b"]),
    ]  # fmt: skip
    assert [(s.start, s.end, s.media) for s in one_by_one(lane, RATE)] == [(0, 50, "a"), (50, 120, "b")]
    assert look_at(later.chain, 9, 16 / 9).opacity == pytest.approx(9.5 / 20)


def test_the_pieces_of_sound_overlap_by_the_crossfade_that_ends_at_each_join() -> None:
    kept = SongMap(((0.0, 10.0), (14.0, 20.0), (25.0, 40.0)))
    sound = song_sound("song", kept)
    assert [t for r in sound.kept for t in r] == pytest.approx([t for r in kept.kept for t in r])
    for before, piece in itertools.pairwise(sound.pieces):
        assert before.at_s + before.seconds - piece.at_s == pytest.approx(0.02)
        assert before.fade_out_s == piece.fade_in_s == 0.02
        # The song's moment at a working time is the map's, in the piece and in its lead.
        assert piece.media_s - piece.at_s == pytest.approx(
            kept.to_song(piece.at_s + 0.02) - (piece.at_s + 0.02)
        )
    assert (sound.pieces[0].fade_in_s, sound.pieces[-1].fade_out_s) == (0.0, 0.0)
    tight = song_sound("song", SongMap(((0.0, 5.0), (5.005, 9.0)))).pieces[1]
    assert tight.fade_in_s == 0.02
    assert song_sound("song", SongMap(((0.01, 1.0),))).pieces[0].fade_in_s == 0.0
