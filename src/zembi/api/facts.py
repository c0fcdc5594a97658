"""Defaults, limits and choices of the page's forms, from where the core has them; written beside the client.

``make client`` writes it as facts.json, and ``make check`` holds the written one to this.
"""

import dataclasses
from typing import Any, Literal, Union, get_args, get_origin, get_type_hints

from zembi.core.colour.grade import BENDS, CONTROLS
from zembi.core.colour.grade import CURVES as CURVES_OF
from zembi.core.colour.logs import OFFSETS, PLAIN, SLOPES, Curve
from zembi.core.colour.looks import LOOKS
from zembi.core.edit.falls import MOST_LEAD
from zembi.core.edit.limits import RANGES, USUAL
from zembi.core.edit.model import SPEEDS
from zembi.core.edit.operations.accepting import LONGEST_WORD
from zembi.core.edit.operations.around import MOST_AROUND_S
from zembi.core.edit.operations.timing import MOST_LOOSE, MOST_PUSH
from zembi.core.edit.operations.titles import MOST_LEAD as MOST_TITLE_LEAD
from zembi.core.edit.operations.titles import LayLyrics
from zembi.core.edit.planning import MOST_BEATS
from zembi.core.footage.fit import SCALES
from zembi.core.interchange.notes import LONGEST_NOTE as LONGEST_TEXT
from zembi.core.interchange.notes import LONGEST_WHO, LONGEST_WHY
from zembi.core.picture.steps import STEPS
from zembi.core.programme.size import SIDES, USUAL_SIZES
from zembi.core.song.corrections import FASTEST_BPM, METRES, SLOWEST_BPM
from zembi.core.song.cutdown import CURVES, MOST_GAIN_DB
from zembi.core.song.grid import PHRASE_BARS
from zembi.core.song.hits import ATTACK_ROWS, HIT_NAMES, STROKE_ROWS, TURN_ROWS, WITH_DRUMS
from zembi.core.song.marks import FARTHEST_SHIFT_S, FARTHEST_TIDY_S, THINNED
from zembi.core.titles.card import LIMITS, LINE_SIZES, SAFE, Align, Anchor, Card, Family
from zembi.core.titles.presets import LYRIC_STYLES, PRESETS
from zembi.core.treatments.model import (
    KINDS,
    OF_A_CUT,
    OF_CLIPS,
    OF_ONE_SHOT,
    OF_PICTURES,
    TRANSITIONS,
    WORDS,
)
from zembi.core.treatments.timing import FASTEST
from zembi.jobs.runner import OPEN_STATES
from zembi.media.derive import PROXY_SIZES, STILL_COLUMNS, STILL_EVERY_S, STILL_SIZE, STILLS_SHEET
from zembi.service.edit.versions import LONGEST_NAME, LONGEST_NOTE
from zembi.service.handoff.roundtrip import MOST_HANDLES


