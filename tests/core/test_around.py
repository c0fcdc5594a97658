"""Film before the song and after it: what lies there, and what it leaves alone."""

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_operations import marked
from zembi.core.edit.carry import fitted, through_cutdown
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.over import OVER
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import AngleSource, ClipSource, Edit, Item
from zembi.core.edit.operations import Cut, LayAt, LayCard, LayOver, MoveItem, Surround, apply
from zembi.core.edit.operations.context import Context, Footage
from zembi.core.edit.rates import at_rate
from zembi.core.errors import BadInput, Refused
from zembi.core.interchange.timeline import MediaRef, read_timeline, write_timeline
from zembi.core.programme.model import Black, Picture, Programme, Title
from zembi.core.song.cutdown import song_map
from zembi.core.song.grid import Grid
from zembi.core.timebase import frame_to_timecode
from zembi.core.titles.card import Card, CardLine
from zembi.core.treatments.music import Length, Music

RATE = Fraction(24)
LENGTH = 24 * 40
#: A beat every half second, a bar every two: 48 frames.
GRID = Grid(tuple(0.5 * n for n in range(-8, 90)), tuple(range(0, 98, 4)), -1)
MATERIAL = Material({}, {}, RATE, music=Music(RATE, GRID))
CONTEXT = Context(
    RATE, GRID, clips={"rope": Footage("Rope", 0.0, 3.0, media="rope", seconds=9.0)}, material=MATERIAL
)
CARD = Card((CardLine("Lamp Room"),))


def edit() -> Edit:
    return new_edit(LENGTH, [Item(0, AngleSource(1)), Item(100, ClipSource("rope", 1.0))])


def surrounded(lead: int = 96, tail: int = 48) -> Edit:
    return apply(edit(), Surround(Length(lead, "frames"), Length(tail, "frames")), CONTEXT)


def over(now: Edit) -> list[tuple[int, int | None]]:
    return [(i.start, i.end) for kind in (OVER, TITLES) for lane in now.of_kind(kind) for i in lane.items]


def test_bars_are_of_the_first_and_the_last_tempo() -> None:
    slower = Grid(
        (0.0, 0.5, 1.0, 1.5, 2.0, *(2.0 + 1.0 * n for n in range(1, 60))), tuple(range(0, 64, 4)), 1
    )
    context = Context(RATE, slower, material=Material({}, {}, RATE, music=Music(RATE, slower)))
    now = apply(edit(), Surround(Length(2, "bars"), Length(1, "bars")), context)
    assert (now.lead, now.tail) == (96, 96)
    assert (now.first, now.end) == (-96, LENGTH + 96)


@settings(max_examples=40)
@given(st.integers(0, 200), st.integers(0, 200))
def test_nothing_inside_the_song_moves(lead: int, tail: int) -> None:
    before = marked()
    now = apply(before, Surround(Length(lead, "frames"), Length(tail, "frames")), CONTEXT)
    assert now.lanes == before.lanes
    inside = compiled(now, MATERIAL)
    base = [s for s in inside.layers[0].spans if s.start >= 0 and s.end <= now.length]
    assert base == list(compiled(before, MATERIAL).layers[0].spans)
    back = apply(now, Surround(Length(0, "frames"), Length(0, "frames")), CONTEXT)
    assert back == before


def test_the_film_is_black_around_the_song_where_nothing_lies() -> None:
    shown = compiled(surrounded(), MATERIAL)
    assert (shown.first, shown.end, shown.length) == (-96, LENGTH + 48, LENGTH)
    spans = shown.layers[0].spans
    assert [(spans[k].start, spans[k].end, spans[k].content) for k in (0, -1)] == [
        (-96, 0, Black()), (LENGTH, LENGTH + 48, Black()),
    ]  # fmt: skip


@pytest.mark.parametrize(("operation", "place"), [
    # Beats go on before the song; what is laid there lasts up to it, as long as there is picture.
    (LayCard(CARD, -2.1, "beat"), (-48, 0)),
    (LayCard(CARD, -1.4, "bar"), (-48, 0)),
    (LayCard(CARD, -1.0, "free", end_s=1.0), (-24, 24)),
    (LayOver(-4.0, "rope", "bar"), (-96, -24)),
    (LayAt(-3.5, "rope", "over", "beat"), (-84, -12)),
    (LayCard(CARD, 40.6, "beat"), (LENGTH + 12, LENGTH + 48)),
    (LayOver(40.0, "rope", "free"), (LENGTH, LENGTH + 48)),
    # Inside the song all is as it was.
    (LayCard(CARD, 2.0, "bar"), (48, 96)),
])  # fmt: skip
def test_pictures_and_titles_lie_around_the_song(
    operation: LayCard | LayOver | LayAt, place: tuple[int, int]
) -> None:
    now = apply(surrounded(), operation, CONTEXT)
    assert over(now) == [place]
    layer = compiled(now, MATERIAL).layers[-1]
    (span,) = layer.spans
    assert (span.start, span.end) == place
    assert isinstance(span.content, Title | Picture)


