"""The plan of a cut: how long shots are in each section, how much B-roll, which angles lead; and carrying it out."""

import itertools
import random
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from zembi.core.edit.fill import SlotSpan, at_holes
from zembi.core.edit.lanes.base import around_held, with_shots
from zembi.core.edit.model import AngleSource, ClipSource, Edit, Empty, Item, Source
from zembi.core.edit.rules import Candidate, Past, SlotContext, best, in_order
from zembi.core.edit.stretches import Clip, frames_of, free_parts, stretch
from zembi.core.errors import BadInput
from zembi.core.footage.look import Look
from zembi.core.lineup.coverage import covers
from zembi.core.programme.model import Span
from zembi.core.song.grid import place_among

#: Longest shots that can be planned, in beats.
MOST_BEATS = 64
#: A clip is not offered slower than this to fill a slot.
SLOWEST_TO_FIT = 0.4
#: What a cut costs on a beat, on a bar, at a phrase start; what crossing a phrase start costs; what a strong hit saves.
_ON_BEAT, _ON_BAR, _ON_PHRASE, _CROSSED, _ON_HIT = 0.5, 0.15, -0.3, 0.8, 0.7
#: What chance adds at most, and how many phrases run over their line.
_CHANCE, _OVER = 0.12, 0.25

#: Rules of how long shots are, beside those of what they show.
LENGTHS: dict[str, str] = {
    "energy": "shots are shorter where the music has more energy",
    "phrases": "cuts fall on phrase starts and bars before other beats",
    "hits": "cuts fall on strong hits",
    "over": "the last shot of a phrase may run a beat over its line",
}


@dataclass(frozen=True)
class Pace:
    """Pace of a section: shots of so many beats, a share of B-roll (0 to 1), and angles that lead (ids)."""

    shortest: int
    longest: int
    broll: float = 0.0
    leads: tuple[int, ...] = ()


def checked_pace(pace: Pace) -> Pace:
    """The pace, if it can be meant.

    Raises:
        BadInput: a value out of range.
    """
    if not 1 <= pace.shortest <= pace.longest <= MOST_BEATS:
        raise BadInput(f"Shots last 1 to {MOST_BEATS} beats, the shortest no longer than the longest.")
    if not 0 <= pace.broll <= 1:
        raise BadInput("The share of B-roll is 0 to 1.")
    return pace


def pace_of(energy: float, broll: bool) -> Pace:
    """The pace of a section by the energy of its music against the song's most (0 to 1); without B-roll where there is none."""
    for least, shortest, longest, share in ((0.85, 2, 4, 0.15), (0.6, 2, 8, 0.2), (0.3, 4, 8, 0.2)):
        if energy >= least:
            return Pace(shortest, longest, share if broll else 0.0)
    return Pace(4, 16, 0.3 if broll else 0.0)


@dataclass(frozen=True)
class Beat:
    """A beat of the song as cuts fall on it.

    Attributes:
        frame: Of a cut there, the lead allowed for.
        energy: Of the music, 0 to 1.
        bar, phrase: Whether it begins one.
        hit: Strength of the strongest hit on it, 0 to 1.
    """

    frame: int
    energy: float = 0.5
    bar: bool = False
    phrase: bool = False
    hit: float = 0.0


@dataclass(frozen=True)
class PacedRange:
    """A section or a part of one: frames (half-open), its name, pace, and the stretches that are sung."""

    first: int
    end: int
    name: str
    pace: Pace


@dataclass(frozen=True)
class Stock:
    """Footage for a cut: what angles show and which are close, and clips."""

    angles: Mapping[int, Sequence[Span]]
    close: frozenset[int] = frozenset()
    clips: tuple[Clip, ...] = ()


