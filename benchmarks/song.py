"""Beats, bars and sections on songs of the project's own synthesiser, beside librosa's tracker (mir_eval measures).

Usage: python benchmarks/song.py
"""

import time
import warnings
from dataclasses import replace

import mir_eval
import numpy as np
import soxr

from zembi.core.song.listen import listen
from zembi.core.song.spectrum import RATE
from zembi.demo.song import PLAN
from zembi.demo.synth import Performance, play


def swayed(performance: Performance, amount: float) -> Performance:
    n, rate = len(performance.audio), performance.sample_rate
    new = np.cumsum(1 / (1 + amount * np.sin(2 * np.pi * np.arange(n) / rate / 40))) / rate
    source = np.interp(np.arange(int(new[-1] * rate)) / rate, new, np.arange(n))
    audio = np.stack([np.interp(source, np.arange(n), performance.audio[:, c]) for c in (0, 1)], axis=1)

    def at(times: list[float]) -> list[float]:
        return [float(np.interp(t * rate, np.arange(n), new)) for t in times]

    return replace(performance, audio=audio.astype(np.float32), beats_s=at(performance.beats_s), downbeats_s=at(performance.downbeats_s),
                   sections=[(at([a])[0], at([b])[0], name) for a, b, name in performance.sections])  # fmt: skip


def songs() -> dict[str, Performance]:
    quiet = tuple(replace(p, drums="none") for p in PLAN.parts)
    return {
        "demo 112": play(PLAN),
        "slow 70": play(replace(PLAN, bpm=70.0)),
        "84.3, late start": play(replace(PLAN, bpm=84.3, head_s=2.3)),
        "128": play(replace(PLAN, bpm=128.0)),
        "fast 174": play(replace(PLAN, bpm=174.0)),
        "waltz 100": play(replace(PLAN, bpm=100.0, metre=3)),
        "no drums 96": play(replace(PLAN, bpm=96.0, parts=quiet)),
        "swaying 3 %": swayed(play(PLAN), 0.03),
        "swaying 8 %": swayed(play(PLAN), 0.08),
    }


def main() -> None:
    warnings.simplefilter("ignore")
    import librosa

    print(
        f"{'song':18} {'beats F':>8} {'librosa':>8} {'downbeats F':>12} {'borders 0.5 s':>14} {'BPM error':>10} {'phase ms':>9} {'s':>6}"
    )
    for name, song in songs().items():
        mono = soxr.resample(song.audio.mean(axis=1), song.sample_rate, RATE).astype(np.float32)
        begin = time.perf_counter()
        found = listen(mono, loudness_audio=song.audio, loudness_rate=song.sample_rate)
        took = time.perf_counter() - begin
        _, other = librosa.beat.beat_track(y=mono, sr=RATE, units="time")
        truth = np.array(song.beats_s)
        beats = np.array(found.beats)
        near = np.array([beats[np.argmin(np.abs(beats - t))] - t for t in truth])
        bpm = 60 / np.median(np.diff(truth))
        borders = mir_eval.segment.detection(
            np.array([[a, b] for a, b, _ in song.sections]),
            np.array([[s.start_s, s.end_s] for s in found.sections]),
            window=0.5,
            trim=True,
        )[2]
        print(
            f"{name:18} {mir_eval.beat.f_measure(truth, beats):8.3f} {mir_eval.beat.f_measure(truth, other):8.3f} "
            f"{mir_eval.beat.f_measure(np.array(song.downbeats_s), np.array(found.downbeats)):12.3f} {borders:14.3f} "
            f"{found.tempo_bpm - bpm:10.3f} {1000 * np.median(near):9.2f} {took:6.2f}"
        )


if __name__ == "__main__":
    main()
