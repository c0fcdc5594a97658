"""Checks before hand-off: what an editor would be sorry to find in the finished film."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Literal

from zembi.core.colour.tables import is_known
from zembi.core.edit.compiling.material import Material
from zembi.core.edit.compiling.treated import worked
from zembi.core.edit.limits import USUAL, CheckLimits
from zembi.core.edit.model import AngleSource, Beneath, Edit, Item
from zembi.core.memory import each_by_identity
from zembi.core.picture.steps import TABLE
from zembi.core.programme.flatten import on_screen
from zembi.core.programme.model import EMPTY_SLOT, Black, Hole, Programme, Span
from zembi.core.timebase import frame_to_timecode
from zembi.core.treatments.colours import flashes_a_second
from zembi.core.treatments.model import TIME

Kind = Literal[
    "hole",
    "too short",
    "source runs out",
    "offline",
    "out of sync",
    "never shot",
    "treatment",
    "flashes",
    "title",
    "jump",
    "uncut",
]


@dataclass(frozen=True)
class Finding:
    """Something to look at, at programme frames ``start`` to ``end`` (exclusive).

    Attributes:
        items: Ids of the items that it is about and that may be meant so; none where it cannot be accepted.
        accepted: The word with which it was accepted of all of them; None where it counts.
    """

    kind: Kind
    start: int
    end: int
    text: str
    items: tuple[int, ...] = ()
    accepted: str | None = None


def with_accepted(found: Sequence[Finding], edit: Edit) -> list[Finding]:
    """Findings with the words with which the editor accepted them."""
    accepted = {i.id: dict(i.accepted) for lane in edit.lanes for i in lane.items if i.accepted}
    return [_if_accepted(f, accepted) for f in found] if accepted else list(found)


def _if_accepted(finding: Finding, accepted: Mapping[int, Mapping[str, str]]) -> Finding:
    words = [accepted.get(item, {}).get(finding.kind) for item in finding.items]
    known = [w for w in words if w is not None]
    if not words or len(known) < len(words):
        return finding
    return replace(finding, accepted="; ".join(dict.fromkeys(w for w in known if w)))


def check(
    programme: Programme,
    media_end_s: Mapping[str, float],
    wrong: Mapping[str, str],
    names: Mapping[str, str],
    rate: Fraction,
    limits: CheckLimits = USUAL,
) -> list[Finding]:
    """Look through a programme.

    Args:
        programme: What is on screen.
        media_end_s: Seconds of picture of each file.
        wrong: What is wrong, in words, with files that are gone or not those that were added.
        names: Names of the files, for messages.
        rate: Programme rate.
        limits: Beyond which something is pointed out.
    """
    seen = on_screen(programme, rate)
    # One slot over all is what a new edit is made of; slots that were made by hand are holes to fill.
    untouched = [s.content for s in seen if not _around(s)] == [EMPTY_SLOT]
    if untouched or (seen and all(isinstance(s.content, Black) for s in seen)):
        text = "Nothing is cut yet: the film would be black from its first frame to its last."
        found = [Finding("uncut", programme.first, programme.end, text)]
    else:
        found = _holes(seen)
    known = dict.fromkeys([*media_end_s, *wrong])
    files = tuple((m, media_end_s.get(m, 0.0), names.get(m, "The file"), wrong.get(m, "")) for m in known)
    found += filter(None, _of_each(seen, files, rate))
    found += _tables_gone(
        [s for layer in programme.layers for s in layer.spans if not wrong.get(s.media or "")]
    )
    for layer in programme.layers[1:]:
        found += [_see_through(s) for s in layer.spans if isinstance(s.content, Hole)]
    for layer in programme.layers:
        found += _too_short(layer.spans, names, rate, limits.shortest_shot_s)
    return sorted(found, key=lambda f: (f.start, f.kind))


def _tables_gone(spans: Sequence[Span]) -> list[Finding]:
    """A finding for each table of colours that treatments name and that is not at hand, over all that would go through it."""
    lost: dict[float, list[Span]] = {}
    for span in spans:
        for step in span.chain:
            number = dict(step.curves)["number"].keys[0].value if step.kind is TABLE else 0.0
            if number and not is_known(int(number)):
                lost.setdefault(number, []).append(span)
    text = "The table of colours that lies over this is not in the project's folder: it is seen without. Choose its file again."
    return [
        Finding("treatment", min(s.start for s in of), max(s.end for s in of), text, _items(of))
        for of in lost.values()
    ]


def _around(span: Span) -> bool:
    """True for the black before and after the song."""
    return span.why is not None and span.why.kind == "around"


@each_by_identity(8)
def _of_each(span: Span, files: tuple[tuple[str, float, str, str], ...], rate: Fraction) -> Finding | None:
    """Finding about a span's file; None where it is sound.

    Args:
        span: What is seen.
        files: (id, seconds of picture, name, what is wrong with it) of each.
        rate: The programme's.
    """
    if span.media is None:
        return None
    _, end_s, name, wrong = next((f for f in files if f[0] == span.media), ("", 0.0, "The file", ""))
    if wrong:
        return Finding("offline", span.start, span.end, wrong)
    missing = span.time.outside(0.0, end_s, rate)
    if not missing:
        return None
    text = f"{name} has no picture for {missing} of {span.frames} frames."
    return Finding("source runs out", span.start, span.end, text, _items([span]))


def _holes(seen: list[Span]) -> list[Finding]:
    """Stretches without picture that nobody asked to be black; a run of them is one finding."""
    runs: list[list[Span]] = []
    for span in [s for s in seen if isinstance(s.content, Hole)]:
        if runs and runs[-1][-1].end == span.start:
            runs[-1].append(span)
        else:
            runs.append([span])
    out = []
    for run in runs:
        frames = run[-1].end - run[0].start
        reasons = list(dict.fromkeys(s.content.reason for s in run if isinstance(s.content, Hole)))
        more = f" and {len(reasons) - 3} more" if len(reasons) > 3 else ""
        text = f"No picture for {frames} frames: {', '.join(reasons[:3])}{more}."
        out.append(Finding("hole", run[0].start, run[-1].end, text))
    return out


def _see_through(span: Span) -> Finding:
    """A hole in what is laid over: nothing is missing on screen, but not what was asked for is seen."""
    reason = span.content.reason if isinstance(span.content, Hole) else ""
    text = f"Laid over, but {reason}: what lies beneath shows for {span.frames} frames."
    return Finding("hole", span.start, span.end, text)


def _items(spans: Sequence[Span]) -> tuple[int, ...]:
    """Ids of the items that spans come from."""
    return tuple(dict.fromkeys(s.why.item for s in spans if s.why is not None and s.why.item))


def _too_short(
    spans: Sequence[Span], names: Mapping[str, str], rate: Fraction, shortest_s: float
) -> list[Finding]:
    """Shots of a layer that are over before they are seen; a run of them is one finding."""
    shortest = shortest_s * float(rate)
    if not spans:
        return []
    shots = [s.why.at if s.why else s.start for s in spans]
    begins = [0, *(n for n, (a, b) in enumerate(pairwise(shots), 1) if a != b)]
    ends = [*(spans[n - 1].end for n in begins[1:]), spans[-1].end]
    short = [
        (first, end)
        for first, end in zip([spans[n] for n in begins], ends, strict=True)
        if end - first.start < shortest and not isinstance(first.content, Black)
    ]
    if not short:
        return []
    breaks = [n for n, ((_, end), (then, _)) in enumerate(pairwise(short), 1) if then.start != end]
    runs = [short[a:b] for a, b in pairwise([0, *breaks, len(short)])]
    return [
        Finding("too short", r[0][0].start, r[-1][1], _said_of_run(r, names, rate), _items([s for s, _ in r]))
        for r in runs
    ]


def _said_of_run(run: list[tuple[Span, int]], names: Mapping[str, str], rate: Fraction) -> str:
    (first, end), *more = run
    at = frame_to_timecode(first.start, rate)
    if more:
        least = min([end - shot.start for shot, end in run])
        return f"{len(run)} shots in a row from {at} are very short, the shortest {least} frames."
    name = names.get(first.media, "A clip") if first.media is not None else "A shot"
    return f"{name} at {at} lasts only {end - first.start} frames."


def on_purpose(edit: Edit, names: Mapping[int, str], rate: Fraction) -> list[Finding]:
    """Shots whose lips are out of sync because the editor said so.

    Args:
        edit: The edit.
        names: What to call each angle.
        rate: Programme rate.
    """
    lanes = [
        (i.id, i.source, i.start, end)
        for i, end in edit.placed()
        if isinstance(i.source, AngleSource) and i.source.slip
    ]
    return [
        Finding(
            "out of sync", start, end,
            f"{names.get(source.angle, 'An angle')} is out of sync on purpose, {abs(source.slip)} frames "
            f"{'late' if source.slip > 0 else 'early'} ({float(abs(source.slip) / rate) * 1000:.0f} ms).", (item,),
        )
        for item, source, start, end in lanes
    ]  # fmt: skip


def of_treatments(
    edit: Edit, material: Material, names: Mapping[int, str], limits: CheckLimits = USUAL
) -> list[Finding]:
    """Treatments that cannot be done any more, that take lips off the song, or that flash so often that it may harm.

    Args:
        edit: The edit.
        material: What it is made of.
        names: What to call each angle.
        limits: Beyond which something is pointed out.
    """
    found: list[Finding] = []
    placed = edit.placed()
    for item, end in placed:
        if not item.treatments:
            continue
        found += _of_item(item, end, material, limits.flashes)
        moves = [t.kind for t in item.treatments if isinstance(t, TIME) and not t.off]
        if not moves:
            continue
        if isinstance(item.source, AngleSource):
            name = names.get(item.source.angle, "An angle")
            text = f"{name} is off the song here ({', '.join(moves)}): lips do not fit."
            found.append(Finding("out of sync", item.start, end, text, (item.id,)))
        elif isinstance(item.source, Beneath):
            sung = [i for i, until in placed if i.start < end and until > item.start]
            if any(isinstance(i.source, AngleSource) for i in sung):
                text = f"The passage is off the song ({', '.join(moves)}): lips do not fit."
                found.append(Finding("out of sync", item.start, end, text, (item.id,)))
    return found


def _of_item(item: Item, end: int, material: Material, harmless: float) -> list[Finding]:
    out = []
    done = worked(item, end, material)
    for t, trouble in zip(item.treatments, done.wrong, strict=True):
        if t.off:
            continue
        if trouble:
            out.append(
                Finding("treatment", item.start, end, f"“{t.kind}” is left out: {trouble}", (item.id,))
            )
        elif (often := flashes_a_second(t, done.ground)) > harmless:
            words = f"The picture flashes {often:.1f} times a second, which can harm viewers who are sensitive to light."
            out.append(Finding("flashes", item.start, end, words, (item.id,)))
    return out
