"""Words of a title that come one after another, and the one that is sung."""

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, Edit, Item
from zembi.core.edit.operations import LayCard, Treat, apply
from zembi.core.edit.operations.context import Context
from zembi.core.errors import BadInput, Refused
from zembi.core.picture.chain import acts_at
from zembi.core.programme.flatten import whole_titles
from zembi.core.programme.model import Programme, Title
from zembi.core.song.grid import Grid
from zembi.core.titles.card import Card, CardLine
from zembi.core.titles.shown import ALL, Shown, pieces
from zembi.core.treatments.model import (
    Fade,
    FlickerOn,
    SpellOn,
    SungWord,
    treatment_from_dict,
    treatment_to_dict,
)
from zembi.core.treatments.music import Length, Music
from zembi.core.treatments.spelling import changes_between, spelling, sung_words, together
from zembi.core.treatments.timing import Ground, Words

RATE = Fraction(24)
#: A beat every half second: 12 frames.
GRID = Grid(tuple(0.5 * n for n in range(81)), tuple(range(0, 81, 4)), 1)
#: "burn the fog" is sung from 2 s on, a word every half second; "away" in the line after it.
MUSIC = Music(
    RATE, GRID, sung=((7, ((2.0, "Burn"), (2.5, "the"), (3.0, "fog,"))), (8, ((4.0, "away"),)), (9, ()))
)


def ground(text: str, first: int = 0, frames: int = 240, line: int | None = None) -> Ground:
    return Ground(first, first + frames, MUSIC, words=Words(text, line))


def seen(text: str, treatment: SpellOn | SungWord, at: int, **kwargs: int) -> str:
    """The letters that are seen in a frame; those that are told from the others in capitals."""
    shown = ALL
    for frame, now in together([spelling(treatment, ground(text, **kwargs))]):
        shown = now if frame <= at else shown
    return "".join(
        (c.upper() if shown.lights(n) else c) if shown.sees(n) or c.isspace() else "_"
        for n, c in enumerate(text)
    )


def test_pieces_are_lines_words_and_letters_with_what_stands_on_them() -> None:
    text = "one two\n née \U0001f469‍\U0001f680"
    assert [text[a:b] for a, b in pieces(text, "line")] == ["one two", " née \U0001f469‍\U0001f680"]
    assert [text[a:b] for a, b in pieces(text, "word")] == ["one", "two", "née", "\U0001f469‍\U0001f680"]
    assert [text[a:b] for a, b in pieces(text, "letter")][6:] == ["n", "é", "e", "\U0001f469‍\U0001f680"]


@given(st.text(max_size=60), st.sampled_from(["letter", "word", "line"]))
def test_every_letter_that_can_be_seen_is_in_one_piece(text: str, by: str) -> None:
    parts = pieces(text, by)  # type: ignore[arg-type]
    assert all(a < b for a, b in parts)
    assert all(x[1] <= y[0] for x, y in pairwise(parts))
    covered = {n for a, b in parts for n in range(a, b)}
    assert {n for n, c in enumerate(text) if not c.isspace()} <= covered


@pytest.mark.parametrize(
    ("at", "words"),
    [(0, "one ___ _____"), (11, "one ___ _____"), (12, "one two _____"), (24, "one two three")],
)
def test_words_come_on_beats(at: int, words: str) -> None:
    assert seen("one two three", SpellOn(every=Length(1.0)), at) == words


def test_letters_come_by_frames_and_lines_by_bars() -> None:
    assert seen("ab c", SpellOn(by="letter", every=Length(3.0, "frames")), 5) == "ab _"
    assert seen("ab c", SpellOn(by="letter", every=Length(3.0, "frames")), 6) == "ab c"
    assert seen("ab\nc", SpellOn(by="line", every=Length(1.0, "bars")), 47) == "ab\n_"
    assert seen("ab\nc", SpellOn(by="line", every=Length(1.0, "bars")), 48) == "ab\nc"


def test_parts_of_a_frame_do_not_add_up() -> None:
    text = "x" * 40
    changes = together([spelling(SpellOn(by="letter", every=Length(0.3)), ground(text))])
    # 3.6 frames each: the last letter at 39 of them, as the grid has it, not at 39 of 4.
    assert changes[-1][0] == round(39 * 3.6)


def test_words_go_in_their_order_the_last_as_the_title_ends() -> None:
    out = SpellOn("out", every=Length(1.0))
    assert [seen("one two", out, f, frames=48) for f in (35, 36, 47)] == ["one two", "___ two", "___ two"]


def test_a_cursor_stands_behind_what_is_typed_and_goes() -> None:
    typed = together(
        [spelling(SpellOn(by="letter", every=Length(2.0, "frames"), cursor=True), ground("abc"))]
    )
    assert typed[0] == (0, Shown(end=1, cursor=True))
    assert [f for f, s in typed if s.cursor] == [0, 2, 4]
    assert typed[-1] == (12, Shown(end=3))


def test_words_come_as_they_are_sung() -> None:
    sung = SpellOn(sung=True)
    # The title comes four frames before its line.
    at = {f: seen("Burn the fog", sung, f, first=44, line=7) for f in (3, 4, 15, 16, 28)}
    assert at == {
        3: "____ ___ ___", 4: "Burn ___ ___", 15: "Burn ___ ___", 16: "Burn the ___", 28: "Burn the fog",
    }  # fmt: skip


def test_letters_of_a_sung_word_come_while_it_is_sung() -> None:
    sung = SpellOn(by="letter", sung=True)
    assert seen("Burn the fog", sung, 6, first=48, line=7) == "Bur_ ___ ___"


