"""Alignment on hard takes: what became of each, how sure that was, borders and cost, kind by kind.

Usage: python benchmarks/hard.py [--songs FOLDER] [--half first|second|both] [--rounds N] [--first SEED] [--only WORD] [--curve FILE] [--show]
"""

import zembi  # noqa: F401 - before numpy: one thread of linear algebra, so that time is of one core

# isort: split
import argparse
import itertools
import multiprocessing
import tempfile
import time
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import numpy as np
import soxr
from curve import BINS, write_curve
from hard_takes import hard_cases
from takes import RATE as SOUND_RATE
from takes import Case, Mono, Original, TruePass, equal_places, folder_originals, made_original, write_sound

from zembi.core.sync.align import TakeAlignment, Version, align
from zembi.core.sync.features import RATE, SoundFeatures, prepare
from zembi.core.sync.found import FoundPass
from zembi.media.spool import spooled_take

#: A place further off than this is another place; so much of it in a locked pass makes the pass wrong.
WRONG_S, WRONG_FOR_S = 0.05, 1.5
#: True passes shorter than this need not be found; of the others so much has to be held.
_LEAST_S, _HELD = 2.5, 0.7
#: Two stretches of the song more alike than this are the same sound.
_SAME = 0.97
OUTCOMES = ("right", "told", "wrong", "check", "missed")


@dataclass(frozen=True)
class Result:
    """Outcome of one take.

    Attributes:
        outcome: One of ``OUTCOMES``; "wrong" is wrong and sure.
        errors_s: Error at the ends of each right pass.
        borders_s: Distance of each right pass's ends from the true ones.
        said: (confidence, right) of each found pass; that of a choice is shared among its places.
        seconds: Processor time.
        take_s: Length of the take.
    """

    kind: str
    song: str
    outcome: str
    errors_s: list[float]
    borders_s: list[float]
    said: list[tuple[float, bool]]
    seconds: float
    take_s: float
    note: str


def _same_sound(song: Mono, a_s: float, b_s: float) -> bool:
    size = SOUND_RATE // 4
    a, b = (song[max(0, int(t * SOUND_RATE)) :][:size].astype(float) for t in (a_s, b_s))
    if min(len(a), len(b)) < size:
        return False
    return float(a @ b) > _SAME * float(np.sqrt((a @ a) * (b @ b))) + 1e-12


def _wrong_s(p: FoundPass, case: Case, song: Mono) -> tuple[float, float]:
    """Seconds of a found pass that lie elsewhere than the truth says, and seconds that lie right."""
    wrong = right = 0.0
    for t in np.arange(p.take_start_s + 0.125, p.take_end_s, 0.25):
        for truth in case.passes:
            if truth.start_s <= t < truth.end_s:
                said, true = p.line.song(float(t)), truth.song(float(t))
                if abs(said - true) < WRONG_S or _same_sound(song, said - 0.125, true - 0.125):
                    right += 0.25
                else:
                    wrong += 0.25
    return wrong, right


def _held(truth: TruePass, p: FoundPass) -> float:
    """Share of a true pass that a found one holds at the right place."""
    start, end = max(truth.start_s, p.take_start_s), min(truth.end_s, p.take_end_s)
    if end <= start or abs(p.line.song((start + end) / 2) - truth.song((start + end) / 2)) > WRONG_S:
        return 0.0
    return (end - start) / (truth.end_s - truth.start_s)


def _offered(truth: TruePass, p: FoundPass) -> bool:
    """A true pass is among the places that are offered for a stretch of it."""
    inside = truth.start_s - 1 <= p.take_start_s and p.take_end_s <= truth.end_s + 1
    return inside and any(abs(r.song_start_s - truth.song(r.take_start_s)) < WRONG_S for r in p.rivals)


def _listed(case: Case, found: TakeAlignment) -> bool:
    """Every equally true place is among those that are offered."""
    truth = case.passes[0]
    named = [
        r.song_start_s - r.rate * (r.take_start_s - truth.start_s) for p in found.passes for r in p.rivals
    ]
    return all(any(abs(n - e) < WRONG_S for n in named) for e in case.equal_s or (truth.song_s,))


def judge(
    case: Case, found: TakeAlignment, song: Mono
) -> tuple[str, list[float], list[float], list[tuple[float, bool]]]:
    """Outcome, errors, borders, and (confidence, right) of each found pass."""
    errors: list[float] = []
    borders: list[float] = []
    said: list[tuple[float, bool]] = []
    sure_and_wrong = False
    for p in found.passes:
        wrong, right = _wrong_s(p, case, song)
        fine = wrong <= WRONG_FOR_S and (right > 0 or not case.passes) and bool(case.passes)
        said.append((p.confidence, fine))
        if p.locked and (wrong > WRONG_FOR_S or not case.passes):
            sure_and_wrong = True
    long = [t for t in case.passes if t.end_s - t.start_s >= _LEAST_S]
    held = told = 0
    for truth in long:
        if (
            any(_offered(truth, p) for p in found.passes)
            and len(equal_places(song, truth.song_s, truth.song(truth.end_s))) > 1
        ):
            told += 1
            continue
        best = max(found.passes, key=lambda p: _held(truth, p), default=None)
        if best is None or _held(truth, best) < _HELD:
            continue
        if best.locked:
            held += 1
            ends = max(truth.start_s, best.take_start_s), min(truth.end_s, best.take_end_s)
            errors += [abs(best.line.song(t) - truth.song(t)) for t in ends]
            borders += [abs(best.take_start_s - truth.start_s), abs(best.take_end_s - truth.end_s)]
    if sure_and_wrong:
        outcome = "wrong"
    elif not case.passes:
        outcome = "told" if found.status != "locked" else "wrong"
    elif case.status == "choose":
        outcome = "told" if _listed(case, found) else "check" if found.passes else "missed"
    elif held + told == len(long):
        outcome = "told" if told else "right"
    else:
        outcome = "check" if found.passes else "missed"
    return outcome, errors, borders, said


