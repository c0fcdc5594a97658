"""The time of a passage: the cut film itself is turned back, shown again, slowed; what lies around it stays."""

from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests import treating
from tests.core.test_treatments import CONTEXT, EDIT, MATERIAL, music, pictures
from tests.edits import apply, ranges_of
from zembi.core.edit.checks import of_treatments
from zembi.core.edit.compiling import compiled
from zembi.core.edit.operations import Treat, TreatRange
from zembi.core.errors import BadInput, Refused, ZembiError
from zembi.core.interchange.timeline import MediaRef, read_timeline, write_timeline
from zembi.core.programme.flatten import stretches
from zembi.core.treatments import model as m
from zembi.core.treatments.music import Length, On, Place
from zembi.core.treatments.timing import warped

RATE = Fraction(24)
PLAIN = [pictures(compiled(EDIT, MATERIAL), layer) for layer in (0, 1)]


def both(edit: Any) -> list[list[list[tuple[str, float, Any]]]]:
    programme = compiled(edit, MATERIAL)
    over = [layer.name for layer in programme.layers].count("Cutaways")
    return [pictures(programme), pictures(programme, 1) if over else [[] for _ in range(programme.length)]]


def ranged(first: int, end: int, *treatments: Any, edit: Any = EDIT) -> Any:
    return apply(edit, TreatRange(first, end, treatments), CONTEXT)


def test_reversed_the_film_runs_back_over_its_cuts() -> None:
    """From bar 2 to bar 7 lie three shots, two cuts and a cutaway."""
    shown = both(ranged(60, 400, m.Reverse()))
    for layer in (0, 1):
        assert shown[layer][:60] == PLAIN[layer][:60]
        assert shown[layer][400:] == PLAIN[layer][400:]
        assert shown[layer][60:400] == PLAIN[layer][60:400][::-1]


def test_a_rewind_shows_again_what_was_cut_there() -> None:
    back = m.Rewind(Place(4, 1), Place(2, 1), Length(1, "bars"))
    shown = both(ranged(48, 480, back))[0]
    at, to = (music().frame_of(p) for p in (back.at, back.to))
    assert shown[:at] == PLAIN[0][:at]
    # Twice as fast over the two bars, across the cut at 192 and that at 96.
    again = shown[at : at + 48]
    assert [f[0][0] for f in again] == [PLAIN[0][at - 1 - 2 * k][0][0] for k in range(48)]
    assert shown[at + 48 : at + 48 + 40] == PLAIN[0][to : to + 40]


def test_a_stutter_on_every_bar_and_a_freeze_hold_what_is_cut_there() -> None:
    shown = both(ranged(0, 480, m.Stutter(on=On("bar"), piece=Length(6, "frames"), times=3)))[0]
    for bar in (48, 96, 192, 432):
        for k in range(18):
            assert shown[bar + k] == PLAIN[0][bar + k % 6]
        assert shown[bar + 18] == PLAIN[0][bar + 18], "then it catches up"
    still = both(ranged(0, 480, m.Freeze(Place(5, 1), over=Length(20, "frames"))))[0]
    assert list(still[192:212]) == [PLAIN[0][192]] * 20


def test_what_a_shot_does_itself_goes_with_its_picture() -> None:
    """A drift in a shot runs back with it, and a ramp in a clip under a ramp of the passage is right in every frame."""
    edit = apply(EDIT, Treat((96,), (m.Drift(to_scale=1.5), m.Ramp((0.5, 1.5)))), CONTEXT)
    plain = pictures(compiled(edit, MATERIAL))
    back = both(ranged(96, 192, m.Reverse(), edit=edit))[0][96:192]
    for k, (name, at, seen) in enumerate(f[0] for f in back):
        there = plain[191 - k][0]
        assert (name, at) == (there[0], pytest.approx(there[1], abs=1e-5))
        assert seen.scale == pytest.approx(there[2].scale)
    ramp = m.Ramp((0.5, 1.5), ease="straight", over=Length(2, "bars"))
    both_ramps = both(ranged(96, 192, ramp, edit=edit))[0][96:192]
    frames = np.floor(warped([ramp], MATERIAL.ground(96, 192)).times(RATE) * 24 + 1e-6).astype(int)
    for k, f in enumerate(frames):
        there = plain[96 + f][0]
        assert both_ramps[k][0][1] == pytest.approx(there[1], abs=1.5 / 24)


def test_a_pulse_of_the_same_passage_stays_on_the_music() -> None:
    pulse = m.Pulse("scale", 0.2, On("bar"), fall=Length(6, "frames"))
    shown = both(ranged(96, 480, m.Reverse(), pulse))[0]
    for bar, _ in music().places(On("bar"), 96, 480):
        assert shown[bar][0][2].scale == pytest.approx(1.2)
    assert shown[96][0][:2] == PLAIN[0][479][0][:2]