def starts_of(
    beats: Sequence[Beat], first: int, end: int, pace: Pace, seed: int, without: Collection[str] = ()
) -> list[int]:
    """First frames of shots that divide a range: the division with the least that speaks against it.

    Args:
        beats: Of the song, ascending.
        first, end: Frames of the range (half-open).
        pace: How long shots are.
        seed: The same one divides the same.
        without: Names of :data:`LENGTHS` that are switched off.
    """
    chance = random.Random(f"{seed} {first}")
    inside = [b for b in beats if first < b.frame < end]
    if not inside:
        return [first]
    frames = [first, *(b.frame for b in inside), end]
    between = beats_between(beats)
    places = [0.0, *itertools.accumulate(between(a, b) for a, b in itertools.pairwise(frames))]
    if "over" not in without:
        inside = _run_over(inside, chance)
    costs = [
        0.0,
        *(_edge(b, without) + chance.uniform(0, _CHANCE) for b in inside),
        0.0,
    ]
    wanted = [
        _wanted(b.energy if "energy" not in without else 0.5, pace) for b in [inside[0], *inside, inside[-1]]
    ]
    crossed = [0.0, *itertools.accumulate(_CROSSED * (b.phrase and "phrases" not in without) for b in inside)]
    crossed.append(crossed[-1])
    count = len(frames)
    least, back = [0.0] + [float("inf")] * (count - 1), [0] * count
    for j in range(1, count):
        for i in range(j - 1, -1, -1):
            length = places[j] - places[i]
            if length > 2 * MOST_BEATS and i < j - 1:
                break
            off = abs(length - wanted[i]) / wanted[i]
            short = 4.0 * max(0.0, pace.shortest - 0.25 - length) + 1.0 * max(
                0.0, length - pace.longest - 0.25
            )
            # Phrase starts between are run over.
            cost = least[i] + off + short + costs[j] + (crossed[j - 1] - crossed[i] if j - 1 > i else 0.0)
            if cost < least[j]:
                least[j], back[j] = cost, i
    out = []
    at = count - 1
    while at > 0:
        at = back[at]
        out.append(frames[at])
    return out[::-1]


def beats_between(beats: Sequence[Beat]) -> Callable[[int, int], float]:
    """Number of beats between two frames, each as long as it is there."""
    frames = sorted({b.frame for b in beats})
    if len(frames) < 2:
        return lambda start, end: float(end - start)
    return lambda start, end: place_among(frames, end) - place_among(frames, start)


def _wanted(energy: float, pace: Pace) -> float:
    return pace.longest - (pace.longest - pace.shortest) * min(1.0, max(0.0, energy))


def _edge(beat: Beat, without: Collection[str]) -> float:
    cost = _ON_BEAT
    if "phrases" not in without:
        cost = _ON_PHRASE if beat.phrase else _ON_BAR if beat.bar else _ON_BEAT
    return cost - (_ON_HIT * beat.hit if "hits" not in without else 0.0)


def _run_over(beats: Sequence[Beat], chance: random.Random) -> list[Beat]:
    """The beats with the line of some phrases a beat later: their last shot runs over it."""
    out = list(beats)
    for k, beat in enumerate(beats[:-1]):
        if beat.phrase and chance.random() < _OVER:
            out[k], out[k + 1] = replace(beat, phrase=False), replace(beats[k + 1], phrase=True)
    return out


def carry_out(
    edit: Edit, passages: Sequence[PacedRange], beats: Sequence[Beat], sung: Sequence[tuple[int, int]], stock: Stock,
    rate: Fraction, seed: int = 0, without: Collection[str] = (),
) -> Edit:  # fmt: skip
    """Cut passages as planned; held shots and everything outside stay.

    Args:
        edit: The edit.
        passages: In order, without gaps.
        beats: Of the song.
        sung: Frames that are sung.
        stock: What there is to cut with.
        rate: Programme rate.
        seed: The same one cuts the same.
        without: Names of rules that are switched off.
    """
    first, end = passages[0].first, passages[-1].end
    kept = [
        (s.start, edit.end_of(i), s.source) for i, s in enumerate(edit.shots)
        if s.held or edit.end_of(i) <= first or s.start >= end
    ]  # fmt: skip
    past = Past(beats_between(beats), list(kept), looks=_looks(stock), rate=rate)
    shots: list[Item] = []
    for passage in passages:
        owed = 0.5
        for a, b in _free(passage.first, passage.end, edit):
            starts = starts_of(beats, a, b, passage.pace, seed, without)
            slots = [SlotSpan(x, y) for x, y in itertools.pairwise([*starts, b])]
            for slot in at_holes(slots, stock.angles, [x.frame for x in beats]):
                place = _place(slot, passage, beats, past.between, sung)
                past.after = next((s for x, _, s in kept if x == slot.end), None)
                owed += passage.pace.broll
                source = _source(place, stock, past, seed, without, owed >= 1 and slot.start > passage.first)
                owed -= isinstance(source, ClipSource)
                past.shots.append((slot.start, slot.end, source))
                if (
                    not shots
                    or shots[-1].source != source
                    or not isinstance(source, AngleSource)
                    or any(shots[-1].start < y <= slot.start for _, y, _ in kept)
                ):
                    shots.append(Item(slot.start, source))
    if not shots:
        return edit
    # Where a held shot lies at the head, what is planned begins after it, from its own start.
    head = [Item(first, Empty())] if shots[0].start > first else []
    return around_held(edit, first, end, [*head, *shots], rate)