def facts() -> dict[str, Any]:
    """Everything that the page would else have to know by itself, as plain data."""
    return {
        "limits": {
            "lead": [0, MOST_LEAD], "beats": [1, MOST_BEATS], "push": [1, MOST_PUSH], "loosen": [1, MOST_LOOSE],
            "handles": [0, MOST_HANDLES], "around_s": [0, MOST_AROUND_S], "title_lead": [0, MOST_TITLE_LEAD], "side": list(SIDES), "scale": list(SCALES), "speed": list(SPEEDS),
            "ramp": [-FASTEST, FASTEST], "bpm": [SLOWEST_BPM, FASTEST_BPM], "metre": list(METRES),
            "phrase_bars": list(PHRASE_BARS), "thin": list(THINNED), "gain_db": [-MOST_GAIN_DB, MOST_GAIN_DB],
            "tidy_s": [0.01, FARTHEST_TIDY_S], "shift_s": [-FARTHEST_SHIFT_S, FARTHEST_SHIFT_S], "share": [0, 1],
        },
        "sizes": [list(s) for s in USUAL_SIZES],
        "steps": {name: dict(kind.rest) for name, kind in STEPS.items()},
        "hits": {kind: {"one": one, "many": many} for kind, (one, many) in HIT_NAMES.items()},
        "hit_rows": {
            "strokes": list(STROKE_ROWS), "attacks": list(ATTACK_ROWS), "turns": list(TURN_ROWS), "with_drums": WITH_DRUMS
        },
        "fades": dict(CURVES),
        "open_states": list(OPEN_STATES),
        "stills": {
            "sheet": STILLS_SHEET, "width": STILL_SIZE[0], "height": STILL_SIZE[1], "columns": STILL_COLUMNS,
            "every_s": STILL_EVERY_S,
        },
        "proxies": {name: list(box) for name, box in PROXY_SIZES.items()},
        "titles": {
            "plain": _defaults(Card), "lyrics": {**_defaults(LayLyrics), "styles": list(LYRIC_STYLES)},
            "presets": [{"name": name, "card": dataclasses.asdict(card)} for name, card in PRESETS.items()],
            "limits": {name: list(pair) for name, pair in LIMITS.items()}, "line_sizes": list(LINE_SIZES),
            "fonts": list(get_args(Family)), "aligns": list(get_args(Align)), "anchors": list(get_args(Anchor)),
            "safe": SAFE,
        },
        "grade": {name: [c.least, c.most] for name, c in CONTROLS.items()}, "curves": {"of": list(CURVES_OF), "at": list(BENDS)},
        "looks": [{"name": name, "values": dict(values)} for name, values in LOOKS.items()],
        "check_limits": {name: [getattr(USUAL, name), *ends] for name, ends in RANGES.items()}, "accept_word": LONGEST_WORD, "versions": {"name": LONGEST_NAME, "note": LONGEST_NOTE}, "notes": {"text": LONGEST_TEXT, "who": LONGEST_WHO, "why": LONGEST_WHY},
        "logs": {"curves": list(get_args(Curve)), **PLAIN, "slopes": list(SLOPES), "offsets": list(OFFSETS)},
        "treatments": {name: _treatment(kind) for name, kind in KINDS.items()},
    }  # fmt: skip


def _defaults(kind: type[Any]) -> dict[str, Any]:
    """Defaults of the fields of a class that have one."""
    return {f.name: f.default for f in dataclasses.fields(kind) if f.default is not dataclasses.MISSING}


def _treatment(kind: type[Any]) -> dict[str, Any]:
    """Defaults of a kind of treatment, the choices of its fields, the kinds of items that it can lie on, and whether
    it needs a shot before it.

    What has no default is a place or second, which the page gives it; it is null here.
    """
    hints = get_type_hints(kind)
    begins: dict[str, Any] = {}
    for f in dataclasses.fields(kind):
        value = None if f.default is dataclasses.MISSING else f.default
        begins[f.name] = dataclasses.asdict(value) if dataclasses.is_dataclass(value) else value  # type: ignore[arg-type]
    choices = {name: list(get_args(_plain(hint))) for name, hint in hints.items() if _is_choice(hint)}
    return {
        "begins": begins,
        "choices": {name: [c for c in of if c != "hold"] for name, of in choices.items() if name != "kind"},
        "passage": kind not in OF_ONE_SHOT, "cutaway": kind not in OF_A_CUT + WORDS, "angle": kind not in OF_CLIPS + WORDS,
        "shot": kind not in WORDS, "title": kind not in OF_PICTURES,
        "joins": kind in TRANSITIONS,
    }  # fmt: skip


def _plain(hint: Any) -> Any:
    """A hint without "or none"."""
    if get_origin(hint) is Union:
        return next(h for h in get_args(hint) if h is not type(None))
    return hint


def _is_choice(hint: Any) -> bool:
    return get_origin(_plain(hint)) is Literal
