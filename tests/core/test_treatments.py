"""Treatments: solved to the frame, filling their shot, following the music, moving no cut."""

import dataclasses
import itertools
import json
import math
from fractions import Fraction
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests import treating
from tests.edits import apply, ranges_of
from tests.looks import AS_IT_IS, look_at
from tests.spans import span
from zembi.core.edit.checks import of_treatments
from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.compiling.treated import made_of
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.lanes.base import cut, with_shots
from zembi.core.edit.model import AngleSource, Beneath, ClipSource, Edit, Item
from zembi.core.edit.operations import Context, CutAs, Treat, TreatRange
from zembi.core.edit.operations.context import AngleCoverage, Footage
from zembi.core.errors import BadInput, Refused, ZembiError
from zembi.core.picture.chain import acts_at
from zembi.core.programme.model import Hole, Programme, Span
from zembi.core.song.grid import Grid
from zembi.core.treatments import model as m
from zembi.core.treatments.colours import colouring, flashes_a_second
from zembi.core.treatments.looks import looks
from zembi.core.treatments.music import Length, Music, On, Place
from zembi.core.treatments.timing import Clip, Ground, warp, warped
from zembi.core.treatments.words import said

#: The rates at which everything has to be exact.
RATES = [Fraction(24000, 1001), Fraction(25), Fraction(30000, 1001), Fraction(60)]
#: Two beats a second, four to a bar, with a bar before the song; bar 1 begins at 0 s.
GRID = Grid(tuple(np.arange(-4, 96) * 0.5), tuple(range(0, 100, 4)), 0)
LOW = tuple((0.5 * k + 0.012, 0.3 + 0.1 * (k % 8)) for k in range(80))


def music(rate: Fraction = Fraction(24), grid: Grid = GRID) -> Music:
    return Music(rate, grid, (0.0, 8.0, 16.0, 24.0), (3.3, 9.1), {"low": LOW, "mid": LOW[::2]})


def ground(first: int, end: int, rate: Fraction = Fraction(24), clip: Clip | None = Clip(3.0)) -> Ground:
    return Ground(first, end, music(rate), clip)


def shown(treatment: Any, on: Ground) -> list[int]:
    """Frames of the shot's own picture that are seen, where that has the programme's rate."""
    times = warp(treatment, on).times(on.rate)
    return [math.floor(t * float(on.rate) + 1e-6) for t in times]


# Known answers: eight frames, two beats of 12 frames before and after...


def test_reverse_shows_every_frame_once_the_last_first() -> None:
    assert shown(m.Reverse(), ground(0, 8)) == [7, 6, 5, 4, 3, 2, 1, 0]


def test_a_freeze_stands_on_its_frame_and_catches_up_or_goes_on() -> None:
    at, two = Place(1, 1.5), Length(3, "frames")
    assert shown(m.Freeze(at, over=two), ground(0, 12)) == [0, 1, 2, 3, 4, 5, 6, 6, 6, 9, 10, 11]
    assert shown(m.Freeze(at, over=two, after="goes on"), ground(0, 12)) == [
        0,
        1,
        2,
        3,
        4,
        5,
        6,
        6,
        6,
        7,
        8,
        9,
    ]


def test_a_stutter_shows_a_piece_again() -> None:
    stutter = m.Stutter(Place(1, 1.5), piece=Length(2, "frames"), times=3)
    assert shown(stutter, ground(0, 14)) == [0, 1, 2, 3, 4, 5, 6, 7, 6, 7, 6, 7, 12, 13]
    on = dataclasses.replace(stutter, after="goes on")
    assert shown(on, ground(0, 14)) == [0, 1, 2, 3, 4, 5, 6, 7, 6, 7, 6, 7, 8, 9]
    to_the_end = dataclasses.replace(stutter, times=None)
    assert shown(to_the_end, ground(0, 13)) == [0, 1, 2, 3, 4, 5, 6, 7, 6, 7, 6, 7, 6]
    each_beat = m.Stutter(on=On("beat"), piece=Length(5, "frames"), times=None)
    assert shown(each_beat, ground(0, 24)) == [0, 1, 2, 3, 4] * 2 + [0, 1] + [12, 13, 14, 15, 16] * 2 + [
        12,
        13,
    ]


def test_back_and_forth_turns_on_its_length() -> None:
    turns = m.BackAndForth(Length(4, "frames"))
    assert shown(turns, ground(0, 11)) == [0, 1, 2, 3, 3, 2, 1, 0, 0, 1, 2]


def test_a_rewind_goes_back_to_what_was_seen_and_on_from_there() -> None:
    back = m.Rewind(Place(1, 3), Place(1, 1), Length(1))
    seen = shown(back, ground(0, 48))
    assert seen[:24] == list(range(24))
    assert seen[24:36] == [22, 20, 18, 16, 14, 12, 10, 8, 6, 4, 2, 0] or seen[24:36] == list(
        range(23, -1, -2)
    )
    assert seen[36:] == list(range(12))
    grows = np.diff(warp(dataclasses.replace(back, grows=True), ground(0, 48)).times(Fraction(24))[24:36])
    assert np.argmin(grows) in (5, 6), "fastest in the middle"
    with pytest.raises(Refused, match="seen before"):
        warp(m.Rewind(Place(1, 2), Place(1, 3)), ground(0, 48))


