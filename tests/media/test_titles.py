"""Cards as they are set and drawn: held to the shaping library's own metrics, and to the film's pictures."""

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
import uharfbuzz as hb
from numpy.typing import NDArray

from tests.spans import of
from zembi.core.errors import UnreadableMedia
from zembi.core.picture.chain import Act
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import OPACITY, PLACE
from zembi.core.programme.model import Black, Layer, Programme, Span, Title
from zembi.core.titles.card import Card, CardLine, CardPart
from zembi.core.titles.presets import PRESETS, worded
from zembi.core.titles.shown import Shown
from zembi.media.compositor import CompositeLayer, coded, composed
from zembi.media.render import Film, film_pictures
from zembi.media.sheet import planes_of
from zembi.media.titles import fonts
from zembi.media.titles.contrast import contrast
from zembi.media.titles.fonts import FILES, chain_of, font_for, font_of
from zembi.media.titles.layout import set_card
from zembi.media.titles.raster import card_picture

WIDE = 16 / 9
SIZE = (320, 180)


def card(*lines: str, **style: object) -> Card:
    return replace(Card(tuple(CardLine(t) for t in lines), shadow=0.0), **style)


def advance(text: str, family: str, bold: bool, direction: str = "ltr") -> float:
    """The width that HarfBuzz itself gives a text of one font, in ems."""
    font = font_for(chain_of(family, bold), text[0])
    assert font is not None
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    assert buffer.direction == direction
    hb.shape(font.shaper, buffer)
    return sum(p.x_advance for p in buffer.glyph_positions) / font.upem


@pytest.mark.parametrize("family", FILES)
@pytest.mark.parametrize("bold", [False, True])
def test_every_family_is_shipped_with_its_licence_and_sets_accents(family: str, bold: bool) -> None:
    fonts = chain_of(family, bold)
    assert fonts[0].name.startswith(FILES[family])
    laid = set_card(card("Žluťoučký kůň, Ærøskøbing, São João", font=family, bold=bold), WIDE)
    assert laid.missing == ()
    own = {g.font.name.split("-")[0] for g in laid.glyphs}
    assert own == {FILES[family].split("-")[0]}, "all of it in the family's own letters"
    folder = Path(__file__).parents[2] / "src/zembi/fonts"
    assert "Open Font License" in (folder / f"{FILES[family]}.LICENSE").read_text()


@pytest.mark.parametrize(("text", "direction"), [
    ("AVATAR office Tomorrow", "ltr"), ("שלום עולם", "rtl"), ("مرحبا بالعالم", "rtl"), ("नमस्ते क्षितिज", "ltr"),
])  # fmt: skip
def test_scripts_are_as_wide_as_the_shaping_library_says(text: str, direction: str) -> None:
    laid = set_card(card(text, size=0.05), WIDE)
    assert laid.missing == ()
    assert laid.right - laid.left == pytest.approx(advance(text, "plain", True, direction), abs=1e-6)


def test_letters_are_kerned_and_joined_and_set_apart_where_that_is_asked() -> None:
    kerned = set_card(card("AVAVAV"), WIDE)
    plain = sum(advance(c, "plain", True) for c in "AVAVAV")
    assert kerned.right - kerned.left < plain - 0.05
    joined = set_card(card("بب"), WIDE)
    alone = set_card(card("ب"), WIDE)
    # The first and the last letter of a word have forms of their own.
    assert len({g.number for g in joined.glyphs} - {g.number for g in alone.glyphs}) == 2
    tracked = set_card(card("AVAVAV", tracking=0.1), WIDE)
    assert tracked.right - tracked.left == pytest.approx(kerned.right - kerned.left + 0.6, abs=1e-6)


def test_right_to_left_is_seen_from_the_right_with_numbers_and_latin_as_they_are() -> None:
    text = "אבג ABC 123"
    laid = set_card(card(text), WIDE)
    seen = "".join(text[g.letter] for g in sorted(laid.glyphs, key=lambda g: g.x))
    assert seen.replace(" ", "") == "ABC123גבא"


def test_a_mark_stands_on_its_letter() -> None:
    apart = set_card(card("e\u0301"), WIDE)
    whole = set_card(card("\u00e9"), WIDE)
    assert apart.right - apart.left == pytest.approx(whole.right - whole.left)


