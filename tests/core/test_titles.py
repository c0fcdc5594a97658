"""Cards and their lanes: limits, places, lines that are broken, and the operations that lay them."""

import json
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.edit.carry import bring_cuts, cuts_on_grid, through_cutdown
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.titles import TITLES
from zembi.core.edit.model import AngleSource, CardSource, Edit, Item, source_from_dict, source_to_dict
from zembi.core.edit.operations import (
    FollowLine,
    LayCard,
    LayCues,
    LayLyrics,
    MoveItem,
    SetCard,
    TakeOff,
    Treat,
    apply,
)
from zembi.core.edit.operations.context import Context, SectionContext, SungLine
from zembi.core.edit.operations.titles import SectionStyle, TimedWords, by_hand
from zembi.core.edit.rates import at_rate
from zembi.core.errors import BadInput, Refused
from zembi.core.interchange.titles import read_titles, title_cues, write_titles
from zembi.core.picture.chain import Act, acts_at
from zembi.core.programme.model import Title
from zembi.core.song.cutdown import song_map
from zembi.core.song.grid import Grid
from zembi.core.timebase import seconds_to_frame
from zembi.core.titles.card import (
    LIMITS,
    Card,
    CardLine,
    CardPart,
    card_from_dict,
    card_to_dict,
    checked_card,
)
from zembi.core.titles.lyric import broken_line, letters_a_second
from zembi.core.titles.presets import PRESETS, worded
from zembi.core.treatments.looks import look
from zembi.core.treatments.model import ComeIn, Fade, FlickerOn, Freeze, PunchIn
from zembi.core.treatments.music import Length, Music
from zembi.core.treatments.timing import Ground

RATE = Fraction(24)
LENGTH = 24 * 40
#: A beat every half second, a bar every two.
GRID = Grid(tuple(0.5 * n for n in range(81)), tuple(range(0, 81, 4)), 1)
LINES = (
    SungLine(7, "lamp room, lamp room", 4.0, 7.0),
    SungLine(8, "burn the fog away, and every one of them comes home", 8.0, 12.0),
    SungLine(9, "turn", 12.5, 13.0),
)
CONTEXT = Context(RATE, GRID, lyrics=lambda: LINES)


def card(*lines: str, **style: object) -> Card:
    return replace(Card(tuple(CardLine(t) for t in lines)), **style)


def edit() -> Edit:
    return new_edit(LENGTH, [Item(0, AngleSource(1)), Item(100, AngleSource(1))])


def titles(edit: Edit) -> list[list[tuple[int, int | None, str]]]:
    return [
        [(i.start, i.end, i.source.card.text) for i in lane.items if isinstance(i.source, CardSource)]
        for lane in edit.of_kind(TITLES)
    ]


@pytest.mark.parametrize("wrong", [
    Card(()), card(""), card("  \n "), card(*["x"] * 25), card("x" * 2001), card("a\x07b"), card("a\nb"), card("\ud800"),
    card("x", size=0.0), card("x", size=float("nan")), card("x", turn=181.0), card("x", colour="red"), card("x", colour="#12345g"),
    card("x", box="blue"), card("x", font="gothic"), card("x", anchor="somewhere"), card("x", align="justified"),
    Card((CardLine("x", size=9.0),)), Card((CardLine("x", colour="#fff"),)),
    *(Card((CardLine("abc", parts=p),)) for p in (
        (CardPart(0, 4),), (CardPart(2, 2),), (CardPart(-1, 2),), (CardPart(0, 2), CardPart(1, 3)), (CardPart(0, 1, 9.0),),
        (CardPart(0, 1, colour="red"),), tuple(CardPart(0, 1) for _ in range(50)),
    )),
])  # fmt: skip
def test_what_cannot_be_set_is_refused_in_words(wrong: Card) -> None:
    with pytest.raises(BadInput) as told:
        checked_card(wrong)
    assert len(told.value.message) > 15