def fill_slots(
    edit: Edit, slots: Sequence[int], passages: Sequence[PacedRange], beats: Sequence[Beat], sung: Sequence[tuple[int, int]],
    stock: Stock, rate: Fraction, seed: int = 0, without: Collection[str] = (), mixed: bool = False,
) -> Edit:  # fmt: skip
    """Fill empty slots by the rules: with stretches of clips, or ``mixed``, with angles and as many clips as is planned.

    Where the best stretches leave slots empty, they are filled once more, the longest first, with stretches that lie
    close together; what leaves fewer empty is taken.

    Args:
        edit: The edit.
        slots: Indexes of its empty shots.
        passages: The sections they lie in.
        beats, sung, stock, rate, seed, without: As of :func:`carry_out`.
        mixed: Whether angles are shown too, in all slots but the planned share of B-roll; each stands in for the other
            where there is none.
    """
    places = []
    angles: set[int] = set()
    between = beats_between(beats)
    owed = 0.5
    for index in slots:
        slot = SlotSpan(edit.shots[index].start, edit.end_of(index))
        passage = next((p for p in passages if p.first <= slot.start < p.end), passages[-1])
        places.append((index, _place(slot, passage, beats, between, sung)))
        owed += passage.pace.broll if mixed else 1.0
        if owed < 1:
            angles.add(index)
        owed -= owed >= 1
    chosen = _chosen(places, shown_in(edit, between, stock, rate), stock, seed, without, angles, mixed=mixed)
    if len(chosen) < len(places):
        longest = sorted(places, key=lambda p: p[1].start - p[1].end)
        past = shown_in(edit, between, stock, rate)
        closely = _chosen(longest, past, stock, seed, without, angles, mixed=mixed, tightly=True)
        chosen = max(chosen, closely, key=len)
    return with_shots(
        edit, [replace(s, source=chosen[i]) if i in chosen else s for i, s in enumerate(edit.shots)]
    )


@dataclass(frozen=True)
class NextBest:
    """A clip that could take the place of what a shot shows.

    Attributes:
        media, name: Its file, and what to call it.
        in_s, out_s: Stretch of it that would be seen.
        speed: At which it is laid.
        reason: Words of the rule that speaks for it most; "" where none does more than for the others.
    """

    media: str
    name: str
    in_s: float
    out_s: float
    speed: float
    reason: str


def next_best(
    edit: Edit, index: int, passages: Sequence[PacedRange], beats: Sequence[Beat], sung: Sequence[tuple[int, int]],
    stock: Stock, rate: Fraction, without: Collection[str] = (),
) -> list[NextBest]:  # fmt: skip
    """Clips for a shot in the order of the rules, without the one that it shows; all else of the edit stays.

    Args:
        edit: The edit.
        index: Of the shot.
        passages, beats, sung, stock, rate, without: As of :func:`fill_slots`.
    """
    shot, end = edit.shots[index], edit.end_of(index)
    between = beats_between(beats)
    passage = next((p for p in passages if p.first <= shot.start < p.end), passages[-1])
    place = _place(SlotSpan(shot.start, end), passage, beats, between, sung)
    past = shown_in(edit, between, stock, rate)
    past.shots = [s for s in past.shots if s != (shot.start, end, shot.source)]
    now = shot.source.media if isinstance(shot.source, ClipSource) else None
    out = []
    for candidate, reason in in_order(place, _stretches(place, stock, past, without), past, without):
        source = candidate.source
        if isinstance(source, ClipSource) and source.media != now:
            seen = float((end - shot.start) / rate) * source.speed
            out.append(
                NextBest(source.media, candidate.name, source.in_s, source.in_s + seen, source.speed, reason)
            )
    return out


def shown_in(edit: Edit, between: Callable[[int, int], float], stock: Stock, rate: Fraction) -> Past:
    """All that an edit shows, of any lane."""
    past = Past(between, looks=_looks(stock), rate=rate)
    past.shots += [(i.start, end, i.source) for i, end in edit.placed() if not isinstance(i.source, Empty)]
    return past


def _chosen(
    places: Sequence[tuple[int, SlotContext]],
    past: Past,
    stock: Stock,
    seed: int,
    without: Collection[str],
    angles: Collection[int],
    *,
    mixed: bool,
    tightly: bool = False,
) -> dict[int, Source]:
    """Sources of the slots that could be filled, by their numbers."""
    out: dict[int, Source] = {}
    # Once more with all that was chosen in sight: what came after a slot may leave a better one for it.
    for number, place in (*places, *places):
        if number in out:
            past.shots.remove((place.start, place.end, out[number]))
        past.after = next((s for a, _, s in past.shots if a == place.end), None)
        clips = _stretches(place, stock, past, without, tightly=tightly)
        able = _able(place, stock) if mixed else []
        for candidates in (able, clips) if number in angles else (clips, able):
            found = best(place, candidates, past, seed, without)
            if found is not None:
                out[number] = found.source
                break
        if number in out:
            past.shots.append((place.start, place.end, out[number]))
    return out