def test_a_letter_that_no_font_has_is_named_and_what_shows_nothing_is_not() -> None:
    laid = set_card(card("lamp 💥\u200d\ufe0f 𓀀"), WIDE)
    assert set(laid.missing) == {"💥", "𓀀"}
    assert card_picture(card("lamp 💥"), *SIZE).rgba[..., 3].max() > 0.9


def test_a_line_too_long_is_broken_between_words_inside_the_safe_area() -> None:
    words = "lamp room lamp room burn the fog away and every one comes home"
    laid = set_card(card(words, size=0.12), WIDE)
    assert len(laid.lines) > 1
    assert " ".join(laid.lines) == words
    assert (laid.right - laid.left) * 0.12 / WIDE <= 0.9
    upright = set_card(card(words, size=0.12), 9 / 16)
    assert len(upright.lines) > len(laid.lines)
    long = "x" * 200
    assert set_card(card(long), WIDE).lines == (long,), "one word is not cut"


@pytest.mark.parametrize("anchor", ["top left", "top", "middle", "bottom", "bottom right", "left"])
@pytest.mark.parametrize("size", [(320, 180), (180, 320), (240, 240), (286, 120), (192, 240)])
def test_a_card_is_drawn_where_it_stands(anchor: str, size: tuple[int, int]) -> None:
    picture = card_picture(card("HIH", anchor=anchor, size=0.15), *size).whole()[..., 3]
    rows, columns = np.nonzero(picture > 0.5)
    width, height = size
    # The letters' own heights are a little less than a line's.
    if "left" in anchor:
        assert columns.min() == pytest.approx(0.05 * width, abs=0.03 * height)
    elif "right" in anchor:
        assert columns.max() == pytest.approx(0.95 * width, abs=0.03 * height)
    else:
        assert (columns.min() + columns.max()) / 2 == pytest.approx(width / 2, abs=0.02 * height)
    if "top" in anchor:
        assert rows.min() == pytest.approx(0.05 * height, abs=0.04 * height)
    elif "bottom" in anchor:
        assert rows.max() == pytest.approx(0.95 * height, abs=0.06 * height)
    else:
        assert (rows.min() + rows.max()) / 2 == pytest.approx(height / 2, abs=0.03 * height)


def test_a_card_is_turned_clockwise_about_its_point() -> None:
    flat = card_picture(card("IIIIIIII"), *SIZE).whole()[..., 3]
    turned = card_picture(card("IIIIIIII", turn=90.0), *SIZE).whole()[..., 3]
    wide, tall = np.ptp(np.nonzero(flat > 0.5)[1]), np.ptp(np.nonzero(turned > 0.5)[0])
    assert wide == pytest.approx(tall, abs=2)
    # The first letter, at the left, comes to the top.
    left = card_picture(card("WW....", turn=90.0), *SIZE).whole()[..., 3]
    heavy = (left.sum(1) * np.arange(SIZE[1])).sum() / left.sum()
    assert heavy < SIZE[1] / 2 - 2


def test_outline_shadow_and_box_lie_beneath_the_letters() -> None:
    plain = card_picture(card("HH", colour="#ff0000"), *SIZE).whole()
    assert plain[..., 1:3].max() == 0
    style = {"outline": 0.1, "outline_colour": "#00ff00", "box": "#0000ff", "box_opacity": 0.5}
    full = card_picture(card("HH", colour="#ff0000", **style), *SIZE).whole()
    inside = plain[..., 3] > 0.999
    assert full[inside][:, 0].min() > 0.99, "letters are their own colour"
    assert full[inside][:, 1:3].max() < 0.01
    around = (full[..., 1] > 0.9) & ~inside
    assert around.sum() > 50
    box = (full[..., 2] > 0.4) & (full[..., 1] < 0.01) & (full[..., 0] < 0.01)
    assert box.sum() > 300
    assert full[box][:, 3] == pytest.approx(0.5, abs=0.01)
    assert (full[..., :3] <= full[..., 3:] + 1e-5).all(), "premultiplied"


def test_parts_of_a_card_have_sizes_weights_and_colours_of_their_own() -> None:
    lines = (CardLine("HHHH"), CardLine("HHHH", 0.5, False, "#ff0000"))
    laid = set_card(Card(lines), WIDE)
    first, second = laid.glyphs[0], laid.glyphs[-1]
    assert (second.em / first.em, second.colour) == (0.5, "#ff0000")
    assert first.font is not second.font
    assert 0.4 < second.y - first.y < 1.1


