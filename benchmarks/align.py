"""Alignment on camera-like takes: error, status, confidence and cost, beside the plain full-rate cross-correlation.

Usage: python benchmarks/align.py [--rounds N] [--first SEED] [--songs FOLDER] [--only WORD]
"""

import zembi  # noqa: F401 - before numpy: one thread of linear algebra, so that time is of one core

# isort: split
import argparse
import multiprocessing
import resource
import tempfile
import time
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soxr
from scipy.signal import correlate
from takes import RATE as SOUND_RATE
from takes import Case, Maker, Mono, Original, cases, folder_originals, made_original, write_sound

from zembi.core.sync.align import TakeAlignment, align
from zembi.core.sync.features import RATE, prepare
from zembi.media.spool import spooled_take
from zembi.service.lineup.aligning import align_file

#: A place further off than this is another place.
WRONG_S = 0.05
#: Windows of confidence in the reliability table.
BINS = ((0.0, 0.5), (0.5, 0.7), (0.7, 0.9), (0.9, 0.99), (0.99, 1.01))


@dataclass(frozen=True)
class Result:
    """Outcome of one case.

    Attributes:
        errors_s: Worst error at the ends of each found pass that lies on a true one.
        believed: (confidence, right, locked) of each found pass.
        covered: Share of true pass time that found passes hold.
        beyond_s: Seconds of found passes outside any true one.
        listed: Share of the equally true places that were listed; nan where there is one only.
    """

    kind: str
    song: str
    expected: str
    status: str
    errors_s: list[float]
    believed: list[tuple[float, bool, bool]]
    covered: float
    beyond_s: float
    listed: float
    seconds: float
    take_s: float
    plain_right: bool
    note: str


def plain_place(song: Mono, take: Mono) -> float:
    """The yardstick: full-rate cross-correlation and its highest peak; song time at take time 0."""
    row = correlate(song, take, mode="full", method="fft")
    return (int(np.argmax(np.abs(row))) - len(take) + 1) / SOUND_RATE


def _overlap(a: tuple[float, float], b: tuple[float, float]) -> float:
    return max(0.0, min(a[1], b[1]) - max(a[0], b[0]))


def _judge(case: Case, found: TakeAlignment) -> tuple[list[float], list[tuple[float, bool, bool]]]:
    errors, believed = [], []
    for p in found.passes:
        spans = [_overlap((p.take_start_s, p.take_end_s), (t.start_s, t.end_s)) for t in case.passes]
        worst = np.inf
        if spans and max(spans) > 0:
            truth = case.passes[int(np.argmax(spans))]
            ends = max(p.take_start_s, truth.start_s), min(p.take_end_s, truth.end_s)
            worst = max(abs(p.song_start_s + p.rate * (t - p.take_start_s) - truth.song(t)) for t in ends)
        if worst < WRONG_S:
            errors.append(worst)
        believed.append((p.confidence, worst < WRONG_S, p.locked))
    return errors, believed


def _listed(case: Case, found: TakeAlignment) -> float:
    if len(case.equal_s) < 2:
        return float("nan")
    truth = case.passes[0]
    named = [
        r.song_start_s - r.rate * (r.take_start_s - truth.start_s) for p in found.passes for r in p.rivals
    ]
    return float(np.mean([any(abs(n - e) < WRONG_S for n in named) for e in case.equal_s]))


def _run(job: tuple[Original, int, str]) -> list[Result]:
    original, seed, only = job
    song = prepare(soxr.resample(original.mix, SOUND_RATE, RATE).astype(np.float32))
    results = []
    for case in cases(original, seed):
        if only not in case.kind:
            continue
        take = soxr.resample(case.sound, SOUND_RATE, RATE).astype(np.float32)
        begin = time.process_time()
        found = align(song, take)
        seconds = time.process_time() - begin
        errors, believed = _judge(case, found)
        total = sum(t.end_s - t.start_s for t in case.passes)
        held = sum(
            _overlap((p.take_start_s, p.take_end_s), (t.start_s, t.end_s))
            for p in found.passes
            for t in case.passes
        )
        plain = False
        if case.passes and case.status == "locked":
            truth = max(case.passes, key=lambda t: t.end_s - t.start_s)
            middle = (truth.start_s + truth.end_s) / 2
            plain = abs(plain_place(original.mix, case.sound) + middle - truth.song(middle)) < 0.02
        note = " ".join(
            f"[{p.take_start_s:.2f}-{p.take_end_s:.2f} at {p.song_start_s:.3f} x{p.rate:.5f} "
            f"c{p.confidence:.3f} z{p.z:.0f} r{len(p.rivals)}]"
            for p in found.passes
        )
        truth_note = " ".join(
            f"({t.start_s:.2f}-{t.end_s:.2f} at {t.song_s:.3f} x{t.rate:.5f})" for t in case.passes
        )
        results.append(
            Result(
                case.kind, f"{original.name}/{seed}", case.status, found.status, errors, believed,
                min(1.0, held / total) if total else float("nan"),
                sum(p.take_end_s - p.take_start_s for p in found.passes) - held, _listed(case, found),
                seconds, len(take) / RATE, plain, f"{note} truth {truth_note} {len(case.equal_s)} equal",
            )
        )  # fmt: skip
    return results