def test_a_dissolve_runs_back_too_and_its_layers_keep_their_order() -> None:
    edit = apply(EDIT, Treat((192,), (m.Dissolve(Length(24, "frames"), shape="straight"),)), CONTEXT)
    plain, shown = pictures(compiled(edit, MATERIAL)), both(ranged(96, 288, m.Reverse(), edit=edit))[0]
    assert shown[96:288] == plain[96:288][::-1]
    assert max(len(f) for f in shown) == 2
    outside = both(ranged(300, 400, m.Reverse(), edit=edit))[0]
    assert outside[:300] == plain[:300], "one outside is as it was"


def test_it_may_lead_out_of_the_passage_and_stays_on_the_films_last_frame() -> None:
    shown = both(ranged(0, 96, m.Speed(3.0)))[0]
    assert [f[0][0] for f in shown[:96]] == [PLAIN[0][1 + 3 * k][0][0] for k in range(96)]
    late = both(ranged(900, 960, m.JumpCuts(On("beat"), Length(1, "bars"))))[0]
    assert [f[0][0] for f in late[-10:]] == [PLAIN[0][959][0][0]] * 10


def test_frames_in_between_are_made_in_a_slowed_passage() -> None:
    slow = compiled(ranged(96, 192, m.Speed(0.5), m.Blend("moved")), MATERIAL).layers[0].spans
    assert {s.blend for s in slow if 96 <= s.start < 192} == {"moved"}
    assert {s.blend for s in slow if not 96 <= s.start < 192} == {""}


@settings(max_examples=80, deadline=None)
@given(
    st.lists(treating.anywhere, min_size=1, max_size=2).map(tuple), st.integers(0, 900), st.integers(2, 400)
)
def test_every_frame_shows_what_the_film_shows_where_its_time_is(
    treatments: tuple[Any, ...], first: int, long: int
) -> None:
    end = min(960, first + long)
    try:
        edit = ranged(first, end, *treatments)
    except ZembiError:
        assume(False)
    assert edit.shots == EDIT.shots, "no cut moves"
    shown = both(edit)
    seen = warped(list(treatments), MATERIAL.ground(first, end)).times(RATE)
    frames = np.clip(np.floor(seen * 24 + 1e-6).astype(int) + first, 0, 959)
    for layer in (0, 1):
        assert shown[layer][:first] == PLAIN[layer][:first]
        assert shown[layer][end:] == PLAIN[layer][end:]
        for k, f in enumerate(frames):
            now, there = shown[layer][first + k], PLAIN[layer][f]
            assert [x[0] for x in now] == [x[0] for x in there]
            assert [x[1] for x in now] == pytest.approx([x[1] for x in there], abs=0.51 / 24)
            assert [x[2] for x in now] == [x[2] for x in there]


@settings(max_examples=25, deadline=None)
@given(treating.anywhere, st.integers(0, 700))
def test_another_program_is_given_the_same_pictures(treatment: Any, first: int) -> None:
    try:
        programme = compiled(ranged(first, first + 200, treatment), MATERIAL)
    except ZembiError:
        assume(False)
    refs = {n: MediaRef(f"file:///{n}.mov", n, 60.0) for n in ("wide", "close", "rope", "gulls")}
    read = read_timeline(write_timeline("t", programme, refs, RATE, None)).programme
    for a, b, stack in stretches(programme, 0, 960):
        there = [s for _, _, s in stretches(read, a, b)]
        wanted = [refs[s.media].url for s in stack if s.media]
        assert [s.media for s in there[0] if s.media] == wanted


def test_what_is_of_one_shot_is_refused_and_lips_are_said_to_be_off_the_song() -> None:
    for t in (m.FitSlot(1.0, 2.0), m.MomentOnBeat(1.0, Place(2)), m.Dissolve(), m.Dip()):
        with pytest.raises(Refused, match="of one shot"):
            ranged(0, 96, t)
    with pytest.raises(Refused, match="of clips"):
        ranged(0, 96, m.JumpCuts(by=None))
    with pytest.raises(BadInput):
        ranged(96, 96, m.Reverse())
    names = {4: "wide", 9: "close"}
    found = of_treatments(ranged(96, 192, m.Reverse()), MATERIAL, names)
    assert not [f for f in found if f.kind == "out of sync"], "a clip has no lips"
    found = of_treatments(ranged(96, 200, m.Reverse(), m.Pulse()), MATERIAL, names)
    (off,) = [f for f in found if f.kind == "out of sync"]
    assert (off.start, off.end) == (96, 200)
    assert "(reverse)" in off.text
    assert ranges_of(ranged(96, 200, replace(m.Reverse(), off=True)))[0].treatments[0].off