@settings(max_examples=100)
@given(st.data())
def test_a_card_is_the_same_after_it_was_stored(data: st.DataObject) -> None:
    words = st.text(st.characters(exclude_categories=("Cc", "Cs")), min_size=1, max_size=20)
    lines = data.draw(
        st.lists(
            st.builds(
                CardLine,
                words,
                st.floats(0.1, 5.0),
                st.sampled_from([None, True, False]),
                st.sampled_from([None, "#123456"]),
                st.sampled_from([(), (CardPart(0, 1, 2.0, True, "#00ff00"),)]),
            ),
            min_size=1,
            max_size=4,
        )
    )
    style = {name: data.draw(st.floats(*pair), label=name) for name, pair in LIMITS.items()}
    one = replace(Card(tuple(lines)), anchor=data.draw(st.sampled_from(["top left", "bottom"])), **style)
    if not one.text.strip():
        return
    kept = json.loads(json.dumps(card_to_dict(checked_card(one))))
    assert card_from_dict(kept) == one
    assert source_from_dict(source_to_dict(CardSource(one, 3))) == CardSource(one, 3)


def test_a_plain_card_is_stored_as_its_words() -> None:
    assert card_to_dict(card("Lamp Room")) == {"lines": [{"text": "Lamp Room"}]}


@pytest.mark.parametrize(("anchor", "place"), [
    ("middle", (0.0, 0.0)), ("top left", (-0.45, -0.45)), ("bottom", (0.0, 0.45)), ("right", (0.45, 0.0)), ("bottom right", (0.45, 0.45)),
])  # fmt: skip
def test_a_card_stands_in_the_safe_area(anchor: str, place: tuple[float, float]) -> None:
    assert card("x", anchor=anchor).place == pytest.approx(place)
    moved = card("x", anchor=anchor, x=0.1, y=-0.2).place
    assert moved == pytest.approx((place[0] + 0.1, place[1] - 0.2))


def test_every_style_to_begin_with_can_be_set_and_takes_other_words() -> None:
    for style in PRESETS.values():
        assert checked_card(style) == style
        assert worded(style, "one", "two", "three", "four").text == "one\ntwo\nthree\nfour"
    main = PRESETS["main title"]
    said = worded(main, "Lamp Room", "Orrin Vale", "and the Keepers")
    assert [line.size for line in said.lines] == [1.0, 0.4, 0.4]


@pytest.mark.parametrize(("text", "most", "parts"), [
    ("burn the fog away", 42, ["burn the fog away"]),
    ("lamp room, lamp room, burn the fog away", 24, ["lamp room, lamp room,", "burn the fog away"]),
    ("every one of them is counted and comes home", 24, ["every one of them", "is counted and comes home"]),
    ("a radio that talks all night to no one on the sea", 30, ["a radio that talks all night", "to no one on the sea"]),
    ("Donaudampfschifffahrtsgesellschaft", 10, ["Donaudampfschifffahrtsgesellschaft"]),
    ("   spaced   out   ", 40, ["spaced out"]),
])  # fmt: skip
def test_a_line_is_broken_where_the_sense_allows(text: str, most: int, parts: list[str]) -> None:
    found = broken_line(text, most)
    assert " ".join(found) == " ".join(text.split())
    if text.startswith("every"):
        assert max(map(len, found)) <= most
    else:
        assert found == parts


@given(st.lists(st.text("abc,.", min_size=1, max_size=12), min_size=1, max_size=30), st.integers(8, 60))
def test_no_word_is_lost_or_cut_and_parts_fit_where_words_do(words: list[str], most: int) -> None:
    parts = broken_line(" ".join(words), most)
    assert " ".join(parts).split() == words
    assert all(len(p) <= most or " " not in p for p in parts)


def test_reading_speed_counts_characters_by_the_time_they_are_seen() -> None:
    assert letters_a_second("burn the\nfog away", 2.0) == pytest.approx(8.5)