def luma(picture: av.VideoFrame) -> NDArray[np.uint8]:
    plane = picture.planes[0]
    rows = np.frombuffer(memoryview(plane), np.uint8).reshape(plane.height, plane.line_size)
    return rows[:, : plane.width]


def test_the_film_has_the_very_pixels_of_the_cards_picture() -> None:
    one = worded(PRESETS["caption"], "Lamp Room")
    made = composed([CompositeLayer(colour="#204060"), CompositeLayer(card=one)], *SIZE)
    rgba = card_picture(one, *SIZE).whole()
    light = 0.2126 * rgba[..., 0] + 0.7152 * rgba[..., 1] + 0.0722 * rgba[..., 2]
    beneath = coded("#204060")[0]
    wanted = 16 + 219 * light + (beneath - 16) * (1 - rgba[..., 3])
    assert np.abs(luma(made) - wanted).max() <= 0.51
    outside = rgba[..., 3] == 0
    assert (luma(made)[outside] == beneath).all()


def test_a_card_by_the_short_way_and_through_the_chain_is_the_same_picture() -> None:
    one = card("Lamp Room", size=0.2, box="#ff0000", box_opacity=0.4)
    under = CompositeLayer(colour="#336699")
    short = composed([under, CompositeLayer(card=one)], *SIZE)
    # A step that does something elsewhere takes the whole stack through the chain.
    lifted = PLACE(scale=0.5).at(0)
    small = CompositeLayer((Act(PLACE, lifted),), colour="#000000")
    long = composed([small, under, CompositeLayer(card=one)], *SIZE)
    assert np.abs(luma(short).astype(int) - luma(long)).max() <= 1


def test_a_card_flickers_and_fades_frame_by_frame_in_the_film() -> None:
    pattern = "1101001"
    keys = tuple(Key(n, float(c), "hold") for n, c in enumerate(pattern))
    up = Curve((Key(0, 0.0, "straight"), Key(10, 1.0, "straight")))
    spans = [
        Span(2, 9, Title(card("HHH", size=0.4)), chain=(OPACITY(amount=Curve(keys)),)),
        Span(10, 20, Title(card("HHH", size=0.4)), chain=(OPACITY(amount=up),)),
    ]
    film = Film(of([Span(0, 20, Black())], spans), {}, None, Fraction(24), *SIZE, 0, 20)
    most = [int(luma(p).max()) for p in film_pictures(film)]
    assert [m > 200 for m in most[2:9]] == [c == "1" for c in pattern]
    assert most[:2] + most[9:10] == [16, 16, 16]
    assert most[10:] == [pytest.approx(16 + 219 * (n + 0.5) / 10, abs=1) for n in range(10)]


