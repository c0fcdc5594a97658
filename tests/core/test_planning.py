"""The plan and its rules: each rule alone, and no rule broken on random songs and coverage."""

import dataclasses
import itertools
import math
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_operations import CONTEXT, LENGTH, RATE
from tests.edits import apply
from tests.spans import span
from zembi.core.edit.items import frames_missing
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import AngleSource, BlackSource, ClipSource, Empty, Item
from zembi.core.edit.operations import Chosen, FillByRules, Lay, MakeSlots, RoughCut
from zembi.core.edit.operations.context import AngleCoverage, Footage, SectionContext
from zembi.core.edit.operations.planned import next_bests
from zembi.core.edit.planning import (
    Beat,
    Pace,
    PacedRange,
    Stock,
    carry_out,
    fill_slots,
    pace_of,
    starts_of,
    why_empty,
)
from zembi.core.edit.rules import NEVER, RULES, Candidate, Past, SlotContext, best
from zembi.core.edit.stretches import Clip, frames_of, free_parts, parted, shown_of, stretch
from zembi.core.errors import BadInput, Refused
from zembi.core.footage.look import Look, unlike
from zembi.core.footage.measure import BINS
from zembi.core.lineup.coverage import covers
from zembi.core.song.heard import Heard

A, B, C = AngleSource(1), AngleSource(2), AngleSource(3)
BEAT = 12


def even(start: int, end: int) -> float:
    return (end - start) / BEAT


def points(name: str, place: SlotContext, candidate: Candidate, past: Past | None = None) -> float:
    (rule,) = (r for r in RULES if r.name == name)
    return rule.points(place, candidate, past or Past(even))


def clip(media: str = "rope", in_s: float = 0.0, **more: object) -> Candidate:
    return Candidate(ClipSource(media, in_s), **more)  # type: ignore[arg-type]


PLACE = SlotContext(480, 528, 4.0, "Chorus 2", energy=0.8, sung=1.0, leads=frozenset({2}))


def test_each_rule_gives_points_for_what_it_says() -> None:
    assert points("lead", PLACE, Candidate(B)) > points("lead", PLACE, Candidate(A)) == 0
    assert points("close", PLACE, Candidate(A, close=True)) > points("close", PLACE, Candidate(A)) == 0
    unsung = dataclasses.replace(PLACE, sung=0.0)
    assert points("close", unsung, Candidate(A, close=True)) == 0
    for tags, given_ in (
        ({"section: chorus 2"}, True),
        ({"chorus"}, True),
        ({"verse"}, False),
        (set(), False),
    ):
        assert (points("tags", PLACE, clip(tags=frozenset(tags))) > 0) is given_
    assert points("movement", PLACE, clip(moves=0.8)) == 0 > points("movement", PLACE, clip(moves=0.1))
    assert points("light", PLACE, clip(light=0.8)) == 0 > points("light", PLACE, clip(light=0.1))
    assert points("faces", PLACE, clip(tags=frozenset({"face"}))) > 0 == points("faces", PLACE, clip())
    assert points("unused", PLACE, clip(seconds=12.0)) > points("unused", PLACE, clip(seconds=2.0))


def test_rules_of_what_was_shown_before() -> None:
    past = Past(
        even,
        [
            (0, 96, C),
            (384, 432, A),
            (432, 480, B),
            (96, 144, ClipSource("rope")),
            (300, 320, ClipSource("sea")),
        ],
    )
    assert points("rest", PLACE, Candidate(A), past) < 0
    assert points("rest", PLACE, Candidate(B), past) < 0
    assert points("rest", PLACE, Candidate(C), past) == 0
    followed = dataclasses.replace(past, after=C)
    assert points("rest", PLACE, Candidate(C), followed) < 0, "nor next to what follows"
    assert points("away", PLACE, Candidate(C), past) > points("away", PLACE, Candidate(A), past)
    assert points("once", PLACE, clip("rope"), past) == NEVER
    assert points("once", PLACE, clip("rope", 1.9), past) == NEVER, "a frame or two of it"
    assert points("once", PLACE, clip("rope", 3.0), past) == 0
    assert points("apart", PLACE, clip("sea", 9.0), past) < 0, "13 beats ago"
    assert points("apart", PLACE, clip("rope", 3.0), past) == 0, "28 beats ago"
    assert points("kept", PLACE, clip(rest=True)) < points("kept", PLACE, clip()) == 0
    assert points("unused", PLACE, clip("rope", seconds=9), past) < points(
        "unused", PLACE, clip("new", seconds=9), past
    )