def test_a_title_lies_on_the_beat_and_on_a_lane_that_is_free() -> None:
    first = apply(edit(), LayCard(card("Lamp Room"), 4.1, "beat"), CONTEXT)
    assert titles(first) == [[(96, 144, "Lamp Room")]], "a bar long by itself"
    assert first.lanes[-1].kind is TITLES, "over everything else"
    beside = apply(first, LayCard(card("later"), 6.0, "beat", end_s=8.0), CONTEXT)
    assert titles(beside) == [[(96, 144, "Lamp Room"), (144, 192, "later")]]
    over = apply(beside, LayCard(card("over"), 5.0, "beat", lead=2), CONTEXT)
    assert titles(over) == [[(96, 144, "Lamp Room"), (144, 192, "later")], [(118, 166, "over")]]
    ids = [i.id for lane in over.of_kind(TITLES) for i in lane.items]
    assert len(set(ids)) == 3
    assert 0 not in ids
    with pytest.raises(Refused, match="cannot overlap"):
        apply(over, LayCard(card("x"), 5.0, lane=over.of_kind(TITLES)[0].id), CONTEXT)
    with pytest.raises(Refused, match="No title is laid"):
        apply(over, LayCard(card("x"), 5.0, lane=over.lanes[0].id), CONTEXT)


def test_titles_move_nothing_else_and_are_moved_like_anything() -> None:
    before = edit()
    laid = apply(before, LayCard(card("Lamp Room"), 4.0), CONTEXT)
    assert laid.shots == before.shots
    item = laid.of_kind(TITLES)[0].items[0].id
    moved = apply(laid, MoveItem(item, 10, "out"), CONTEXT)
    assert titles(moved) == [[(96, 154, "Lamp Room")]]
    assert titles(apply(moved, TakeOff(item), CONTEXT)) == [[]]
    changed = apply(moved, SetCard((item,), card("Another")), CONTEXT)
    assert titles(changed) == [[(96, 154, "Another")]]


def test_a_style_is_given_to_many_and_leaves_their_words() -> None:
    laid = apply(edit(), LayLyrics(), CONTEXT)
    ids = tuple(i.id for i in laid.of_kind(TITLES)[0].items)
    styled = apply(laid, SetCard(ids, PRESETS["lyric large"], style=True), CONTEXT)
    assert titles(styled) == titles(laid)
    sources = [i.source for i in styled.of_kind(TITLES)[0].items]
    assert {s.card.size for s in sources if isinstance(s, CardSource)} == {PRESETS["lyric large"].size}
    assert [s.line for s in sources if isinstance(s, CardSource)] == [7, 8, 9], (
        "they follow their lines all the same"
    )
    with pytest.raises(Refused, match="no title"):
        apply(laid, SetCard((laid.shots[0].id,), card("x")), CONTEXT)


def test_the_words_of_the_song_stand_while_they_are_sung() -> None:
    laid = apply(edit(), LayLyrics(lead=4, hold=6, letters=24), CONTEXT)
    (lane,) = titles(laid)
    assert [(a, b) for a, b, _ in lane] == [(92, 174), (188, 294), (296, 318)]
    assert lane[1][2].split("\n")[0] == "burn the fog away,"
    both = apply(edit(), LayLyrics(lines=2, lead=0, hold=0), CONTEXT)
    assert [(a, b) for a, b, _ in titles(both)[0]] == [(96, 288), (300, 312)]
    some = apply(edit(), LayLyrics(first=190, end=250), CONTEXT)
    assert len(titles(some)[0]) == 1
    # The next one takes the place of one that would stay longer.
    close = apply(edit(), LayLyrics(lead=20, hold=240), CONTEXT)
    assert [(a, b) for a, b, _ in titles(close)[0]] == [(76, 172), (172, 280), (280, 552)]


@pytest.mark.parametrize(
    "wrong",
    [
        LayLyrics(style="gothic"),
        LayLyrics(style="end card"),
        LayLyrics(lead=-1),
        LayLyrics(hold=999),
        LayLyrics(letters=2),
    ],
)
def test_words_that_cannot_be_laid_are_refused(wrong: LayLyrics) -> None:
    with pytest.raises(BadInput):
        apply(edit(), wrong, CONTEXT)
    with pytest.raises(Refused, match="No line"):
        apply(edit(), LayLyrics(first=900), CONTEXT)


def test_a_title_has_no_time_of_its_own() -> None:
    laid = apply(edit(), LayCard(card("x"), 4.0), CONTEXT)
    item = laid.of_kind(TITLES)[0].items[0].id
    with pytest.raises(Refused, match="no time of its own"):
        apply(laid, Treat((item,), (Freeze(),)), CONTEXT)