def test_jump_cuts_leap_on_each_hit_and_to_the_next_movement() -> None:
    leaps = m.JumpCuts(On("beat"), Length(1))
    seen = shown(leaps, ground(0, 36))
    assert seen == [*range(12), *range(24, 36), *range(48, 60)]
    moving = Clip(3.0, 1.0, lambda: (3.0, 5.0, 9.0))
    seen = shown(m.JumpCuts(On("beat"), None), ground(0, 36, clip=moving))
    assert (seen[11], seen[12], seen[24]) == (11, 48, 144), "5 s of the clip is 2 s into the shot, 9 s is 6 s"


def test_the_source_is_counted_in_words() -> None:
    on = ground(0, 48)
    assert said(m.Speed(0.5), on, Fraction(24)) == "0.50 times, each frame shown about 2.0 times"
    assert said(m.Speed(0.8), on, Fraction(24)) == "0.80 times, about every 5th frame shown twice"
    assert said(m.Speed(2.0), on, Fraction(24)) == "2.00 times, every 2nd frame of the clip shown"
    assert said(m.Speed(0.5), on, Fraction(48)) == "0.50 times", "twice as many frames: none is shown twice"
    assert said(m.FitSlot(3.0, 6.0), on) == "1.50 times"
    assert said(m.Pulse(amount=0.05), on).startswith("scale +5 % on low attacks (")


@pytest.mark.parametrize("rate", RATES)
@given(st.integers(0, 300), st.integers(2, 400), st.floats(0, 30), st.floats(0.5, 20))
def test_a_fitted_clip_fills_its_slot_to_the_last_frame(
    rate: Fraction, first: int, frames: int, in_s: float, seconds: float
) -> None:
    on = ground(first, first + frames, rate, Clip(in_s))
    try:
        seen = warp(m.FitSlot(in_s + 1.0, in_s + 1.0 + seconds), on)
    except Refused:
        assume(False)
    assert seen.frames == frames
    (piece,) = seen.pieces
    assert piece.at_s == pytest.approx(1.0)
    assert piece.after(frames / float(rate), rate) == pytest.approx(1.0 + seconds)


@pytest.mark.parametrize("rate", RATES)
@settings(max_examples=60)
@given(st.data())
def test_the_moment_is_on_display_in_the_frame_of_its_beat(rate: Fraction, data: st.DataObject) -> None:
    first = data.draw(st.integers(0, 200))
    place = Place(data.draw(st.integers(2, 9)), data.draw(st.sampled_from([1.0, 2.0, 2.5, 4.0])))
    frame = music(rate).frame_of(place) - first
    assume(frame > 0)
    end = first + frame + data.draw(st.integers(3, 300))
    clip = Clip(data.draw(st.floats(0, 20)), data.draw(st.sampled_from([0.5, 1.0, 2.0])))
    moment = clip.in_s + data.draw(st.floats(0.3, 20))
    hold = data.draw(st.sampled_from(["head", "tail"]))
    rest = data.draw(st.sampled_from(["same", "normal"]))
    end_s = moment + data.draw(st.floats(0.3, 20))
    on = ground(first, end, rate, clip)
    try:
        seen = warp(m.MomentOnBeat(moment, place, hold, end_s, rest), on)
    except Refused:
        assume(False)
    assert seen.frames == end - first
    times = clip.in_s + clip.speed * seen.times(rate)
    assert times[frame] == pytest.approx(moment, abs=1e-6)
    if hold == "head":
        assert clip.in_s + clip.speed * seen.start_s == pytest.approx(clip.in_s)
    else:
        last = seen.pieces[-1]
        assert clip.in_s + clip.speed * last.after(last.frames / float(rate), rate) == pytest.approx(end_s)
    assert np.all(np.diff(times) > 0)
    assert np.abs(np.diff(times)).max() < 60


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("rest", ["same", "normal"])
def test_two_moments_lie_on_two_beats_with_a_ramp_between(rate: Fraction, rest: Any) -> None:
    one, two = Place(2, 2), Place(3, 4)
    on = ground(20, round(12 * rate), rate, Clip(1.0))
    t = m.MomentOnBeat(3.0, one, rest=rest, then_s=9.5, then_at=two)
    seen = warp(t, on)
    times = 1.0 + seen.times(rate)
    assert times[on.place(one)] == pytest.approx(3.0, abs=1e-9)
    assert times[on.place(two)] == pytest.approx(9.5, abs=1e-9)
    assert np.all(np.diff(times) > 0)
    with pytest.raises(Refused, match="have to stop before"):
        warp(dataclasses.replace(t, then_s=3.05), on)
    with pytest.raises(Refused, match="has to lie after"):
        warp(dataclasses.replace(t, then_at=Place(2, 1)), on)


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("ease", ["straight", "smooth", "sharp"])
@pytest.mark.parametrize("solved", [0, 1, 2])
def test_a_ramp_is_solved_so_that_the_slot_is_filled_or_the_moment_lies_on_its_beat(
    rate: Fraction, ease: Any, solved: int
) -> None:
    on = ground(round(2 * rate), round(14 * rate), rate, Clip(1.0))
    t = m.Ramp((1.6, 0.7, 1.2), (Place(3), Place(5)), Length(1.5), ease, solved, moment_s=13.0)
    seen = warp(t, on)
    assert seen.frames == on.frames
    last = seen.pieces[-1]
    assert 1.0 + last.after(last.frames / float(rate), rate) == pytest.approx(13.0)
    there = dataclasses.replace(t, moment_s=7.0, moment_at=Place(4, 3))
    if solved < 2:
        times = 1.0 + warp(there, on).times(rate)
        assert times[on.place(Place(4, 3))] == pytest.approx(7.0)
    else:
        with pytest.raises(Refused, match="no part"):
            warp(there, on)