def _look(light: float, bin_: int) -> Look:
    return Look(light, 0.1, tuple(float(k == bin_) for k in range(BINS**3)))


def test_a_look_is_kept_against_what_is_right_beside_a_place_and_nothing_else() -> None:
    night, also_night, noon = _look(0.2, 0), _look(0.25, 0), _look(0.9, BINS**3 - 1)
    assert unlike(night, also_night) < 0.05 < 0.8 < unlike(night, noon) <= 1
    shots = [(432, 480, ClipSource("night")), (96, 144, ClipSource("noon")), (480, 528, ClipSource("noon"))]
    past = Past(even, shots[:2], looks={"night": night, "noon": noon})
    alike, other = (points("look", PLACE, clip("x", look=look), past) for look in (also_night, noon))
    assert -0.1 < alike <= 0
    assert other == pytest.approx(-2 * unlike(night, noon))
    past.shots.append((528, 576, ClipSource("noon")))
    assert points("look", PLACE, clip("x", look=noon), past) == pytest.approx(other / 2), "what follows too"
    assert points("look", PLACE, clip("x"), past) == points("look", PLACE, clip("x", look=noon)) == 0


def test_takes_and_clips_fill_together_as_the_plan_shares_them_out() -> None:
    context = dataclasses.replace(SONG, clips=CLIPS, selects={})
    slots = apply(new_edit(LENGTH), MakeSlots(0, LENGTH, "bar"), context)
    plain = apply(slots, FillByRules(0, LENGTH, seed=1), context)
    assert all(isinstance(s.source, ClipSource | Empty) for s in plain.shots)
    for share in (0.0, 0.25, 1.0):
        paced = tuple(dataclasses.replace(s, pace=Pace(2, 4, share)) for s in context.sections)
        after = apply(
            slots, FillByRules(0, LENGTH, seed=1, mixed=True), dataclasses.replace(context, sections=paced)
        )
        kinds = [type(s.source) for s in after.shots]
        assert [s.start for s in after.shots] == [s.start for s in slots.shots]
        assert Empty not in kinds, "an angle stands in where no clip is left"
        clips = kinds.count(ClipSource)
        assert clips == pytest.approx(share * len(kinds), abs=1) or (share == 1 and clips > 0)
        for n, shot in enumerate(after.shots):
            if isinstance(shot.source, AngleSource):
                assert covers(context.angles[shot.source.angle].spans, shot.start, after.end_of(n))


def test_a_rule_that_is_switched_off_says_nothing() -> None:
    past = Past(even, [(96, 144, ClipSource("rope"))])
    assert best(PLACE, [clip()], past, 0) is None
    assert best(PLACE, [clip()], past, 0, ["once"]) == clip()
    leading = [best(PLACE, [Candidate(A), Candidate(B)], Past(even), seed, ["away"]) for seed in range(20)]
    assert set(leading) == {Candidate(B)}
    chance = {
        best(PLACE, [Candidate(A), Candidate(B)], Past(even), seed, ["away", "lead"]) for seed in range(20)
    }
    assert chance == {Candidate(A), Candidate(B)}, "what is alike is shuffled"


def beats(count: int = 64, energy: float = 0.5, phrase: int = 16, hits: tuple[int, ...] = ()) -> list[Beat]:
    return [
        Beat(BEAT * n, energy, n % 4 == 0, n % phrase == 0, 1.0 if n in hits else 0.0) for n in range(count)
    ]


def lengths(starts: list[int], end: int) -> list[float]:
    return [(b - a) / BEAT for a, b in pairwise([*starts, end])]


def test_shots_are_shorter_where_the_music_has_more_energy() -> None:
    pace = Pace(2, 8)
    end = 64 * BEAT
    loud, quiet = (starts_of(beats(energy=e), 0, end, pace, 1) for e in (1.0, 0.0))
    assert 1.5 < sum(lengths(loud, end)) / len(loud) < 3.5
    assert 6 < sum(lengths(quiet, end)) / len(quiet) < 10
    rising = [dataclasses.replace(b, energy=n / 63) for n, b in enumerate(beats())]
    made = starts_of(rising, 0, end, pace, 1)
    assert sum(s < end / 2 for s in made) < sum(s >= end / 2 for s in made)
    even = starts_of(rising, 0, end, pace, 1, ["energy"])
    assert abs(sum(s < end / 2 for s in even) - sum(s >= end / 2 for s in even)) <= 2