def test_a_title_that_grows_does_so_about_the_point_at_which_it_stands() -> None:
    laid = apply(edit(), LayCard(card("low", anchor="bottom"), 4.0), CONTEXT)
    item = laid.of_kind(TITLES)[0].items[0].id
    grown = apply(laid, Treat((item,), (Fade("in", Length(1, "beats"), beneath=True), PunchIn(2.0))), CONTEXT)
    programme = compiled(grown, Material({1: ()}, {1: "wide"}, RATE))
    (span,) = programme.layers[-1].spans
    assert isinstance(span.content, Title)
    last = acts_at(span.chain, 40, 16 / 9)
    (place,) = [a for a in last if a.kind.name == "place"]
    # A point at 0.45 of the height below the middle stays where it is when all is twice as large.
    assert place.values["scale"] == pytest.approx(2.0)
    assert 0.45 * 2.0 + place.values["y"] == pytest.approx(0.45)
    first = acts_at(span.chain, 0, 16 / 9)
    assert next(a for a in first if a.kind.name == "opacity").values["amount"] < 0.2


def test_a_lane_of_titles_that_is_off_is_not_seen() -> None:
    laid = apply(edit(), LayCard(card("x"), 4.0), CONTEXT)
    lane = laid.of_kind(TITLES)[0]
    off = laid.with_lane(replace(lane, on=False))
    material = Material({1: ()}, {1: "wide"}, RATE)
    assert len(compiled(laid, material).layers) == len(compiled(off, material).layers) + 1


@pytest.mark.parametrize(("side", "pattern", "long", "shown"), [
    ("in", "1001101", 12, "100110111111"), ("in", "1001101", 5, "01101"), ("out", "1001101", 12, "111111001101"[:5] + "1001101"),
    ("out", "101", 2, "10"),
])  # fmt: skip
def test_a_flicker_is_there_in_the_frames_of_its_pattern(
    side: str, pattern: str, long: int, shown: str
) -> None:
    ground = Ground(100, 100 + long, Music(RATE))
    chain = look(FlickerOn(side, pattern, 0.0), ground, 16 / 9)
    (step,) = chain
    assert "".join(str(round(step.at(n)["amount"])) for n in range(long)) == shown


def test_a_flicker_grows_a_step_each_time_it_comes_on_up_to_its_own_size() -> None:
    ground = Ground(0, 12, Music(RATE))
    place, shown = look(FlickerOn("in", "1001101", 0.1), ground, 16 / 9)
    sizes = [place.at(n)["scale"] for n in range(12) if shown.at(n)["amount"]]
    assert sizes == pytest.approx([1.1**-3, 1.1**-2, 1.1**-2, 1.1**-1, *[1.0] * 5])
    for wrong in (FlickerOn("in", "10x"), FlickerOn("in", ""), FlickerOn("in", "1", 2.0)):
        with pytest.raises(BadInput):
            look(wrong, ground, 16 / 9)


def test_thousands_of_lines_are_laid_at_once_and_two_at_one_time_on_two_lanes() -> None:
    long = 24 * 4000
    sung = [SungLine(n, f"line {n}", 0.5 * n, 0.5 * n + 0.4) for n in range(7000)]
    context = Context(RATE, GRID, lyrics=lambda: [*sung, SungLine(9999, "beside", 10.0, 11.0)])
    laid = apply(new_edit(long, [Item(0, AngleSource(1))]), LayLyrics(lead=0, hold=0), context)
    first, second = titles(laid)
    assert (len(first), len(second)) == (7000, 1)
    assert all(a[1] is not None and a[1] <= b[0] for a, b in pairwise(first))


def sections_context(*names: str) -> Context:
    parts = tuple(SectionContext(10.0 * n, name=name) for n, name in enumerate(names))
    return replace(CONTEXT, sections=parts)