def _table(results: list[Result]) -> None:
    kinds: dict[str, list[Result]] = defaultdict(list)
    for r in results:
        kinds[r.kind].append(r)
    print(
        f"{'kind':22} {'n':>3} {'status':>6} {'median':>8} {'95 %':>8} {'max ms':>8} {'wrong':>5} {'found':>6} "
        f"{'beyond':>6} {'listed':>6} {'s/take':>6} | plain right"
    )
    for kind, rows in (*kinds.items(), ("all", results)):
        errors = np.array([e for r in rows for e in r.errors_s] or [np.nan]) * 1000
        wrong = sum(locked and not right for r in rows for _c, right, locked in r.believed)
        wrong += sum(
            r.expected != "locked" and r.status == "locked" and all(b[1] for b in r.believed) for r in rows
        )
        covered = [r.covered for r in rows if not np.isnan(r.covered)]
        listed = [r.listed for r in rows if not np.isnan(r.listed)]
        print(
            f"{kind:22} {len(rows):3d} {np.mean([r.status == r.expected for r in rows]):6.0%} "
            f"{np.median(errors):8.3f} {np.percentile(errors, 95):8.3f} {errors.max():8.3f} {wrong:5d} "
            f"{np.mean(covered) if covered else np.nan:6.1%} {max(r.beyond_s for r in rows):6.2f} "
            f"{np.mean(listed) if listed else np.nan:6.0%} {np.mean([r.seconds for r in rows]):6.2f} "
            f"| {np.mean([r.plain_right for r in rows]):5.0%}"
        )


def _reliability(results: list[Result]) -> None:
    print("\nconfidence said    places   right")
    believed = [b for r in results for b in r.believed]
    for low, high in BINS:
        inside = [right for c, right, _ in believed if low <= c < high]
        share = f"{np.mean(inside):7.2%}" if inside else "      –"
        print(f"{low:4.2f} to {min(high, 1.0):4.2f}     {len(inside):6d} {share}")


def _cost(job: tuple[str, float]) -> tuple[str, float, float, float]:
    """Decode a take's sound, then line it up from its file: CPU seconds of each, and peak memory added in MB."""
    kind, seconds = job
    original = made_original(0)
    song = prepare(soxr.resample(original.mix, SOUND_RATE, RATE).astype(np.float32))
    m = Maker(original, 1)
    heard = m.heard(m.talk(4), original.mix, m.talk(6)) if kind == "song" else m.heard(m.talk(120))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "take.m4a"
        write_sound(path, heard, seconds)
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        begin = time.process_time()
        with tempfile.TemporaryDirectory() as scratch:
            spooled_take(path, 0.0, RATE, Path(scratch))
        decoding = time.process_time() - begin
        begin = time.process_time()
        align_file(song, path, 0.0, lambda _s, _w: None)
        aligning = time.process_time() - begin - decoding
    added = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    return f"{kind}, {seconds / 60:.0f} min", decoding, aligning, added


def _costs() -> None:
    print("\ntake              decode s   align s   times decode   memory MB")
    for job in (("song", 240.0), ("talk", 240.0), ("song", 3600.0)):
        # A process of its own each, so that its peak of memory is its own.
        with multiprocessing.get_context("spawn").Pool(1) as pool:
            name, decoding, aligning, added = pool.map(_cost, [job])[0]
        print(
            f"{name:16} {decoding:9.2f} {aligning:9.2f} {aligning / decoding:14.2f} {added:11.0f}", flush=True
        )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument(
        "--rounds", type=int, default=4, help="made songs, or takes of each song of the folder"
    )
    parser.add_argument(
        "--first", type=int, default=0, help="the first seed; others make other songs and takes"
    )
    parser.add_argument("--songs", type=Path, help="a folder of songs instead of the made ones")
    parser.add_argument("--only", default="", help="only kinds with this word in their name")
    parser.add_argument("--show", action="store_true", help="print every case that went wrong")
    chosen = parser.parse_args()

    def jobs() -> Iterator[tuple[Original, int, str]]:
        for seed in range(chosen.first, chosen.first + chosen.rounds):
            if chosen.songs is None:
                yield made_original(seed), seed + 1, chosen.only
            else:
                for original in folder_originals(chosen.songs):
                    yield original, seed + 1, chosen.only

    results: list[Result] = []
    with multiprocessing.get_context("spawn").Pool() as pool:
        for part in pool.imap_unordered(_run, jobs()):
            results += part
            if chosen.show:
                for r in part:
                    if r.status != r.expected or any(not ok for _c, ok, _l in r.believed):
                        print(f"{r.song} {r.kind}: {r.status}, not {r.expected}: {r.note}", flush=True)
    results.sort(key=lambda r: r.song)
    _table(results)
    _reliability(results)
    if not chosen.only:
        _costs()


if __name__ == "__main__":
    main()
