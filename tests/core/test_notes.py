"""Notes as people write them, read and written."""

from contextlib import suppress
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zembi.core.errors import BadInput
from zembi.core.interchange.notes import (
    LONGEST_NOTE,
    Film,
    ReadNote,
    read_notes,
    write_notes_csv,
    write_notes_vtt,
)
from zembi.core.song.corrections import Corrections, build_grid

#: Half a second a beat, two seconds a bar, forty seconds of bars in a film of two minutes.
GRID = build_grid([i * 0.5 for i in range(241)], [i * 2.0 for i in range(61)], 4, 120.0, Corrections())
SECTIONS = [
    ("Verse 1", 0.0, 30.0),
    ("Chorus 1", 30.0, 60.0),
    ("Chorus 10", 60.0, 90.0),
    ("Outro", 90.0, 120.0),
]
FILM = Film(0.0, 120.0, GRID, SECTIONS, Fraction(24))


@pytest.mark.parametrize(
    ("line", "start", "end", "text", "who"),
    [
        ("1:12 more of the guitar", 72.0, 72.0, "more of the guitar", ""),
        ("0:48-0:52 too dark", 48.0, 52.0, "too dark", ""),
        ("at 0:48 – 0:52: too dark", 48.0, 52.0, "too dark", ""),
        ("from 0:48 to 0:52, too dark", 48.0, 52.0, "too dark", ""),
        ("- [1:12.5] lips?", 72.5, 72.5, "lips?", ""),
        ("3) 01:12 lips?", 72.0, 72.0, "lips?", ""),
        ("00:01:12:12 lips?", 72.5, 72.5, "lips?", ""),
        ("0:01:12 lips?", 72.0, 72.0, "lips?", ""),
        ("1m12s lips?", 72.0, 72.0, "lips?", ""),
        ("1 min 12 sec - lips?", 72.0, 72.0, "lips?", ""),
        ("72s lips?", 72.0, 72.0, "lips?", ""),
        ("bar 33 - lips?", 64.0, 66.0, "lips?", ""),
        ("Bars 33-36: nobody looks up", 64.0, 72.0, "nobody looks up", ""),
        ("33.3 a flash", 65.0, 65.0, "a flash", ""),
        ("33.3 to 34.1 a flash", 65.0, 66.5, "a flash", ""),
        ("chorus 1: the cut is late", 30.0, 60.0, "the cut is late", ""),
        ("CHORUS 10 - more light", 60.0, 90.0, "more light", ""),
        ("Orrin: 1:12 my hair", 72.0, 72.0, "my hair", "Orrin"),
        ("Juno Vale: bar 33 - again", 64.0, 66.0, "again", "Juno Vale"),
        ("• Orrin: chorus 1: louder", 30.0, 60.0, "louder", "Orrin"),
        ("the ending is lovely", 0.0, 120.0, "the ending is lovely", ""),
        ("9:99 is not in the film", 0.0, 120.0, "9:99 is not in the film", ""),
        ("bar 999 neither", 0.0, 120.0, "bar 999 neither", ""),
        ("4 more shots of the net", 0.0, 120.0, "4 more shots of the net", ""),
    ],
)  # fmt: skip
def test_a_time_is_read_however_it_is_written(
    line: str, start: float, end: float, text: str, who: str
) -> None:
    (note,) = read_notes(line, FILM)
    assert (note.start_s, note.end_s, note.text, note.who) == (start, end, text, who)
    assert bool(note.time) == ((start, end) != (0.0, 120.0))


def test_a_list_is_read_line_by_line_and_a_line_without_a_time_goes_on() -> None:
    text = "thanks, we love it\n\n1:12 more guitar\nand less of the drums\n\n0:48-0:52 too dark\n"
    notes = read_notes(text, FILM)
    assert [(n.start_s, n.text) for n in notes] == [
        (0.0, "thanks, we love it"), (72.0, "more guitar\nand less of the drums"), (48.0, "too dark"),
    ]  # fmt: skip


def test_times_of_a_film_that_begins_before_its_song_are_of_the_film() -> None:
    (note, bar) = read_notes(
        "0:03 the card is long\nbar 1 a late cut", Film(-2.0, 120.0, GRID, SECTIONS, Fraction(24))
    )
    assert note.start_s == 1.0
    assert bar.start_s == 0.0
    timecode = Film(-2.0, 120.0, GRID, SECTIONS, Fraction(24), first_frame=86400)
    (counted,) = read_notes("01:00:04:12 here", timecode)
    assert counted.start_s == pytest.approx(2.5)


@pytest.mark.parametrize("text", ["", " \n\n", "start_s,note\nx,late", "start_s\n1e9"])
def test_what_holds_no_note_is_refused_in_words(text: str) -> None:
    with pytest.raises(BadInput):
        read_notes(text, FILM)
    with pytest.raises(BadInput, match="more than"):
        read_notes("\n".join(f"1:{n % 60:02d} x" for n in range(3000)), FILM)


_words = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), min_size=1, max_size=40)


@settings(max_examples=100, deadline=None)
@given(
    st.lists(
        st.builds(
            lambda a, n, w, who, s: ReadNote(a / 1000, (a + n) / 1000, w, who, state=s),
            st.integers(0, 110_000), st.sampled_from([0, 500, 4000]), _words,
            st.sampled_from(["", "Orrin", "=Juno"]), st.sampled_from(["open", "done", "will not do"]),
        ),
        min_size=1, max_size=8,
    )
)  # fmt: skip
def test_notes_come_back_from_a_table_whole_and_from_timed_text_without_their_state(
    notes: list[ReadNote],
) -> None:
    back = read_notes(write_notes_csv(notes), FILM)
    assert [(n.start_s, n.end_s, n.text, n.who, n.state) for n in back] == [
        (n.start_s, n.end_s, n.text, n.who, n.state) for n in notes
    ]
    timed = (
        read_notes(write_notes_vtt([n for n in notes if ":" not in n.text]) + "\n", FILM)
        if any(":" not in n.text for n in notes)
        else []
    )
    wanted = [n for n in notes if ":" not in n.text]
    assert [(n.start_s, n.end_s, n.who) for n in timed] == [(n.start_s, n.end_s, n.who) for n in wanted]


@settings(max_examples=200, deadline=None)
@given(st.text(max_size=200))
def test_whatever_is_pasted_is_read_or_refused_in_words(text: str) -> None:
    with suppress(BadInput):
        assert all(n.end_s >= n.start_s and len(n.text) <= LONGEST_NOTE for n in read_notes(text, FILM))