def test_each_section_may_have_a_style_and_all_may_have_ones_own() -> None:
    context = sections_context("Verse", "Chorus")
    styled = LayLyrics(card=card("x", font="hand"), by_section=(SectionStyle("Chorus", "lyric large"),))
    after = apply(edit(), styled, context)
    (lane,) = after.of_kind(TITLES)
    fonts = [i.source.card.font for i in lane.items if isinstance(i.source, CardSource)]
    assert fonts == ["hand", "hand", PRESETS["lyric large"].font]
    with pytest.raises(BadInput, match="no style"):
        apply(edit(), LayLyrics(by_section=(SectionStyle("Chorus", "of nobody"),)), context)


def test_words_with_times_become_titles_where_they_lie_in_the_film() -> None:
    cues = (
        TimedWords(2.0, 4.0, "lamp room\nburn the fog"), TimedWords(3.0, 3.5, "oh"), TimedWords(-9.0, -3.0, "before"),
        TimedWords(39.0, 50.0, "the last"), TimedWords(60.0, 61.0, "after"), TimedWords(5.0, 5.0, "nothing"),
    )  # fmt: skip
    after = apply(edit(), LayCues(cues), CONTEXT)
    # Two at one time lie on two lanes.
    assert titles(after) == [
        [(48, 96, "lamp room\nburn the fog"), (936, 960, "the last")], [(72, 84, "oh")],
    ]  # fmt: skip
    # In a film that begins before the song, times are of the film.
    later = apply(replace(edit(), lead=48), LayCues(cues[:1]), CONTEXT)
    assert titles(later) == [[(0, 48, "lamp room\nburn the fog")]]
    with pytest.raises(Refused, match="None of these"):
        apply(edit(), LayCues(cues[4:5]), CONTEXT)
    with pytest.raises(BadInput, match="control character"):
        apply(edit(), LayCues((TimedWords(0.0, 1.0, "a\x07b"),)), CONTEXT)


@settings(max_examples=60)
@given(
    st.lists(
        st.tuples(
            st.integers(0, 300),
            st.integers(1, 60),
            st.lists(
                st.text(st.characters(categories=("Ll", "Lu")), min_size=1, max_size=8),
                min_size=1,
                max_size=4,
            ),
        ),
        min_size=1,
        max_size=12,
    )
)
def test_titles_come_back_from_subrip_in_their_frames(laid: list[tuple[int, int, list[str]]]) -> None:
    now = edit()
    at = 0
    for gap, frames, words in laid:
        start, at = at + gap % 40, at + gap % 40 + frames
        if at > LENGTH:
            break
        now = apply(now, LayCard(card(" ".join(words)), start / 24, "free", end_s=at / 24), CONTEXT)
    shown = compiled(now, Material({}, {}, RATE))
    for form in ("srt", "vtt"):
        cues = read_titles(write_titles(title_cues(shown.layers, RATE), form))
        again = apply(
            edit(), LayCues(tuple(TimedWords(c.start_s, c.end_s, c.text) for c in cues), letters=200), CONTEXT
        )
        assert titles(again) == titles(now)


@settings(max_examples=60)
@given(st.floats(0.5, 36.0), st.floats(0.5, 3.5), st.sampled_from([8.0, 12.0, 20.0]), st.floats(1.0, 12.0))
def test_titles_stay_with_their_part_of_the_song_in_a_cutdown(
    start: float, long: float, out: float, taken: float
) -> None:
    now = apply(edit(), LayCard(card("here"), start, "free", end_s=min(39.9, start + long)), CONTEXT)
    whole, kept = song_map([], 40.0), song_map([(out, out + taken)], 40.0)
    shorter = through_cutdown(now, whole, kept, GRID, RATE)
    found = [i for lane in shorter.of_kind(TITLES) for i in lane.items]
    before = now.of_kind(TITLES)[0].items[0]
    a, b = before.start / 24, (before.end or 0) / 24
    if a >= out - 0.2 and b <= out + taken + 0.2:
        assert all((i.end or 0) - i.start <= 12 for i in found)
    elif b < out - 0.2:
        assert [(i.start, i.end) for i in found] == [(before.start, before.end)]
    elif a > out + taken + 0.2:
        (moved,) = found
        assert abs(kept.to_song(moved.start / 24) - a) < 0.15
        assert (moved.end or 0) - moved.start == pytest.approx((before.end or 0) - before.start, abs=3)
    back = through_cutdown(shorter, kept, whole, GRID, RATE)
    if b < out - 0.2 or a > out + taken + 0.2:
        again = back.of_kind(TITLES)[0].items[0]
        assert abs(again.start - before.start) <= 3