@pytest.mark.parametrize(
    "data",
    [b"", b"these are words, not a font" * 50, b"wOFF" + bytes(200), b"\x00\x01\x00\x00" + b"\xff" * 300],
)
def test_a_file_that_is_no_font_is_refused_by_name(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "broken.ttf"
    path.write_bytes(data)
    with pytest.raises(UnreadableMedia, match=r"broken\.ttf"):
        font_of(path)
    with pytest.raises(UnreadableMedia, match=r"gone\.ttf"):
        font_of(tmp_path / "gone.ttf")


def test_a_font_cut_off_anywhere_is_refused_or_sets_its_letters(tmp_path: Path) -> None:
    whole = sorted((Path(__file__).parents[2] / "src/zembi/fonts").glob("limelight-latin-400*"))[
        0
    ].read_bytes()
    for share in (0.1, 0.4, 0.7, 0.95):
        path = tmp_path / f"cut-{share}.woff"
        path.write_bytes(whole[: int(len(whole) * share)])
        with pytest.raises(UnreadableMedia):
            font_of(path)


@pytest.mark.parametrize(
    "text", ["\u202e" + "abc", "a" * 2000, "\u0301" * 50, "\u200b", "🇦🇧" * 20, "ﷺ", "a\u0300" * 300, "\t\t"]
)
def test_odd_letters_are_set_or_named(text: str) -> None:
    laid = set_card(card(text + " x"), WIDE)
    picture = card_picture(card(text + " x"), *SIZE)
    assert np.isfinite(picture.rgba).all()
    assert laid.right >= laid.left


def test_letters_that_are_still_to_come_leave_the_others_where_they_stand() -> None:
    words = Card((CardLine("one two"),), shadow=0.0, outline=0.0)
    whole = card_picture(words, 640, 360).whole()
    first = card_picture(words, 640, 360, Shown(end=3)).whole()
    second = card_picture(words, 640, 360, Shown(first=3)).whole()
    assert first[..., 3].sum() > 50
    # Letters stand apart: what is seen of both is all that is seen of the whole.
    assert np.array_equal(np.maximum(first, second), whole)


def test_the_sung_word_is_coloured_larger_and_heavier_about_its_middle() -> None:
    words = Card((CardLine("one two"),), colour="#ffffff", shadow=0.0)
    plain = card_picture(words, 640, 360, Shown(first=4)).whole()[..., 3]
    red = card_picture(words, 640, 360, Shown(lit_first=4, lit_end=7, colour="#ff0000")).whole()
    assert np.allclose(red[..., 0], red[..., 3])
    assert np.array_equal(red[..., 3] - red[..., 1] > 0, plain > 0)
    seen = Shown(first=4, lit_first=4, lit_end=7, colour="#ffffff", grow=0.5)
    grown = card_picture(words, 640, 360, seen).whole()[..., 3]
    columns = [np.nonzero(p.any(0))[0] for p in (plain, grown)]
    assert np.ptp(columns[1]) == pytest.approx(1.5 * np.ptp(columns[0]), abs=3)
    assert columns[1].mean() == pytest.approx(columns[0].mean(), abs=2)
    heavy = card_picture(words, 640, 360, replace(seen, grow=0.0, heavier=0.035)).whole()[..., 3]
    assert heavy.sum() > 1.15 * plain.sum()


def test_a_cursor_stands_behind_the_last_letter() -> None:
    words = Card((CardLine("ab"),), shadow=0.0)
    without, with_it = (
        card_picture(words, 640, 360, Shown(end=1, cursor=c)).whole()[..., 3] for c in (False, True)
    )
    added = np.nonzero((with_it - without).any(0))[0]
    assert added.min() > np.nonzero(without.any(0))[0].max()
    assert 1 <= np.ptp(added) <= 4


def test_words_come_in_the_film_in_their_frames() -> None:
    words = Card((CardLine("one two"),), shadow=0.0)
    spans = (Span(0, 2, Title(words, Shown(end=3))), Span(2, 4, Title(words)))
    film = Film(Programme(4, (Layer("Titles", spans),)), {}, None, Fraction(24), 320, 180, 0, 4)
    light = [int((planes_of(p)[0] > 100).sum()) for p in film_pictures(film)]
    assert light[0] == light[1]
    assert light[2] == light[3]
    assert light[2] > 1.5 * light[0] > 0


def test_a_font_file_is_used_where_it_is_there_and_is_named_where_it_is_not(tmp_path: Path) -> None:
    own = tmp_path / "own.woff"
    here = card("Lamp Room", font="plain", file=str(own))
    plain = set_card(card("Lamp Room", font="plain"), WIDE)
    assert set_card(here, WIDE).stand_in == "The font file own.woff is not there: “plain” stands in."
    assert set_card(here, WIDE).glyphs == plain.glyphs
    own.write_bytes(next(fonts.FOLDER.glob("limelight-latin-400*.woff")).read_bytes())
    laid = set_card(here, WIDE)
    assert laid.stand_in == ""
    assert {g.font.name for g in laid.glyphs if g.number} == {"own"}
    assert laid.right - laid.left == pytest.approx(advance("Lamp Room", "display", False), abs=1e-6)
    # A letter that it has not is taken from the family that it stands beside.
    assert not set_card(card("Жук", font="plain", file=str(own)), WIDE).missing
    own.write_text("no font at all")
    assert "no font" in set_card(here, WIDE).stand_in
    assert set_card(here, WIDE).glyphs == plain.glyphs


def test_a_font_file_that_is_too_large_or_a_folder_is_named(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(fonts, "MOST_FONT_BYTES", 1000)
    large = tmp_path / "large.ttf"
    large.write_bytes(b"\0" * 2000)
    assert "too large" in set_card(card("x", file=str(large)), WIDE).stand_in
    assert "stands in" in set_card(card("x", file=str(tmp_path)), WIDE).stand_in


def flat(value: int, size: tuple[int, int] = (512, 288)) -> NDArray[np.uint8]:
    return np.full((size[1], size[0], 3), value, np.uint8)


def test_contrast_is_that_of_letters_and_what_is_around_them() -> None:
    white = card("HELLO", size=0.3, colour="#ffffff")
    # White over black and over white are the scale's ends (WCAG 2.2).
    assert contrast(white, [flat(0)]) == pytest.approx(21, abs=2)
    assert contrast(white, [flat(255)]) == pytest.approx(1, abs=0.05)
    # #767676 is the grey on which white has 4.54 to 1; letters are a little less light at their edges.
    assert contrast(white, [flat(0x76)]) == pytest.approx(4.54, abs=0.3)
    # The worst of three counts.
    assert contrast(white, [flat(0), flat(0x76), flat(0)]) == pytest.approx(4.54, abs=0.3)


def test_an_outline_a_box_and_a_shadow_make_words_readable() -> None:
    white = card("HELLO", size=0.3, colour="#ffffff")
    over_light = [flat(240)]
    plain = contrast(white, over_light) or 0
    assert plain < 1.3
    assert (contrast(replace(white, outline=0.1, outline_colour="#000000"), over_light) or 0) > 10
    assert (contrast(replace(white, box="#000000", box_opacity=1.0), over_light) or 0) > 15
    assert (contrast(replace(white, shadow=0.1), over_light) or 0) > plain


def test_a_picture_that_is_light_in_one_part_makes_those_letters_hard_to_read() -> None:
    white = card("HELLO HELLO", size=0.2, colour="#ffffff")
    half = flat(0)
    half[:, 256:] = 255
    assert (contrast(white, [half]) or 9) < 1.5
    assert contrast(card(".", size=0.01), [flat(0)]) is None


def test_parts_of_a_line_have_their_own_size_weight_and_colour_on_one_baseline() -> None:
    parts = (CardPart(0, 4, 2.0, None, "#ff0000"), CardPart(5, 9, 1.0, True))
    line = CardLine("LAMP ROOM BY", bold=False, parts=parts)
    laid = set_card(Card((line,), font="plain", shadow=0.0), WIDE)
    plain = set_card(Card((CardLine("LAMP ROOM BY", bold=False),), font="plain", shadow=0.0), WIDE)
    assert len({g.y for g in laid.glyphs}) == 1
    assert [g.em for g in laid.glyphs] == [2.0] * 4 + [1.0] * 8
    assert [g.colour for g in laid.glyphs] == ["#ff0000"] * 4 + ["#ffffff"] * 8
    assert {g.font.name for g in laid.glyphs[5:9]} != {g.font.name for g in laid.glyphs[:4]}
    wide = 2 * advance("LAMP", "plain", False) + advance("ROOM", "plain", True)
    rest = plain.right - plain.left - advance("LAMP", "plain", False) - advance("ROOM", "plain", False)
    assert laid.right - laid.left == pytest.approx(wide + rest, abs=0.03)
    # The line is as high as its largest letters.
    assert laid.bottom - laid.top == pytest.approx(2 * (plain.bottom - plain.top), abs=1e-6)
    assert [g.letter for g in laid.glyphs] == [*range(12)]


def test_a_line_of_parts_is_broken_by_what_they_measure() -> None:
    words = "lamp room lamp room lamp room"
    small = Card((CardLine(words),), size=0.1)
    assert len(set_card(small, WIDE).lines) == 1
    large = Card((CardLine(words, parts=(CardPart(0, len(words), 2.0),)),), size=0.1)
    assert set_card(large, WIDE).lines == set_card(Card((CardLine(words, 2.0),), size=0.1), WIDE).lines
    later = Card((CardLine(words, parts=(CardPart(20, 24, 5.0, None, "#00ff00"),)),), size=0.1)
    laid = set_card(later, WIDE)
    assert len(laid.lines) > 1
    green = [g.letter for g in laid.glyphs if g.colour == "#00ff00"]
    assert green == [20, 21, 22, 23]