@dataclass(frozen=True)
class Shortfall:
    """Reason why a slot stays empty, in numbers, and what helps.

    Attributes:
        item: Id of the slot.
        frames: Its length.
        longest: Frames of the longest stretch that nothing shows yet; 0 where there is none.
        media, in_s: Where that lies.
        speed: Slower speed at which it fills the slot; None where that would be too slow.
        words: All of it in words.
    """

    item: int
    frames: int
    longest: int
    media: str
    in_s: float
    speed: float | None
    words: str


def why_empty(
    edit: Edit, slots: Sequence[int], stock: Stock, rate: Fraction, without: Collection[str] = ()
) -> list[Shortfall]:
    """Reasons for each of the slots (by index) that is empty."""
    past = shown_in(edit, beats_between(()), stock, rate)
    free = [
        (frames_of(clip, part, rate), clip, part[0])
        for clip in stock.clips
        for part in free_parts(clip, past.shown_of(clip.media) if "once" not in without else [])
    ]
    longest, clip, in_s = max(free, key=lambda f: f[0], default=(0, None, 0.0))
    out = []
    for slot, frames in ((edit.shots[i], edit.end_of(i) - edit.shots[i].start) for i in slots):
        if not isinstance(slot.source, Empty):
            continue
        # Rounded down: at a speed rounded up a frame would be missing.
        slower = int(100 * clip.speed * longest / frames) / 100 if clip else 0.0
        speed = slower if clip and SLOWEST_TO_FIT <= slower < clip.speed else None
        words = _said_of_lack(frames, longest, clip, speed)
        out.append(Shortfall(slot.id, frames, longest, clip.media if clip else "", in_s, speed, words))
    return out


def _said_of_lack(frames: int, longest: int, clip: Clip | None, speed: float | None) -> str:
    if clip is None:
        return f"Every stretch of every clip is shown already; this slot is {frames} f."
    if longest >= frames:
        return f"The rules forbid each stretch that is long enough: {longest} f for a slot of {frames} f."
    slower = f"slow {clip.name} to {speed:.0%}, or " if speed else ""
    return f"The longest free stretch is {longest} f, this slot is {frames} f: {slower}cut the slot."


def _free(first: int, end: int, edit: Edit) -> list[tuple[int, int]]:
    """Parts of a range that are not held."""
    out, at = [], first
    for index, shot in enumerate(edit.shots):
        if shot.held and edit.end_of(index) > first and shot.start < end:
            if shot.start > at:
                out.append((at, shot.start))
            at = max(at, edit.end_of(index))
    return [*out, (at, end)] if at < end else out


def _place(
    slot: SlotSpan,
    passage: PacedRange,
    beats: Sequence[Beat],
    between: Callable[[int, int], float],
    sung: Sequence[tuple[int, int]],
) -> SlotContext:
    inside = [b.energy for b in beats if slot.start <= b.frame < slot.end]
    heard = sum(max(0, min(b, slot.end) - max(a, slot.start)) for a, b in sung)
    frames = slot.end - slot.start
    return SlotContext(
        slot.start, slot.end, between(slot.start, slot.end), passage.name, sum(inside) / len(inside) if inside else 0.5,
        min(1.0, heard / frames), frozenset(passage.pace.leads),
    )  # fmt: skip


def _looks(stock: Stock) -> dict[str, Look]:
    return {clip.media: clip.look for clip in stock.clips if clip.look}


def _able(place: SlotContext, stock: Stock) -> list[Candidate]:
    """The angles that cover a whole place."""
    return [
        Candidate(AngleSource(n), n in stock.close)
        for n, spans in stock.angles.items()
        if covers(spans, place.start, place.end)
    ]


def _stretches(
    place: SlotContext, stock: Stock, past: Past, without: Collection[str], *, tightly: bool = False
) -> list[Candidate]:
    """The best stretch of each clip that is long enough for a place, of what is not shown elsewhere."""
    out = []
    for clip in stock.clips:
        shown = past.shown_of(clip.media) if "once" not in without else []
        source = stretch(clip, place.end - place.start, shown, past.rate, tightly=tightly)
        if source is not None:
            out.append(
                Candidate(
                    source,
                    tags=clip.tags,
                    moves=clip.moves,
                    light=clip.light,
                    look=clip.look,
                    seconds=clip.seconds,
                    rest=clip.rest,
                    name=clip.name,
                )
            )
    return out


def _source(
    place: SlotContext, stock: Stock, past: Past, seed: int, without: Collection[str], broll: bool
) -> Source:
    able = _able(place, stock)
    clips = _stretches(place, stock, past, without) if broll or not able else []
    for candidates in (clips, able) if broll or not able else (able,):
        chosen = best(place, candidates, past, seed, without)
        if chosen is not None:
            return chosen.source
    return Empty()