@settings(max_examples=40)
@given(st.floats(0.5, 30.0), st.sampled_from(["24000/1001", "25", "30", "50", "60"]))
def test_titles_on_beats_lie_on_them_at_another_rate(start: float, to: str) -> None:
    new = Fraction(to)
    now = apply(edit(), LayCard(card("here"), start, "beat"), CONTEXT)
    after = at_rate(now, round(40 * new), RATE, new, GRID).edit
    (title,) = after.of_kind(TITLES)[0].items
    beat = min(GRID.beats, key=lambda b: abs(b - start))
    assert title.start == seconds_to_frame(beat, new)


def test_a_style_over_words_of_a_fill_keeps_what_follows_the_song_when_undone() -> None:
    now = apply(edit(), LayLyrics(), CONTEXT)
    ids = tuple(i.id for i in now.of_kind(TITLES)[0].items)
    styled = apply(now, SetCard(ids, PRESETS["lyric large"], style=True), CONTEXT)
    lines = [i.source.line for i in styled.of_kind(TITLES)[0].items if isinstance(i.source, CardSource)]
    assert lines == [7, 8, 9]


@pytest.mark.parametrize(("side", "way", "there"), [
    ("in", "up", [(0.0, 0.25), (0.0, 0.0)]), ("in", "left", [(0.25, 0.0), (0.0, 0.0)]),
    ("out", "down", [(0.0, 0.0), (0.0, 0.25)]), ("out", "right", [(0.0, 0.0), (0.25, 0.0)]),
])  # fmt: skip
def test_something_comes_from_a_side_and_goes_to_one(
    side: str, way: str, there: list[tuple[float, float]]
) -> None:
    ground = Ground(0, 48, Music(RATE, GRID))
    chain = look(ComeIn(side, way, over=Length(12, "frames"), shape="straight"), ground, 16 / 9)  # type: ignore[arg-type]
    at = [place(acts_at(chain, f, 16 / 9)) for f in ((0, 12) if side == "in" else (35, 47))]
    # A frame shows the middle of its time: half a frame of twelve from the end of the way.
    assert [p[:2] for p in at] == [pytest.approx(xy, abs=0.25 / 24 + 1e-9) for xy in there]
    half = place(acts_at(chain, 6 if side == "in" else 42, 16 / 9))
    assert abs(half[0]) + abs(half[1]) == pytest.approx(0.125, abs=0.25 / 24 + 1e-9)


def place(acts: tuple[Act, ...]) -> tuple[float, float, float]:
    """Shift and scale of a chain that only places."""
    return (acts[0].values["x"], acts[0].values["y"], acts[0].values["scale"]) if acts else (0.0, 0.0, 1.0)


def test_something_grows_until_it_stays_and_a_size_that_cannot_be_is_refused() -> None:
    ground = Ground(0, 48, Music(RATE, GRID))
    chain = look(ComeIn(by=0.0, scale=0.5, over=Length(1), shape="straight"), ground, 16 / 9)
    assert [place(acts_at(chain, f, 16 / 9))[2] for f in (0, 6, 12, 40)] == pytest.approx(
        [0.5 + 0.5 / 24, 0.75 + 0.5 / 24, 1.0, 1.0]
    )
    assert look(ComeIn(by=0.0), ground, 16 / 9) == ()
    for wrong in (ComeIn(by=3.0), ComeIn(scale=0.0), ComeIn(by=-1.0)):
        with pytest.raises(BadInput):
            look(wrong, ground, 16 / 9)


def hung() -> tuple[Edit, list[Item]]:
    now = apply(edit(), LayLyrics(), CONTEXT)
    return now, list(now.of_kind(TITLES)[0].items)


def test_only_the_chosen_lines_become_titles() -> None:
    assert titles(apply(edit(), LayLyrics(only=(7, 9)), CONTEXT)) == [
        [(92, 174, "lamp room, lamp room"), (296, 318, "turn")]
    ]
    with pytest.raises(Refused, match="No line"):
        apply(edit(), LayLyrics(only=()), CONTEXT)