def test_a_change_of_speed_lies_around_its_beat_and_is_eased() -> None:
    on = ground(0, 96)
    for ease, steps in (("straight", 1), ("smooth", 12), ("sharp", 0)):
        pieces = warp(m.Ramp((2.0, 0.5), (Place(2),), Length(2), ease), on).pieces  # type: ignore[arg-type]
        before, after = (36, 36) if ease != "sharp" else (48, 48)
        assert (pieces[0].frames, pieces[0].speed) == (before, 2.0)
        assert (pieces[-1].frames, pieces[-1].end_speed) == (after, 0.5)
        assert len(pieces) - 2 == steps
        ends = [(p.end_speed, q.speed) for p, q in itertools.pairwise(pieces)]
        assert ease == "sharp" or all(a == pytest.approx(b) for a, b in ends), "no jump of speed"


@settings(max_examples=300)
@given(
    st.lists(treating.anywhere, max_size=3), st.integers(0, 200), st.integers(1, 200), st.sampled_from(RATES)
)
def test_time_is_given_for_every_frame_whatever_is_asked(
    treatments: list[Any], first: int, frames: int, rate: Fraction
) -> None:
    on = ground(first, first + frames, rate)
    ramps = sum(isinstance(t, m.Ramp) for t in treatments)
    try:
        seen = warped(treatments, on)
    except Refused:
        assert ramps > 1, "nothing but a second ramp is refused"
        return
    assert seen.frames == frames
    assert all(p.frames > 0 for p in seen.pieces)
    assert np.isfinite(seen.times(rate)).all()


@given(st.integers(1, 60), st.data())
def test_one_after_the_other_is_the_first_looked_at_through_the_second(
    frames: int, data: st.DataObject
) -> None:
    simple = [m.Reverse(), m.Speed(2.0), m.Speed(0.5), m.BackAndForth(Length(5, "frames")), m.Ramp((2.0, 0.5)),
              m.Freeze(over=Length(4, "frames"))]  # fmt: skip
    a, b = data.draw(st.sampled_from(simple)), data.draw(st.sampled_from(simple[:4]))
    on = ground(0, frames)
    own = np.floor(warp(b, on).times(on.rate) * 24 + 1e-6).astype(int)
    first = warp(a, on)
    both = warped([a, b], on).times(on.rate)
    if isinstance(b, m.Reverse | m.BackAndForth):
        assert both == pytest.approx(first.times(on.rate)[own]), "whole frames of the first"
    assert len(both) == frames


# The picture