def _ready(sound: Mono) -> SoundFeatures:
    """A version of a song with all that is worked out of it once, which is no take's cost."""
    song = prepare(soxr.resample(np.ascontiguousarray(sound), SOUND_RATE, RATE).astype(np.float32))
    for feature in ("flux_slide", "white_slide", "tones", "envelopes", "fine"):
        getattr(song, feature)
    return song


def _run(job: tuple[Original, int, str]) -> list[Result]:
    original, seed, only = job
    song = _ready(original.mix)
    others: list[Version] = []
    if original.stereo is not None:
        left, right = original.stereo[:, 0], original.stereo[:, 1]
        made = [_ready(left), _ready(left - right)]
        others = [partial(made.__getitem__, n) for n in range(len(made))]
    results = []
    for kind, make in hard_cases(original, seed):
        if only not in kind:
            continue
        case = make()
        take = soxr.resample(case.sound, SOUND_RATE, RATE).astype(np.float32)
        begin = time.process_time()
        found = align(song, take, others=others)
        seconds = time.process_time() - begin
        outcome, errors, borders, said = judge(case, found, original.mix)
        note = " ".join(
            f"[{p.take_start_s:.2f}-{p.take_end_s:.2f} at {p.song_start_s:.3f} x{p.rate:.5f} "
            f"c{p.confidence:.3f} z{p.z:.0f} r{len(p.rivals)}]"
            for p in found.passes
        )
        truth = " ".join(
            f"({t.start_s:.2f}-{t.end_s:.2f} at {t.song_s:.3f} x{t.rate:.5f})" for t in case.passes
        )
        results.append(
            Result(
                case.kind, f"{original.name}/{seed}", outcome, errors, borders, said, seconds, len(take) / RATE,
                f"{found.status} {note} truth {truth} {len(case.equal_s)} equal",
            )
        )  # fmt: skip
    return results


def _decoding() -> float:
    """Processor seconds that decoding a second of a take's sound takes."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "take.m4a"
        write_sound(
            path, np.random.default_rng(0).standard_normal(SOUND_RATE * 10).astype(np.float32) * 0.1, 120
        )
        begin = time.process_time()
        spooled_take(path, 0.0, RATE, Path(folder))
        return (time.process_time() - begin) / 120


def _table(results: list[Result], decoding: float) -> None:
    kinds: dict[str, list[Result]] = defaultdict(list)
    for r in results:
        kinds[r.kind].append(r)
    heads = " ".join(f"{o:>6}" for o in OUTCOMES)
    print(f"{'kind':24} {'n':>3} {heads} | median ms    95 %  border s  times decoding (most)")
    for kind, rows in (*kinds.items(), ("all", results)):
        errors = np.array([e for r in rows for e in r.errors_s] or [np.nan]) * 1000
        borders = max((b for r in rows for b in r.borders_s), default=float("nan"))
        costs = [r.seconds / r.take_s / decoding for r in rows]
        counts = " ".join(f"{sum(r.outcome == o for r in rows):6d}" for o in OUTCOMES)
        print(
            f"{kind:24} {len(rows):3d} {counts} | {np.median(errors):9.3f} {np.percentile(errors, 95):7.2f} "
            f"{borders:9.2f} {np.mean(costs):8.1f} ({max(costs):.1f})"
        )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--songs", type=Path, help="a folder of songs instead of the made ones")
    parser.add_argument("--half", default="both", choices=("first", "second", "both"))
    parser.add_argument("--rounds", type=int, default=1, help="takes of each song, or made songs")
    parser.add_argument("--first", type=int, default=0, help="the first seed")
    parser.add_argument(
        "--workers", type=int, default=None, help="processes; one for each processor if left out"
    )
    parser.add_argument("--only", default="", help="only kinds with this word in their name")
    parser.add_argument("--curve", type=Path, help="draw confidence against what was right as an SVG file")
    parser.add_argument("--show", action="store_true", help="print every take that was not right")
    chosen = parser.parse_args()

    def jobs() -> Iterator[tuple[Original, int, str]]:
        for seed in range(chosen.first, chosen.first + chosen.rounds):
            if chosen.songs is None:
                yield made_original(seed), seed + 1, chosen.only
            else:
                for original in folder_originals(chosen.songs, chosen.half):
                    yield original, seed + 1, chosen.only

    decoding = _decoding()
    results: list[Result] = []
    with multiprocessing.get_context("spawn").Pool(chosen.workers) as pool:
        for part in pool.imap_unordered(_run, jobs()):
            results += part
            for r in part if chosen.show else ():
                if r.outcome not in ("right", "told") or max(r.borders_s, default=0) > 0.5:
                    print(f"{r.song} {r.kind}: {r.outcome}: {r.note}", flush=True)
    results.sort(key=lambda r: r.song)
    _table(results, decoding)
    print("\nconfidence said    passes   right")
    said = [s for r in results for s in r.said]
    for low, high in itertools.pairwise(BINS):
        inside = [right for c, right in said if low <= c < high]
        share = f"{np.mean(inside):8.2%}" if inside else "       –"
        print(f"{low:4.2f} to {min(high, 1.0):4.2f}     {len(inside):6d} {share}")
    if chosen.curve is not None:
        songs = len({r.song.split("/")[0] for r in results})
        write_curve(chosen.curve, said, f"{len(said)} passes of {len(results)} takes of {songs} songs")


if __name__ == "__main__":
    main()
