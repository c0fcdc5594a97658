"""Alignment on camera-like takes: error, status and time, beside the plain full-rate cross-correlation.

Usage: python benchmarks/align.py [--rounds N]
"""

import argparse
import time
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import soxr
from numpy.typing import NDArray
from scipy.signal import correlate

from zembi.core.sync.align import align
from zembi.core.sync.features import RATE, prepare
from zembi.demo.camera import Room, chatter, drift, record
from zembi.demo.song import PLAN
from zembi.demo.synth import play

Mono = NDArray[np.float32]
SONG_RATE = 48_000


@dataclass(frozen=True)
class Case:
    """A take, what its status should be, and the song time at each take time."""

    kind: str
    sound: Mono
    status: str
    truth: Callable[[float], float] | None = None


def cases(song: Mono, seed: int) -> list[Case]:
    rng = np.random.default_rng(seed)
    length = len(song) / SONG_RATE

    def part(start: float, end: float) -> Mono:
        return song[int(start * SONG_RATE) : int(end * SONG_RATE)]

    def talk(seconds: float) -> Mono:
        return 0.2 * chatter(seconds, SONG_RATE, int(rng.integers(1 << 30)))

    def heard(*parts: Mono, room: Room | None = None, ppm: float = 0.0) -> Mono:
        sound = record(
            np.concatenate(parts), SONG_RATE, room or Room(rng.uniform(0.2, 0.8), rng.uniform(-30, -12)), seed
        )
        return drift(sound, SONG_RATE, ppm) if ppm else sound

    head = float(rng.uniform(1, 9))
    start = float(rng.uniform(5, length - 45))
    ppm = float(rng.choice([-1, 1]) * rng.uniform(20, 200))
    return [
        Case("full", heard(talk(head), song), "locked", lambda t: t - head),
        Case(
            "noise -6 dB",
            heard(talk(head), song, room=Room(1.2, 6.0, None, direct_db=0)),
            "locked",
            lambda t: t - head,
        ),
        Case(
            "talk over, pumping",
            heard(talk(head), song, room=Room(0.8, -15, 2.0, pumping=0.8)),
            "locked",
            lambda t: t - head,
        ),
        Case(
            "buried -12 dB",
            heard(talk(head), song, room=Room(1.2, 12.0, None, direct_db=-3)),
            "locked",
            lambda t: t - head,
        ),
        Case(
            "part", heard(talk(head), part(start, start + 35), talk(4)), "locked", lambda t: t - head + start
        ),
        Case(
            "two passes",
            heard(talk(2), part(0, 38), talk(5), part(24, 66)),
            "locked",
            lambda t: t - 2 if t < 42 else t - 45 + 24,
        ),
        Case("two choruses fit", heard(talk(2), part(28, 41), talk(2)), "choose"),
        Case(
            "drift 20-200 ppm",
            heard(talk(head), song, ppm=ppm),
            "locked",
            lambda t: t * (1 + ppm * 1e-6) - head,
        ),
        Case("pull-down", heard(talk(head), song, ppm=-1000), "locked", lambda t: t * (1 - 1e-3) - head),
        Case("talk only", heard(talk(60)), "unmatched"),
        Case("no sound", np.zeros(SONG_RATE * 20, np.float32), "silent"),
    ]


def plain_place(song: Mono, take: Mono) -> float:
    """The yardstick: full-rate cross-correlation and its highest peak; song time at take time 0."""
    row = correlate(song, take, mode="full", method="fft")
    return (int(np.argmax(np.abs(row))) - len(take) + 1) / SONG_RATE


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=3)
    rounds = parser.parse_args().rounds
    errors: dict[str, list[float]] = defaultdict(list)
    right: dict[str, list[bool]] = defaultdict(list)
    wrong_locked: dict[str, int] = defaultdict(int)
    seconds: dict[str, list[float]] = defaultdict(list)
    plain: dict[str, list[bool]] = defaultdict(list)
    for seed in range(rounds):
        plan = replace(
            PLAN,
            bpm=PLAN.bpm + 7 * seed,
            parts=tuple(replace(p, seed=p.seed + 20 * seed) for p in PLAN.parts),
        )
        song_audio = play(replace(plan, bpm=112.0)).audio.mean(axis=1)
        song = prepare(soxr.resample(song_audio, SONG_RATE, RATE).astype(np.float32))
        for case in cases(song_audio, seed + 1):
            take = soxr.resample(case.sound, SONG_RATE, RATE).astype(np.float32)
            begin = time.perf_counter()
            found = align(song, take)
            seconds[case.kind].append(time.perf_counter() - begin)
            right[case.kind].append(found.status == case.status)
            if case.truth is not None:
                for p in found.passes:
                    worst = max(
                        abs(p.song_start_s + p.rate * (t - p.take_start_s) - case.truth(t))
                        for t in (p.take_start_s, p.take_end_s)
                    )
                    errors[case.kind].append(worst)
                    wrong_locked[case.kind] += bool(p.locked and worst > 0.05)
                place = plain_place(song_audio, case.sound)
                middle = len(case.sound) / SONG_RATE / 2
                plain[case.kind].append(abs(place + middle - case.truth(middle)) < 0.02)
            else:
                wrong_locked[case.kind] += found.status == "locked"
                plain[case.kind].append(False)  # it always names one place
    print(
        f"{'kind':20} {'status':>7} {'median ms':>10} {'max ms':>8} {'wrong locked':>12} {'s a take':>9} | plain correlation right"
    )
    for kind in right:
        e = np.array(errors[kind]) * 1000 if errors[kind] else np.array([np.nan])
        print(
            f"{kind:20} {np.mean(right[kind]):7.0%} {np.median(e):10.3f} {e.max():8.3f} {wrong_locked[kind]:12d} "
            f"{np.mean(seconds[kind]):9.2f} | {np.mean(plain[kind]):5.0%}"
        )
    total = [r for rs in right.values() for r in rs]
    print(
        f"{'all':20} {np.mean(total):7.0%} {'':30} {sum(wrong_locked.values()):3d} {'':9} | {np.mean([p for ps in plain.values() for p in ps]):5.0%}"
    )


if __name__ == "__main__":
    main()