def test_shots_have_as_many_beats_where_the_tempo_moves() -> None:
    """From slow beats to ones half as long: shots of four beats are four beats at both ends."""
    frames = list(itertools.accumulate([0, *(round(24 - 12 * n / 63) for n in range(64))]))
    music = [Beat(f, 0.5, n % 4 == 0, n % 16 == 0) for n, f in enumerate(frames[:-1])]
    made = starts_of(music, 0, frames[-1], Pace(4, 4), 3, ["over"])
    counts = [frames.index(b) - frames.index(a) for a, b in pairwise([*made, frames[-1]])]
    assert counts == [4] * 16


def test_cuts_fall_on_phrases_bars_and_hits_before_other_beats() -> None:
    end = 64 * BEAT
    made = starts_of(beats(), 0, end, Pace(4, 4), 3, ["over"])
    assert {0, 16, 32, 48} <= {s // BEAT for s in made}
    assert sum(s % (4 * BEAT) == 0 for s in made) > 0.8 * len(made)
    hit = starts_of(beats(hits=(6, 22, 38, 52)), 0, end, Pace(4, 8), 3, ["phrases", "over"])
    assert {6, 22, 38, 52} <= {s // BEAT for s in hit}


def test_some_phrases_run_over_their_line_and_none_where_that_is_off() -> None:
    end = 64 * BEAT
    over = {s // BEAT for seed in range(12) for s in starts_of(beats(), 0, end, Pace(3, 6), seed)}
    assert over & {17, 33, 49}
    off = {s // BEAT for seed in range(12) for s in starts_of(beats(), 0, end, Pace(3, 6), seed, ["over"])}
    assert not off & {17, 33, 49}


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.floats(0, 1), min_size=4, max_size=48), st.integers(1, 8), st.integers(0, 8), st.integers(0, 99),
    st.integers(0, 30),
)  # fmt: skip
def test_shots_are_as_long_as_planned_wherever_beats_allow_it(
    energies: list[float], shortest: int, more: int, seed: int, head: int
) -> None:
    music = [Beat(head + BEAT * n, e, n % 4 == 0, n % 16 == 0) for n, e in enumerate(energies)]
    end = head + BEAT * len(energies)
    pace = Pace(shortest, shortest + more)
    made = starts_of(music, head, end, pace, seed)
    assert made[0] == head
    assert made == sorted(set(made))
    assert set(made[1:]) <= {b.frame for b in music}
    assert made == starts_of(music, head, end, pace, seed)
    if len(energies) >= 2 * shortest:
        assert all(n >= shortest - 1 for n in lengths(made, end))


ANGLES = {n: [span(0, LENGTH, f"take{n}")] for n in (1, 2, 3)}


def stock(*clips: tuple[str, float], angles: dict[int, list[object]] | None = None) -> Stock:
    return Stock(
        ANGLES if angles is None else angles,  # type: ignore[arg-type]
        clips=tuple(Clip(m, m, ((0.0, s),)) for m, s in clips),
    )


def apart(shown: dict[str, list[tuple[float, float]]]) -> bool:
    """True if no two stretches of a file overlap."""
    return all(a[1] <= b[0] + 1e-6 for ranges in shown.values() for a, b in pairwise(sorted(ranges)))


coverage = st.dictionaries(
    st.integers(1, 5),
    st.lists(st.tuples(st.integers(0, LENGTH - 60), st.integers(40, 500)), min_size=1, max_size=3),
    max_size=5,
)
clips_ = st.lists(
    st.tuples(st.sampled_from("abcdefgh"), st.floats(0.2, 20)), max_size=8, unique_by=lambda c: c[0]
)


@settings(max_examples=60, deadline=None)
@given(
    coverage,
    clips_,
    st.lists(st.integers(1, LENGTH - 1), max_size=3),
    st.integers(0, 50),
    st.floats(0, 1),
    st.data(),
)
def test_no_rule_is_broken_on_any_coverage(
    there: dict[int, list[tuple[int, int]]], clips: list[tuple[str, float]], cuts: list[int], seed: int, share: float,
    data: st.DataObject,
) -> None:  # fmt: skip
    angles = {}
    for n, parts in there.items():
        spans, at = [], 0
        for a, length in sorted(parts):
            if a >= at:
                spans.append(span(a, min(LENGTH, a + length), f"take{n}"))
                at = a + length
        angles[n] = spans
    edit = new_edit(
        LENGTH, tuple(Item(s, BlackSource(), held=data.draw(st.booleans())) for s in sorted({0, *cuts}))
    )
    first = data.draw(st.integers(0, LENGTH - 100))
    end = data.draw(st.integers(first + 50, LENGTH))
    passages = [PacedRange(first, end, "Chorus", Pace(2, 6, share))]
    made_of = stock(*clips, angles=angles)
    after = carry_out(edit, passages, beats(81), [], made_of, RATE, seed)
    again = carry_out(edit, passages, beats(81), [], made_of, RATE, seed)
    assert after == again, "the same seed, the same cut"
    assert after.shots[0].start == 0
    assert all(a.start < b.start for a, b in pairwise(after.shots))
    before = {(s.start, edit.end_of(i)): s for i, s in enumerate(edit.shots) if s.held}
    kept = {(s.start, after.end_of(i)): s for i, s in enumerate(after.shots) if s.held}
    assert before == kept, "held shots are left alone"
    known = dict(clips)
    shown: dict[str, list[tuple[float, float]]] = {}
    for i, s in enumerate(after.shots):
        if s.start < first or s.start >= end or s.held:
            continue
        if isinstance(s.source, ClipSource):
            assert not frames_missing(s.source, after.end_of(i) - s.start, known[s.source.media], RATE)
            shown.setdefault(s.source.media, []).append(shown_of(s.source, after.end_of(i) - s.start, RATE))
        elif isinstance(s.source, AngleSource):
            there_is = {f for x in angles[s.source.angle] for f in range(x.start, x.end)}
            assert set(range(s.start, after.end_of(i))) <= there_is, "it has picture"
    assert apart(shown), "no stretch twice"


def test_after_a_held_shot_at_the_head_a_clip_begins_from_its_start() -> None:
    edit = new_edit(LENGTH, (Item(0, BlackSource(), held=True), Item(21, BlackSource())))
    after = carry_out(
        edit,
        [PacedRange(0, 137, "Chorus", Pace(2, 6, 0.0))],
        beats(81),
        [],
        stock(("a", 3.5), angles={}),
        RATE,
        0,
    )
    (laid,) = [s for s in after.shots if isinstance(s.source, ClipSource)]
    assert isinstance(laid.source, ClipSource)
    assert laid.source.in_s == 0
    assert after.shots[0] == edit.shots[0]


def test_angles_rest_and_b_roll_has_its_share() -> None:
    edit = new_edit(LENGTH)
    after = carry_out(
        edit, [PacedRange(0, LENGTH, "Verse", Pace(2, 4, 0.25))], beats(81), [],
        stock(*((m, 30.0) for m in "abcdefghij")), RATE, 5,
    )  # fmt: skip
    shown = [s.source for s in after.shots]
    assert all(a != b for a, b in pairwise(shown))
    angles = [s for s in shown if isinstance(s, AngleSource)]
    assert {s.angle for s in angles} == {1, 2, 3}
    broll = len(shown) - len(angles)
    assert abs(broll / len(shown) - 0.25) < 0.1
    assert isinstance(shown[0], AngleSource), "a section begins with an angle"


def test_where_nothing_is_an_empty_slot_is_left() -> None:
    angles = {1: [span(0, 480, "take1")]}
    after = carry_out(
        new_edit(LENGTH), [PacedRange(0, LENGTH, "", Pace(4, 4))], beats(81), [], stock(angles=angles), RATE
    )
    assert isinstance(after.shots[-1].source, Empty)
    assert all(s.source == A for s in after.shots if s.start < 480)


SONG = dataclasses.replace(
    CONTEXT,
    angles={n: AngleCoverage(n, ANGLES[n], close=n == 3) for n in (1, 2, 3)},
    sections=(SectionContext(0.0, -20.0, "Verse", 0.4), SectionContext(20.0, -10.0, "Chorus", 1.0)),
    heard=lambda: Heard(tuple(0.2 if n < 50 else 1.0 for n in range(120)), (), ((20.0, 40.0),)),
)


def test_the_plan_follows_the_song_by_itself_and_by_hand() -> None:
    after = apply(new_edit(LENGTH), RoughCut(seed=2), SONG)
    verse, chorus = (sum(a <= s.start < a + 480 for s in after.shots) for a in (0, 480))
    assert chorus > 1.5 * verse
    by_hand = dataclasses.replace(
        SONG, sections=(SectionContext(0.0, -20.0, "Verse", 0.4, Pace(2, 2)), SONG.sections[1])
    )
    faster = apply(new_edit(LENGTH), RoughCut(seed=2), by_hand)
    assert sum(s.start < 480 for s in faster.shots) > 1.5 * verse
    sung = [s.source for s in after.shots if s.start >= 480]
    assert sum(s == C for s in sung) >= len(sung) / 4, "the close one sings"
    leading = dataclasses.replace(
        SONG, sections=(SONG.sections[0], SectionContext(20.0, -10.0, "Chorus", 1.0, Pace(4, 4, 0, (2,))))
    )
    led = [
        s.source
        for s in apply(
            new_edit(LENGTH), RoughCut(first=480, seed=2, without=("close", "away")), leading
        ).shots
    ]
    assert sum(s == B for s in led) >= sum(s == A for s in led)
    assert led[0] == Empty(), "nothing before the passage changes"


def test_what_cannot_be_planned_is_said_so() -> None:
    edit = new_edit(LENGTH)
    with pytest.raises(BadInput, match="no rule “luck”"):
        apply(edit, RoughCut(without=("luck",)), SONG)
    with pytest.raises(BadInput, match="seed"):
        apply(edit, RoughCut(seed=-1), SONG)
    with pytest.raises(BadInput, match="empty"):
        apply(edit, RoughCut(first=5, end=5), SONG)
    with pytest.raises(BadInput, match="shortest no longer"):
        apply(edit, RoughCut(), dataclasses.replace(SONG, sections=(SectionContext(0.0, pace=Pace(8, 4)),)))
    with pytest.raises(Refused, match="nothing to cut with"):
        apply(edit, RoughCut(), dataclasses.replace(SONG, angles={}, clips={}, selects={}))


def test_more_energy_is_a_faster_pace() -> None:
    paces = [pace_of(e, broll=True) for e in (1.0, 0.7, 0.4, 0.1)]
    assert [p.longest for p in paces] == sorted(p.longest for p in paces)
    assert all(0 < p.broll < 0.5 for p in paces)
    assert pace_of(0.7, broll=False).broll == 0


CLIPS = {
    m: Footage(m, 0.0, seconds, True, True, 1.0, m, tags)
    for m, seconds, tags in (
        ("rope", 8.0, ("section: Verse",)), ("sea", 9.0, ()), ("lamp", 3.0, ("face",)), ("brief", 0.2, ()),
    )
}  # fmt: skip
MOVES = {"rope": 0.1, "sea": 0.9, "lamp": 0.5, "brief": 0.2}


def test_the_clip_that_moves_as_the_music_fills_and_only_filling_asks_how_much() -> None:
    asked: list[str] = []

    def look(footage: Footage) -> Look:
        asked.append(footage.media)
        return Look(0.5, MOVES[footage.media], (1.0,) * BINS**3)

    clips = {m: dataclasses.replace(f, tags=()) for m, f in CLIPS.items()}
    # The second half has the energy of a chorus: what moves most belongs there.
    context = dataclasses.replace(SONG, clips=clips, selects={}, look=look)
    slots = apply(new_edit(LENGTH), MakeSlots(480, LENGTH, "2 bars"), context)
    assert not asked
    after = apply(slots, FillByRules(480, LENGTH, seed=1, without=("unused",)), context)
    assert set(asked) == set(clips)
    assert next(s.source.media for s in after.shots if isinstance(s.source, ClipSource)) == "sea"


def test_slots_are_filled_by_rules_and_a_slot_too_long_stays_empty() -> None:
    context = dataclasses.replace(SONG, clips=CLIPS, selects={})
    slots = apply(new_edit(LENGTH), MakeSlots(0, LENGTH, "phrase"), context)
    after = apply(slots, FillByRules(0, LENGTH, seed=1), context)
    used = [s.source.media for s in after.shots if isinstance(s.source, ClipSource)]
    assert used[0] == "rope", "tagged for the verse"
    assert "brief" not in used, "too short for all"
    assert any(isinstance(s.source, Empty) for s in after.shots)
    assert [s.start for s in after.shots] == [s.start for s in slots.shots], "no cut moves"
    chosen = apply(slots, FillByRules(0, LENGTH, (Chosen("sea"),)), context)
    assert [s.source.media for s in chosen.shots if isinstance(s.source, ClipSource)] == ["sea"]
    with pytest.raises(Refused, match="no empty slot"):
        apply(new_edit(LENGTH, (Item(0, BlackSource()),)), FillByRules(0, LENGTH), context)
    with pytest.raises(Refused, match=r"longest free stretch is 4 f, this slot is \d+ f: cut the slot"):
        apply(slots, FillByRules(0, LENGTH, (Chosen("brief"),)), context)


@settings(max_examples=40, deadline=None)
@given(clips_, st.lists(st.integers(1, LENGTH - 1), min_size=1, max_size=12), st.integers(0, 50), st.data())
def test_filling_breaks_no_rule_and_touches_nothing_else(
    clips: list[tuple[str, float]], cuts: list[int], seed: int, data: st.DataObject
) -> None:
    starts = sorted({0, *cuts})
    edit = new_edit(LENGTH, tuple(Item(s, data.draw(st.sampled_from([Empty(), A]))) for s in starts))
    slots = [i for i, s in enumerate(edit.shots) if isinstance(s.source, Empty)]
    after = fill_slots(
        edit, slots, [PacedRange(0, LENGTH, "", Pace(2, 4))], beats(81), [], stock(*clips), RATE, seed
    )
    known = dict(clips)
    shown: dict[str, list[tuple[float, float]]] = {}
    for i, (was, now) in enumerate(zip(edit.shots, after.shots, strict=True)):
        frames = after.end_of(i) - now.start
        if i not in slots:
            assert was == now
        elif isinstance(now.source, ClipSource):
            assert not frames_missing(now.source, frames, known[now.source.media], RATE)
            shown.setdefault(now.source.media, []).append(shown_of(now.source, frames, RATE))
    assert apart(shown), "no stretch twice"
    empty = [i for i in slots if isinstance(after.shots[i].source, Empty)]
    for i, told in zip(empty, why_empty(after, empty, stock(*clips), RATE), strict=True):
        frames = after.end_of(i) - after.shots[i].start
        assert (told.item, told.frames) == (after.shots[i].id, frames)
        assert told.longest < frames, "what could fill it would have"
        if told.speed is not None:
            slowed = ClipSource(told.media, told.in_s, told.speed)
            assert not frames_missing(slowed, frames, known[told.media], RATE), "slowed as offered it fits"


def test_eight_clips_of_twenty_seconds_fill_two_minutes() -> None:
    length = 120 * 24
    edit = new_edit(length, tuple(Item(s, Empty()) for s in range(0, length, 48)))
    clips = stock(*((m, 20.0) for m in "abcdefgh"))
    music = [Beat(BEAT * n) for n in range(240)]
    after = fill_slots(
        edit, range(60), [PacedRange(0, length, "", Pace(2, 4))], music, [], clips, RATE, seed=3
    )
    used = [s.source for s in after.shots]
    assert all(isinstance(s, ClipSource) for s in used), "none is empty"
    counts = [sum(s.media == m for s in used if isinstance(s, ClipSource)) for m in "abcdefgh"]
    assert max(counts) - min(counts) <= 1, "none is used again before all others are"
    for at, source in enumerate(used):
        assert source not in used[at + 1 : at + 4], "far from its last use"
        assert isinstance(source, ClipSource)
        assert all(source.media != s.media for s in used[at + 1 : at + 4] if isinstance(s, ClipSource))


def test_where_footage_is_just_enough_it_is_laid_closely() -> None:
    # Slots of 2, 3 and 5 seconds, as long together as the two clips; the best places would leave gaps.
    starts = (0, 48, 120, 240, 288, 360)
    edit = new_edit(480, tuple(Item(s, Empty()) for s in starts))
    clips = Stock(
        {}, clips=tuple(Clip(m, m, ((0.0, 10.0),), worth=(0.0, 0.0, 1.0, 1.0, 0.0) * 2) for m in "ab")
    )
    passage = [PacedRange(0, 480, "", Pace(2, 4))]
    after = fill_slots(edit, range(6), passage, beats(40), [], clips, RATE, seed=1)
    assert not any(isinstance(s.source, Empty) for s in after.shots)


def test_the_best_moments_of_a_clip_are_shown_and_its_cuts_kept_out() -> None:
    worth = (0.1, 0.1, 0.9, 0.9, 0.1, 0.1, 0.5, 0.5)
    sea = Clip("sea", "Sea", ((0.0, 8.0),), worth=worth)
    best_of = stretch(sea, 48, [], RATE)
    assert best_of == ClipSource("sea", 2.0)
    assert stretch(sea, 48, [(2.0, 4.0)], RATE) == ClipSource("sea", 6.0), (
        "the next best, apart from the first"
    )
    assert stretch(sea, 9 * 24, [], RATE) is None
    cut = dataclasses.replace(sea, ranges=parted((0.0, 8.0), [3.0]))
    start = stretch(cut, 48, [], RATE)
    assert start is not None
    assert start.in_s + 2 <= 3.0 or start.in_s >= 3.0
    still = Clip("chart", "Chart", ((0.0, 3600.0),), still=True)
    assert stretch(still, 48, [], RATE) is not None
    assert stretch(still, 48, [(0.0, 2.0)], RATE) is None, "one picture is the same wherever it is entered"


@given(
    st.floats(0.25, 4),
    st.integers(1, 400),
    st.lists(st.tuples(st.floats(0, 30), st.floats(0.1, 8)), max_size=6),
    st.lists(st.floats(0, 30), max_size=3),
    st.booleans(),
)
def test_a_stretch_lies_in_what_is_free(
    speed: float, frames: int, used: list[tuple[float, float]], cuts: list[float], tightly: bool
) -> None:
    shown = [(a, a + n) for a, n in used]
    clip_ = Clip("sea", "Sea", parted((1.0, 29.0), cuts), speed)
    found = stretch(clip_, frames, shown, RATE, tightly=tightly)
    longest = max((frames_of(clip_, part, RATE) for part in free_parts(clip_, shown)), default=0)
    if found is None:
        assert longest < frames
        return
    first, end = shown_of(found, frames, RATE)
    end -= speed / float(RATE)  # the last frame is shown from its beginning
    assert any(a - 1e-6 <= first and end <= b + 1e-6 for a, b in clip_.ranges)
    assert not any(a < end - 1e-6 and first < b - 1e-6 for a, b in shown)


def test_the_same_place_of_music_is_far_from_itself() -> None:
    assert Past(even).away(A, PLACE) == math.inf
    assert Past(even, [(480, 528, A)]).away(A, PLACE) == 0
    assert Fraction(Past(even, [(540, 600, A)]).away(A, PLACE)) == 1


def test_next_best_are_in_the_order_in_which_slots_are_filled_each_with_its_reason() -> None:
    context = dataclasses.replace(
        CONTEXT,
        lead=0,
        sections=(SectionContext(0.0, name="Verse"), SectionContext(16.0, name="Chorus")),
        clips={
            name: Footage(name.title(), 0.0, seconds, fills=True, media=name, tags=tags, seconds=seconds)
            for name, seconds, tags in (
                ("rope", 9.0, ()),
                ("sea", 5.0, ("chorus",)),
                ("gull", 5.0, ()),
                ("spark", 0.5, ()),
            )
        },
        heard=lambda: Heard(),
    )
    slot = apply(new_edit(LENGTH), MakeSlots(384, 432, "bar"), context)
    filled = apply(slot, FillByRules(384, 432), context)
    index = filled.index_at(384)
    now = filled.shots[index].source
    # Of a slot that is filled by the rules the first is what they chose; next come the others, without it.
    assert isinstance(now, ClipSource)
    assert now.media == "sea"
    first = next_bests(slot, slot.shots[slot.index_at(384)].id, context)
    assert (first[0].media, first[0].reason) == ("sea", "clips tagged for the section")
    others = next_bests(filled, filled.shots[index].id, context)
    assert {o.media for o in others} == {"rope", "gull"}, (
        "too short ones and the one that is shown are left out"
    )
    assert [o.media for o in others] == [o.media for o in first if o.media != "sea"]
    assert all(o.out_s - o.in_s == pytest.approx(2.0) for o in others)
    # Each can be laid as it is told.
    for other in others:
        after = apply(filled, Lay(384, other.media, other.speed, in_s=other.in_s), context)
        assert after.shots[index].source == ClipSource(other.media, other.in_s, other.speed)
    with pytest.raises(BadInput, match="no rule"):
        next_bests(filled, filled.shots[index].id, context, ("nonsense",))