def test_a_title_of_two_lines_has_the_words_of_the_next_too_and_words_of_ones_own_go_with_those_before() -> (
    None
):
    times = sung_words(Words("burn the thick fog\naway", 7), ground("", line=7))
    assert [at for at, _, _ in times] == [2.0, 2.5, 2.5, 3.0, 4.0]


def test_the_sung_word_is_told_from_the_others_until_the_next_is() -> None:
    lit = SungWord()
    frames = (47, 48, 60, 72, 96)
    assert [seen("Burn the fog", lit, f, line=7) for f in frames] == [
        "Burn the fog", "BURN the fog", "Burn THE fog", "Burn the FOG", "Burn the fog",
    ]  # fmt: skip
    assert seen("Burn the fog", SungWord(keep=True), 72, line=7) == "BURN THE FOG"


@pytest.mark.parametrize(("treatment", "of", "error"), [
    (SpellOn(), Ground(0, 48, MUSIC), Refused),
    (SpellOn(every=Length(1.0)), ground("a b c d e", frames=48), Refused),
    (SpellOn(every=Length(0.0)), ground("a b"), BadInput),
    (SpellOn(sung=True), ground("a b"), Refused),
    (SpellOn(sung=True), ground("a b", line=9), Refused),
    (SungWord(), ground("nothing of it", line=7), Refused),
    (SungWord(colour="red"), ground("Burn", line=7), BadInput),
    (SungWord(grow=2.0), ground("Burn", line=7), BadInput),
])  # fmt: skip
def test_what_cannot_be_is_refused_in_words(
    treatment: SpellOn | SungWord, of: Ground, error: type[Exception]
) -> None:
    with pytest.raises(error) as told:
        spelling(treatment, of)
    assert len(str(told.value)) > 20


@settings(max_examples=60)
@given(
    st.lists(
        st.text(st.characters(categories=("L", "N", "P")), min_size=1, max_size=7), min_size=1, max_size=8
    ),
    st.sampled_from(["letter", "word", "line"]),
    st.floats(0.05, 6.0),
    st.booleans(),
)
def test_nothing_that_came_goes_again_and_at_last_all_is_there(
    words: list[str], by: str, frames: float, cursor: bool
) -> None:
    text = " ".join(words)
    treatment = SpellOn(by=by, every=Length(frames, "frames"), cursor=cursor)  # type: ignore[arg-type]
    shown = together([spelling(treatment, ground(text, frames=2000))])
    ends = [len(text) if s.end is None else s.end for _, s in shown]
    assert ends == sorted(ends)
    assert ends[-1] == len(text)
    runs = changes_between(shown, 2000)
    assert runs[0][0] == 0
    assert runs[-1][1] == 2000
    assert all(a[1] == b[0] for a, b in pairwise(runs))


def titled(*treatments: object) -> tuple[Edit, Programme]:
    context = Context(RATE, GRID, lyrics=lambda: ())
    edit = new_edit(24 * 40, [Item(0, AngleSource(1))])
    edit = apply(edit, LayCard(Card((CardLine("one two three"),)), 2.0, "beat", end_s=6.0), context)
    (title,) = edit.lanes[-1].items
    edit = apply(edit, Treat((title.id,), treatments), context)  # type: ignore[arg-type]
    return edit, compiled(edit, Material({}, {}, RATE, music=Music(RATE, GRID)))


def test_a_title_is_a_span_for_each_that_comes_and_one_title_in_lists() -> None:
    _, shown = titled(SpellOn(every=Length(1.0)), FlickerOn(pattern="10", grow=0.0))
    layer = next(layer for layer in shown.layers if layer.name == "Titles")
    assert [(s.start, s.end) for s in layer.spans] == [(48, 60), (60, 72), (72, 144)]
    assert [s.content.shown.end for s in layer.spans if isinstance(s.content, Title)] == [3, 7, 13]
    # What else is done to it goes on from frame to frame.
    at = [[a.values for a in acts_at(layer.spans[0].chain, n, 16 / 9)] for n in (0, 1, 2)]
    assert at == [[], [{"amount": 0.0}], []]
    (whole,) = whole_titles(layer)
    assert (whole.start, whole.end, whole.content) == (48, 144, Title(Card((CardLine("one two three"),))))


def test_a_title_that_was_shortened_below_its_words_stays_and_all_of_it_is_seen() -> None:
    edit, _ = titled(SpellOn(every=Length(1.0)))
    lane = edit.lanes[-1]
    shorter = edit.with_items(lane, [Item(48, lane.items[0].source, 60, treatments=lane.items[0].treatments)])
    shown = compiled(shorter, Material({}, {}, RATE, music=Music(RATE, GRID)))
    (span,) = next(layer for layer in shown.layers if layer.name == "Titles").spans
    assert isinstance(span.content, Title)
    assert span.content.shown == ALL


def test_only_words_are_spelled() -> None:
    edit = new_edit(240, [Item(0, AngleSource(1))])
    with pytest.raises(Refused, match="title"):
        apply(edit, Treat((edit.shots[0].id,), (SpellOn(),)), Context(RATE, GRID))


@pytest.mark.parametrize(
    "treatment",
    [
        SpellOn("out", "letter", Length(2.0, "frames"), False, True),
        SungWord("#00ff00", 0.2, True, True),
        Fade(),
    ],
)
def test_they_are_stored_as_they_were_meant(treatment: SpellOn | SungWord | Fade) -> None:
    assert treatment_from_dict(treatment_to_dict(treatment)) == treatment