@settings(max_examples=200)
@given(st.lists(treating.pictures, max_size=3), st.integers(0, 200), st.integers(1, 200))
def test_no_edge_is_ever_seen_and_values_stay_in_range(
    treatments: list[Any], first: int, frames: int
) -> None:
    on = ground(first, first + frames)
    kept = [t for t in treatments if isinstance(t, m.LOOK)]
    aspect = 16 / 9
    # A smaller picture than the frame is asked for by hand only.
    smaller = any(isinstance(t, m.Pulse | m.StepUp) and t.what == "scale" and t.amount < 0 for t in kept)
    curves = looks(kept, on, aspect)
    for n in {0, frames // 3, frames // 2, frames - 1}:
        look = look_at(curves, n, aspect)
        assert 0 <= look.lightness <= 2
        assert 0 <= look.vignette <= 1
        if smaller:
            continue
        # Every corner of the frame lies in the picture.
        angle = math.radians(-look.turn)
        for x in (-aspect / 2, aspect / 2):
            for y in (-0.5, 0.5):
                u, v = x - look.x * aspect, y - look.y
                across = (math.cos(angle) * u - math.sin(angle) * v) / look.scale
                down = (math.sin(angle) * u + math.cos(angle) * v) / look.scale
                assert abs(across) <= aspect / 2 + 1e-6
                assert abs(down) <= 0.5 + 1e-6
    for t in treatments:
        laid = colouring(t, on) if isinstance(t, m.COLOUR) else None
        if laid is not None:
            values = [laid.opacity.at(n) for n in range(laid.end - laid.first)]
            assert all(-1e-9 <= v <= 1 + 1e-9 for v in values)


def test_a_pulse_is_at_its_top_in_the_frame_of_each_hit_and_gone_after_its_fall() -> None:
    on = ground(0, 96)
    pulse = m.Pulse("scale", 0.1, On("low", 0.0), fall=Length(6, "frames"))
    curves = looks([pulse], on, 16 / 9)
    places = [f for f, _ in on.music.places(pulse.on, 0, 96)]
    assert len(places) == 8
    for place in places:
        assert look_at(curves, place, 16 / 9).scale == pytest.approx(1.1)
        assert look_at(curves, place + 7, 16 / 9).scale == 1
        if place:
            assert look_at(curves, place - 1, 16 / 9).scale == 1
    strong = looks([dataclasses.replace(pulse, follow=True)], on, 16 / 9)
    tops = [look_at(strong, p, 16 / 9).scale - 1 for p in places]
    assert tops == pytest.approx([0.1 * LOW[k][1] for k in range(8)])
    third = [f for f, _ in on.music.places(dataclasses.replace(pulse.on, every=3, skip=1), 0, 96)]
    assert third == places[1::3]


def test_steps_add_up_to_the_end_and_jump_or_glide() -> None:
    on = ground(0, 96)
    step = m.StepUp("scale", 0.15, On("beat"))
    jumps = looks([step], on, 16 / 9)
    assert [round(look_at(jumps, n, 16 / 9).scale, 2) for n in (0, 11, 12, 23, 24, 36, 95)] == [
        1.0, 1.0, 1.15, 1.15, 1.3, 1.45, 2.05,
    ]  # fmt: skip
    glides = looks([dataclasses.replace(step, glide=Length(6, "frames"))], on, 16 / 9)
    assert 1.0 < look_at(glides, 14, 16 / 9).scale < 1.15
    assert look_at(glides, 18, 16 / 9).scale == pytest.approx(1.15)
    assert look_at(jumps, 96, 16 / 9) == AS_IT_IS, "what follows a range is as it is"


def test_the_same_seed_is_the_same_shake() -> None:
    on, aspect = ground(0, 48), 16 / 9
    one, again, other = (looks([m.Shake(seed=s)], on, aspect) for s in (4, 4, 5))
    assert [look_at(one, n, aspect) for n in range(48)] == [look_at(again, n, aspect) for n in range(48)]
    assert [look_at(one, n, aspect) for n in range(48)] != [look_at(other, n, aspect) for n in range(48)]


def test_a_strobe_is_counted_in_frames_and_in_parts_of_a_beat_without_drifting() -> None:
    def opacity(t: m.Strobe, frames: int) -> list[float]:
        laid = colouring(t, ground(0, frames))
        assert laid is not None
        return [laid.opacity.at(n) for n in range(frames)]

    assert opacity(m.Strobe(Length(2, "frames")), 8) == [0, 1] * 4
    assert opacity(m.Strobe(Length(4, "frames"), 0.75), 8) == [0, 0, 0, 1] * 2
    assert opacity(m.Strobe(Length(4, "frames"), 0.5, beneath=True), 8) == [1, 1, 0, 0] * 2
    # A fifth of a beat of 12 frames is 2.4: after a beat it has made five turns.
    fifths = opacity(m.Strobe(Length(0.2)), 48)
    ups = [n for n in range(48) if fifths[n] == 0 and (n == 0 or fifths[n - 1] == 1)]
    assert len(ups) == 20
    assert [n for n in ups if n % 12 == 0] == [0, 12, 24, 36]


def test_fades_and_dips_are_whole_where_they_should_be() -> None:
    on = ground(100, 148)
    fade_in, fade_out, dip = (
        colouring(t, on) for t in (m.Fade(over=Length(12, "frames"), shape="straight"), m.Fade("out", Length(12, "frames")), m.Dip(Length(10, "frames")))
    )  # fmt: skip
    assert fade_in is not None
    assert fade_out is not None
    assert dip is not None
    assert [fade_in.opacity.at(n) for n in (0, 6, 12, 40)] == pytest.approx(
        [1 - 0.5 / 12, 1 - 6.5 / 12, 0, 0]
    )
    assert fade_out.opacity.at(35) == 0
    assert fade_out.opacity.at(47) > 0.98
    assert (dip.first, dip.end) == (95, 105)
    assert dip.opacity.at(4) == dip.opacity.at(5) == max(dip.opacity.at(n) for n in range(10))


def test_more_than_three_flashes_a_second_are_pointed_out() -> None:
    on = ground(0, 96)
    assert flashes_a_second(m.Strobe(Length(2, "frames")), on) == 12
    assert flashes_a_second(m.Strobe(Length(1)), on) == 2
    assert flashes_a_second(m.Flash(On("beat")), on) == 2
    assert flashes_a_second(m.Flash(On("half beat"), amount=0.1), on) == 0
    edit = new_edit(960, (Item(0, ClipSource("rope"), treatments=(m.Strobe(),)), Item(96, AngleSource(4), treatments=(m.Reverse(), m.Mirror()))),
                (), (Item(0, Beneath(), 96, treatments=(m.Flash(On("half beat"), amount=0.9),)),))  # fmt: skip
    found = of_treatments(edit, MATERIAL, {4: "Angle 1, Wide,"})
    assert [(f.kind, f.start) for f in found] == [("flashes", 0), ("out of sync", 96), ("flashes", 0)]
    assert "lips do not fit" in found[1].text


# On the edit

MATERIAL = Material(
    {4: [span(0, 480, "wide")], 9: [span(0, 960, "close", 5.0)]}, {4: "angle 1", 9: "angle 2"}, Fraction(24), music=music()
)  # fmt: skip
CONTEXT = Context(
    Fraction(24), GRID, angles={4: AngleCoverage(1), 9: AngleCoverage(2)}, material=MATERIAL,
    clips={"rope": Footage("Rope", 0.0, 8.0, seconds=8.0), "gulls": Footage("Gulls", 0.0, 30.0, seconds=30.0)},
)  # fmt: skip
EDIT = new_edit(
    960,
    (Item(0, AngleSource(4)), Item(96, ClipSource("rope", 2.0)), Item(192, AngleSource(9)), Item(384, ClipSource("gulls", 5.0)), Item(480, AngleSource(4))),
    (Item(240, ClipSource("gulls", 1.0), 288),),
)  # fmt: skip


def pictures(programme: Programme, layer: int = 0) -> list[list[tuple[str, float, Any]]]:
    """What a layer shows in each frame: (media, its time, look)."""
    out: list[list[tuple[str, float, Any]]] = [[] for _ in range(programme.length)]
    for s in programme.layers[layer].spans:
        times = s.time.times(Fraction(24)) if s.media else np.zeros(s.frames)
        for n in range(s.frames):
            name = s.media or type(s.content).__name__
            # Rounded a hair beside where such times lie, half way between two.
            at = round(float(times[n]) + 3.17e-8, 6)
            out[s.start + n].append((name, at, look_at(s.chain, n, 16 / 9)))
    return out


def test_a_dissolve_of_two_bars_lies_around_its_bar_line() -> None:
    after = apply(EDIT, Treat((192,), (m.Dissolve(Length(2, "bars"), shape="straight"),)), CONTEXT)
    shown = pictures(compiled(after, MATERIAL))
    # The rope's clip runs on for a bar; the angle begins a bar early, each in its own time.
    assert [len(f) for f in shown[140:148]] == [1, 1, 1, 1, 2, 2, 2, 2]
    assert len(shown[239]) == 2
    assert len(shown[240]) == 1
    under, over = shown[144]
    assert (under[0], over[0]) == ("rope", "close")
    assert over[2].opacity == pytest.approx(0.5 / 96)
    assert shown[191][1][2].opacity == pytest.approx(47.5 / 96)
    plain = pictures(compiled(EDIT, MATERIAL))
    assert over[1] == pytest.approx(5.0 + 144.5 / 24)
    assert shown[220][0][:2] == ("rope", pytest.approx(2.0 + (220 - 96 + 0.5) / 24))
    assert [f for n, f in enumerate(shown) if not 144 <= n < 240] == [
        f for n, f in enumerate(plain) if not 144 <= n < 240
    ]
    assert [s.start for s in after.shots] == [s.start for s in EDIT.shots], "no cut moved"


def test_handles_are_checked_to_the_frame_and_what_fits_is_said() -> None:
    edit = with_shots(EDIT, [*EDIT.shots[:1], Item(96, ClipSource("rope", 3.0)), *EDIT.shots[2:]])
    # It shows 3 to 7 s and there are 8: 24 frames of handle.
    assert apply(edit, Treat((192,), (m.Dissolve(Length(24, "frames"), "after"),)), CONTEXT)
    with pytest.raises(
        Refused, match=r"“Rope” has no picture for 6 frames of the transition; one of 24 frames fits"
    ):
        apply(edit, Treat((192,), (m.Dissolve(Length(30, "frames"), "after"),)), CONTEXT)
    with pytest.raises(Refused, match="takes 96 frames before the cut"):
        apply(EDIT, Treat((192,), (m.Dissolve(Length(2, "bars"), "before"),)), CONTEXT)
    with pytest.raises(Refused, match="Nothing comes before"):
        apply(EDIT, Treat((0,), (m.Dissolve(),)), CONTEXT)
    with pytest.raises(Refused, match="fade it in"):
        apply(EDIT, Treat((240,), (m.Dissolve(),)), CONTEXT)


@pytest.mark.parametrize(
    ("to", "side", "way"), [("left", "x", -1), ("right", "x", 1), ("up", "y", -1), ("down", "y", 1)]
)
def test_a_slide_pushes_one_picture_out_by_the_other(to: Any, side: str, way: int) -> None:
    after = apply(EDIT, Treat((192,), (m.Slide(to, Length(24, "frames")),)), CONTEXT)
    (base, *_) = compiled(after, MATERIAL).layers
    before, shot = (next(s for s in base.spans if s.why and s.why.at == at) for at in (96, 192))
    assert (before.end, shot.start) == (204, 180)
    apart = []
    for frame in range(180, 204):
        out, into = (
            {a.kind.name: a.values for a in acts_at(s.chain, frame - s.start, 16 / 9)} for s in (before, shot)
        )
        apart.append(into["shift"][side])
        # One side of the frame apart, whichever way, so that there is neither a gap nor a picture over the other.
        assert out["shift"][side] - into["shift"][side] == pytest.approx(way)
        assert "opacity" not in into
    assert apart == sorted(apart, reverse=way < 0), "they go one way"
    assert abs(apart[0]) > 0.99
    assert abs(apart[-1]) < 0.01
    assert not acts_at(before.chain, 179 - 96, 16 / 9)
    assert not acts_at(shot.chain, 24, 16 / 9), "at rest again"


def test_a_zoom_through_enlarges_both_most_where_they_mix_and_a_whip_is_soft_in_the_middle() -> None:
    def values(t: m.Treatment, step: str, name: str) -> tuple[list[float], list[float]]:
        (base, *_) = compiled(apply(EDIT, Treat((192,), (t,)), CONTEXT), MATERIAL).layers
        shots = (next(s for s in base.spans if s.why and s.why.at == at) for at in (96, 192))
        one, two = (
            [next((a.values[name] for a in acts_at(s.chain, f - s.start, 16 / 9) if a.kind.name == step), 0.0) for f in range(180, 204)]
            for s in shots
        )  # fmt: skip
        return one, two

    zoom = m.ZoomThrough(3.0, Length(24, "frames"))
    into, out = values(zoom, "place", "scale")
    assert into == sorted(into)
    assert out == sorted(out, reverse=True)
    assert (into[0], into[-1], out[0], out[-1]) == pytest.approx((1, 3, 3, 1), abs=0.2)
    shares = values(zoom, "opacity", "amount")[1]
    assert shares[11] + shares[12] == pytest.approx(1), "half at the cut"
    soft = values(m.Whip("up", Length(24, "frames"), amount=0.02), "blur", "amount")
    assert soft[0] == pytest.approx(soft[1])
    assert max(range(24), key=soft[0].__getitem__) in (11, 12)
    assert soft[0][0] < 0.001


def test_a_flicker_shows_both_in_turn_and_many_are_told_of() -> None:
    t = m.Flicker(Length(12, "frames"), "after", Length(3, "frames"))
    after = apply(EDIT, Treat((192,), (t,)), CONTEXT)
    seen = [shown[-1] for shown in pictures(compiled(after, MATERIAL))[190:206]]
    assert [look.opacity for _, _, look in seen] == [1, 1, *[1] * 3, *[0] * 3, *[1] * 3, *[0] * 3, 1, 1]
    assert not of_treatments(after, MATERIAL, {})
    long = apply(EDIT, Treat((192,), (m.Flicker(Length(48, "frames")),)), CONTEXT)
    (found,) = of_treatments(long, MATERIAL, {})
    assert (found.kind, "6.0 times a second" in found.text) == ("flashes", True)


@pytest.mark.parametrize(
    "wrong", [m.ZoomThrough(0.5), m.ZoomThrough(amount=0.3), m.Whip(amount=-0.1)], ids=lambda t: t.kind
)
def test_transitions_with_numbers_that_cannot_be_meant_are_refused(wrong: m.Treatment) -> None:
    with pytest.raises(ZembiError, match="outside"):
        apply(EDIT, Treat((192,), (wrong,)), CONTEXT)


def most_shots_in_a_frame(edit: Edit) -> int:
    (base, *_) = compiled(edit, MATERIAL).layers
    shots: list[set[int]] = [set() for _ in range(edit.length)]
    for s in base.spans:
        assert s.why is not None
        for frame in range(max(0, s.start), min(edit.length, s.end)):
            shots[frame].add(s.why.at)
    return max(len(inside) for inside in shots)


def test_two_dissolves_that_would_meet_are_refused_whichever_is_laid_last() -> None:
    edit = new_edit(
        960, tuple(Item(at, AngleSource((9, 4)[k % 2])) for k, at in enumerate((0, 100, 124, 200)))
    )
    first = Treat((100,), (m.Dissolve(Length(24, "frames"), "after"),))
    second = Treat((124,), (m.Dissolve(Length(20, "frames"), "before"),))
    for one, other in ((first, second), (second, first)):
        laid = apply(edit, one, CONTEXT)
        with pytest.raises(
            Refused,
            match=r"dissolve at frame 124 takes 20.*room for 0 and 76.*frame 100 ends at 124.*shorter",
        ):
            apply(laid, other, CONTEXT)
    short = apply(edit, Treat((100,), (m.Dissolve(Length(4, "frames"), "after"),)), CONTEXT)
    both = apply(short, second, CONTEXT)
    assert most_shots_in_a_frame(both) == 2


@settings(max_examples=80, deadline=None)
@given(
    st.lists(st.integers(1, 300), min_size=2, max_size=8, unique=True).map(sorted),
    st.lists(st.tuples(st.sampled_from(m.TRANSITIONS), st.integers(0, 90), st.sampled_from(["before", "centred", "after"])), min_size=8, max_size=8),
)  # fmt: skip
def test_at_most_two_shots_share_a_frame_however_transitions_come_to_lie(
    starts: list[int], transitions: list[tuple[Any, int, Any]]
) -> None:
    """Cuts that are moved later bring transitions together that did not meet when they were laid."""
    shots = [Item(0, AngleSource(9))]
    for k, (at, (kind, frames, place)) in enumerate(zip(starts, transitions, strict=False)):
        shots.append(
            Item(
                at,
                AngleSource((9, 4)[k % 2]),
                treatments=(kind(over=Length(frames, "frames"), place=place),),
            )
        )
    assert most_shots_in_a_frame(new_edit(400, tuple(shots))) <= 2


def test_what_a_clip_cannot_give_is_refused_with_the_nearest_that_it_can() -> None:
    with pytest.raises(
        Refused, match=r"no picture for 24 frames of 96 at that speed; 1.50 times is the fastest"
    ):
        apply(EDIT, Treat((96,), (m.Speed(2.0),)), CONTEXT)
    assert apply(EDIT, Treat((96,), (m.Speed(1.5),)), CONTEXT)
    with pytest.raises(Refused, match="not in this shot"):
        apply(EDIT, Treat((96,), (m.MomentOnBeat(3.0, Place(9)),)), CONTEXT)
    with pytest.raises(Refused, match="of clips"):
        apply(EDIT, Treat((192,), (m.FitSlot(0, 3),)), CONTEXT)
    with pytest.raises(Refused, match="of one shot"):
        apply(EDIT, TreatRange(0, 96, (m.Dip(),)), CONTEXT)
    with pytest.raises(Refused, match="no colour"):
        apply(EDIT, Treat((96,), (m.Fade(colour="red"),)), CONTEXT)


@settings(max_examples=60, deadline=None)
@given(st.lists(treating.treatments, max_size=3).map(tuple), st.sampled_from([96, 192, 384]), st.data())
def test_a_cut_through_a_treated_shot_changes_no_picture_and_none_outside_is_touched(
    treatments: tuple[Any, ...], start: int, data: st.DataObject
) -> None:
    try:
        treated = apply(EDIT, Treat((start,), treatments), CONTEXT)
    except ZembiError:
        assume(False)
    assert [s.start for s in treated.shots] == [s.start for s in EDIT.shots]
    whole = compiled(treated, MATERIAL)
    end = treated.end_of(treated.index_at(start))
    plain, shown = pictures(compiled(EDIT, MATERIAL)), pictures(whole)
    reach = 200 if any(isinstance(t, m.TRANSITIONS) for t in treatments) else 0
    for n in [*range(max(0, start - reach)), *range(end, 960)]:
        assert shown[n] == plain[n]
    at = data.draw(st.integers(start + 1, end - 1))
    # A cut inside a dissolve ends it there.
    if not any(isinstance(t, m.TRANSITIONS) for t in treatments):
        parted = compiled(cut(treated, at, Fraction(24)), MATERIAL)
        assert pictures(parted) == shown
        once_more = cut(
            cut(treated, at, Fraction(24)),
            data.draw(st.integers(start + 1, end - 1).filter(lambda f: f != at)),
            Fraction(24),
        )
        assert pictures(compiled(once_more, MATERIAL)) == shown


def test_it_follows_the_grid() -> None:
    """Compiled again on a grid that lies half a second later, the moment is on its beat there."""
    t = m.MomentOnBeat(5.0, Place(4))
    edit = apply(EDIT, Treat((96,), (t,)), CONTEXT)
    later = Grid(tuple(b + 0.25 for b in GRID.beats), GRID.bars, GRID.first_bar)
    for grid in (GRID, later):
        material = dataclasses.replace(MATERIAL, music=music(grid=grid))
        frame = music(grid=grid).frame_of(Place(4))
        (shown,) = pictures(compiled(edit, material))[frame]
        assert shown[:2] == ("rope", pytest.approx(5.0))


def test_an_angle_is_treated_in_the_songs_own_time_and_holes_are_holes() -> None:
    edit = apply(EDIT, Treat((480,), (m.Rewind(Place(13), Place(9), Length(1.0, "bars")),)), CONTEXT)
    shown = pictures(compiled(edit, MATERIAL))
    frame = music().frame_of(Place(13))
    assert shown[frame - 1][0][0] == "Hole", "the wide take is over"
    assert [f[0][0] for f in shown[frame : frame + 48]].count("wide") > 0, "but not where it runs back to"
    backwards = [f[0][1] for f in shown[frame : frame + 48] if f[0][0] == "wide"]
    assert backwards == sorted(backwards, reverse=True)


def test_a_passage_is_treated_over_whatever_is_cut_there() -> None:
    pulse = m.Pulse("scale", 0.1, On("bar"), fall=Length(6, "frames"))
    edit = apply(EDIT, TreatRange(100, 400, (pulse, m.Flash(On("phrase"), "#c04020"))), CONTEXT)
    programme = compiled(edit, MATERIAL)
    assert [layer.name for layer in programme.layers] == ["Shots", "Cutaways", "Colours over all"]
    shown, over = pictures(programme), pictures(programme, 1)
    bars = [f for f, _ in music().places(On("bar"), 100, 400)]
    for bar in bars:
        assert shown[bar][0][2].scale == pytest.approx(1.1)
    assert shown[96][0][2] == AS_IT_IS, "a bar line outside it"
    assert over[240][0][2].scale == pytest.approx(1.1), "cutaways too"
    drifts = apply(EDIT, TreatRange(100, 400, (m.PunchIn(2.0),)), CONTEXT)
    scales = [f[0][2].scale for f in pictures(compiled(drifts, MATERIAL))]
    assert scales == [1.0] * 100 + [2.0] * 300 + [1.0] * 560
    gone = apply(drifts, TreatRange(100, 400, (), ranges_of(drifts)[0].id), CONTEXT)
    assert gone == EDIT


def test_switched_off_is_kept_and_does_nothing() -> None:
    off = apply(EDIT, Treat((96,), (m.Reverse(off=True), m.Mirror(off=True))), CONTEXT)
    assert off.shots[1].treatments == (m.Reverse(off=True), m.Mirror(off=True))
    assert pictures(compiled(off, MATERIAL)) == pictures(compiled(EDIT, MATERIAL))


@given(treating.treatments)
def test_a_treatment_is_the_same_after_it_was_written_and_read(treatment: Any) -> None:
    data = json.loads(json.dumps(m.treatment_to_dict(treatment)))
    assert m.treatment_from_dict(data) == treatment


@pytest.mark.parametrize(
    "data",
    [
        None, [], {}, {"kind": "magic"}, {"kind": "speed", "factor": "fast"}, {"kind": "speed", "factor": True},
        {"kind": "speed", "more": 1}, {"kind": "fit"}, {"kind": "pulse", "on": {"what": "noon"}},
        {"kind": "pulse", "on": {"what": "low", "every": 0}}, {"kind": "ramp", "speeds": 3},
        {"kind": "ramp", "speeds": [1.0] * 99}, {"kind": "dissolve", "over": {"value": -1, "unit": "bars"}},
        {"kind": "dissolve", "over": {"value": 1e300, "unit": "bars"}}, {"kind": "speed", "factor": float("nan")},
    ],
)  # fmt: skip
def test_what_is_damaged_is_said(data: Any) -> None:
    with pytest.raises(BadInput):
        m.treatment_from_dict(data)


def test_made_of_leaves_no_gap() -> None:
    shot = Item(
        96, AngleSource(4), treatments=(m.Speed(0.5), m.Stutter(on=On("beat"), piece=Length(3, "frames")))
    )
    spans: list[Span] = made_of(shot, 192, 0, 0, MATERIAL)
    assert spans[0].start == 96
    assert spans[-1].end == 192
    assert all(a.end == b.start for a, b in itertools.pairwise(spans))
    assert not any(isinstance(s.content, Hole) for s in spans)


def test_a_passage_cut_as_another_takes_its_treatments_along_to_their_new_place() -> None:
    treated = apply(EDIT, Treat((96,), (m.Reverse(), m.Pulse(on=On("beat")))), CONTEXT)
    # Bar 3, the treated shot, is cut as bar 9.
    as_it = apply(cut(treated, 144, Fraction(24)), CutAs(4.0, 8.0, 30.0, 34.0), CONTEXT)
    copies = [s for s in as_it.shots if 720 <= s.start < 816]
    assert [s.whole for s in copies] == [None] * len(copies)
    assert copies[-1].treatments == treated.shots[1].treatments
    shown = pictures(compiled(as_it, MATERIAL))
    assert shown[copies[-1].start][0][0] == "rope"


@given(treating.treatments, st.integers(1, 95))
def test_treatments_that_are_all_off_leave_every_operation_as_it_was(treatment: Any, at: int) -> None:
    off = dataclasses.replace(treatment, off=True)
    plain = compiled(cut(EDIT, 96 + at, Fraction(24)), MATERIAL)
    edit = apply(EDIT, Treat((96,), (off,)), CONTEXT)
    assert pictures(compiled(cut(edit, 96 + at, Fraction(24)), MATERIAL)) == pictures(plain)