def test_they_are_moved_and_trimmed_over_the_songs_ends_but_not_out_of_the_film() -> None:
    now = apply(surrounded(), LayCard(CARD, -2.0, "free", end_s=-1.0), CONTEXT)
    (title,) = now.of_kind(TITLES)[0].items
    moved = apply(now, MoveItem(title.id, 30), CONTEXT)
    assert over(moved) == [(-18, 6)]
    assert over(apply(moved, MoveItem(title.id, 40, "out"), CONTEXT)) == [(-18, 46)]
    with pytest.raises(Refused, match="inside the film"):
        apply(now, MoveItem(title.id, -60), CONTEXT)


def test_a_cut_stays_in_the_song() -> None:
    with pytest.raises(Refused):
        apply(surrounded(), Cut(-1.0, "free"), CONTEXT)


def test_a_shorter_lead_in_cuts_off_what_lies_there_and_a_clip_keeps_its_picture() -> None:
    now = apply(surrounded(), LayOver(-4.0, "rope", "free", end_s=-2.0), CONTEXT)
    now = apply(now, LayCard(CARD, -1.0, "free"), CONTEXT)
    shorter = apply(now, Surround(lead=Length(72, "frames")), CONTEXT)
    assert over(shorter) == [(-72, -48), (-24, 0)]
    assert shorter.of_kind(OVER)[0].items[0].source == ClipSource("rope", 1.0)
    assert (shorter.lead, shorter.tail) == (72, 48)
    assert over(apply(now, Surround(lead=Length(0, "frames")), CONTEXT)) == []


@pytest.mark.parametrize("wrong", [Length(121 * 24, "frames"), Length(-1, "frames"), Length(100, "bars")])
def test_a_lead_in_has_an_end(wrong: Length) -> None:
    with pytest.raises(BadInput, match="120 s"):
        apply(edit(), Surround(lead=wrong), CONTEXT)


def around_both() -> Edit:
    """A title in the lead-in, one over the song's first frame, one over its last and one in the tail."""
    now = surrounded()
    for start, end in ((-4.0, -3.0), (-1.0, 1.0), (39.5, 40.5), (41.0, 42.0)):
        now = apply(now, LayCard(CARD, start, "free", end_s=end), CONTEXT)
    assert over(now) == [(-96, -72), (-24, 24), (948, 972), (984, 1008)]
    return now


def test_what_lies_around_the_song_stays_there_in_a_cutdown() -> None:
    whole = song_map([], 40.0)
    shorter = through_cutdown(around_both(), whole, song_map([(10.0, 20.0)], 40.0), GRID, RATE)
    assert (shorter.length, shorter.lead, shorter.tail) == (720, 96, 48)
    assert over(shorter) == [(-96, -72), (-24, 24), (708, 732), (744, 768)]
    # The song begins later: what ran over its first frame is cut off with that.
    later = through_cutdown(around_both(), whole, song_map([(0.0, 0.5)], 40.0), GRID, RATE)
    assert over(later)[:2] == [(-96, -72), (0, 12)]
    again = through_cutdown(shorter, song_map([(10.0, 20.0)], 40.0), whole, GRID, RATE)
    assert over(again) == over(around_both())


def test_it_follows_a_song_of_another_length_and_another_rate() -> None:
    assert over(fitted(around_both(), 1200)) == [(-96, -72), (-24, 24), (948, 972), (1224, 1248)]
    assert over(fitted(around_both(), 960)) == over(around_both())
    other = at_rate(around_both(), 2000, RATE, Fraction(50), GRID)
    now = other.edit
    assert (now.lead, now.tail, now.length) == (200, 100, 2000)
    assert over(now) == [(-200, -150), (-50, 50), (1975, 2025), (2050, 2100)]
    assert over(at_rate(now, 960, Fraction(50), RATE, GRID).edit) == over(around_both())


def test_a_timeline_brings_it_back_exactly() -> None:
    now = apply(around_both(), LayOver(-4.0, "rope", "free"), CONTEXT)
    shown = compiled(now, MATERIAL)
    media = {"rope": MediaRef("rope", "Rope", 9.0), "song": MediaRef("song", "Song", 40.0)}
    read = read_timeline(write_timeline("x", shown, media, RATE, media["song"])).programme
    assert (read.first, read.end, read.length) == (-96, LENGTH + 48, LENGTH)

    def told(of: Programme) -> list[tuple[int, int, object]]:
        spans = (
            s for layer in of.layers for s in layer.spans if isinstance(s.content, Picture | Title | Black)
        )
        return sorted(((s.start, s.end, s.content) for s in spans), key=str)

    assert told(read) == told(replace(shown))


def test_a_frame_before_the_song_has_a_minus() -> None:
    assert frame_to_timecode(-25, RATE) == "-00:00:01:01"
    assert frame_to_timecode(-25, RATE, first=86400) == "00:59:58:23"