def test_what_was_changed_by_hand_is_named_and_given_back() -> None:
    now, items = hung()
    first = items[0].id
    assert [by_hand(i, now, LINES, RATE) for i in items] == [[], [], []]
    moved = apply(now, MoveItem(first, 7), CONTEXT)
    changed = apply(moved, SetCard((first,), card("of nobody")), CONTEXT)

    def said(of: Edit) -> list[str]:
        lane, index = of.find(first)
        return list(by_hand(lane.items[index], of, LINES, RATE))

    assert (said(moved), said(changed)) == (["place"], ["place", "words"])
    words = apply(changed, FollowLine((first,), ("words",)), CONTEXT)
    assert said(words) == ["place"]
    lane, index = words.find(first)
    assert lane.items[index].start == items[0].start + 7
    whole = apply(changed, FollowLine((first,)), CONTEXT)
    assert said(whole) == []
    lane, index = whole.find(first)
    assert (lane.items[index].start, lane.items[index].end) == (items[0].start, items[0].end)


def test_a_title_without_a_line_has_none_to_follow() -> None:
    now = apply(edit(), LayCard(CARDS[0], 2.0, "beat"), CONTEXT)
    (title,) = now.of_kind(TITLES)[0].items
    assert by_hand(title, now, LINES, RATE) == []
    with pytest.raises(Refused, match="follows no line"):
        apply(now, FollowLine((title.id,)), CONTEXT)
    with pytest.raises(BadInput, match="Choose"):
        apply(now, FollowLine(()), CONTEXT)


CARDS = [card("Lamp Room")]


@settings(max_examples=60)
@given(st.integers(2, 60), st.integers(1, 8), st.floats(-0.1, 0.1), st.booleans())
def test_titles_follow_a_grid_that_moved_where_they_lay_on_it(
    beat: int, long: int, by: float, half: bool
) -> None:
    start = 0.5 * beat + (0.25 if half else 0.0)
    now = apply(edit(), LayCard(card("on it"), start, "half", end_s=start + 0.5 * long), CONTEXT)
    now = apply(now, LayCard(card("off it"), 0.21, "free", end_s=0.38), CONTEXT)
    after = Grid(tuple(b + by for b in GRID.beats), GRID.bars, GRID.first_bar)
    moves = cuts_on_grid(now, GRID, after, RATE)
    brought = bring_cuts(now, moves, RATE)
    placed = {
        i.source.card.text: i
        for lane in brought.of_kind(TITLES)
        for i in lane.items
        if isinstance(i.source, CardSource)
    }
    before = {
        i.source.card.text: i
        for lane in now.of_kind(TITLES)
        for i in lane.items
        if isinstance(i.source, CardSource)
    }
    assert placed["off it"] == before["off it"]
    shots = {s.start for s in now.shots}
    for edge in ("start", "end"):
        was, is_ = getattr(before["on it"], edge), getattr(placed["on it"], edge)
        if was not in shots and 0 < was < LENGTH:
            assert is_ == seconds_to_frame(was / 24 + by, RATE) or abs(is_ - was - 24 * by) <= 1


def test_words_of_the_song_follow_their_lines_and_no_grid() -> None:
    now, items = hung()
    after = Grid(tuple(b + 0.2 for b in GRID.beats), GRID.bars, GRID.first_bar)
    brought = bring_cuts(now, cuts_on_grid(now, GRID, after, RATE), RATE)
    assert list(brought.of_kind(TITLES)[0].items) == items


def test_a_title_that_was_laid_into_the_lead_in_is_not_by_hand() -> None:
    first = SungLine(5, "at once", 0.0, 2.0)
    context = replace(CONTEXT, lyrics=lambda: (first,))
    now = apply(replace(edit(), lead=48), LayLyrics(), context)
    (title,) = now.of_kind(TITLES)[0].items
    assert title.start == -4
    assert by_hand(title, now, (first,), RATE) == []
    back = apply(apply(now, MoveItem(title.id, 3), context), FollowLine((title.id,)), context)
    assert back.of_kind(TITLES)[0].items[0].start == -4
