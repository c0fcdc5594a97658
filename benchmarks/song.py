"""Beats, bars and sections beside librosa's tracker on the same songs; mir_eval measures.

Usage: python benchmarks/song.py [FOLDER] [--only WORD] [--as NAME] [--table]
FOLDER holds songs with truth files, see songs.py; without it, made songs in many styles. --as tells what befalls the
songs before they are heard ("sway 1 %", "passage", "20 s" and so on); --table takes all of that in turn, a line each.
"""

import zembi  # noqa: F401 - before numpy: one thread of linear algebra, so that time is of one core

# isort: split
import argparse
import io
import time
import warnings
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import mir_eval
import numpy as np
import soxr
from repeats import repeats
from songs import VARIANTS, Truth, folder_songs, made_songs

from zembi.core.song.listen import SongAnalysis, listen
from zembi.core.song.spectrum import RATE


@dataclass(frozen=True)
class Row:
    """Figures of one song; nan where the truth is not known."""

    name: str
    beats: float
    yardstick: float
    any_octave: float
    downbeats: float
    near: float
    close: float
    pairs: float
    bpm: float
    phase_ms: float
    sure: float
    seconds: float
    decode: float
    borders: float
    again: float
    true: float
    readings: bool
    steady: bool


def decode_seconds(song: Truth) -> float:
    """Time to decode the song from 256 kbit/s AAC, the yardstick for listening."""
    memory = io.BytesIO()
    with av.open(memory, "w", format="mp4") as out:
        stream = out.add_stream("aac", rate=song.rate)
        stream.bit_rate = 256_000
        stream.layout = "stereo"
        sound = song.audio if song.audio.shape[1] == 2 else np.repeat(song.audio[:, :1], 2, axis=1)
        for at in range(0, len(sound), 1024):
            frame = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(sound[at : at + 1024].T), "fltp", "stereo"
            )
            frame.rate, frame.pts = song.rate, at
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    memory.seek(0)
    begin = time.process_time()
    with av.open(memory) as container:
        for _ in container.decode(audio=0):
            pass
    return time.process_time() - begin


def borders_off(song: Truth, found: SongAnalysis) -> float:
    """Distance of the farthest jump of the tempo from where it was told to be, in bars of four; nan where there is none."""
    told = [t.start_s for t in found.tempo[1:]]
    if not song.borders or not told:
        return float("nan") if not song.borders else float("inf")
    bar = 4 * float(np.median(np.diff(song.beats)))
    return max(min(abs(t - border) for t in told) for border in song.borders) / bar


def measure(song: Truth) -> tuple[Row, SongAnalysis]:
    import librosa

    mono = soxr.resample(song.audio.mean(axis=1), song.rate, RATE).astype(np.float32)
    begin = time.process_time()
    found = listen(mono, loudness_audio=song.audio, loudness_rate=song.rate)
    took = time.process_time() - begin
    _, other = librosa.beat.beat_track(y=mono, sr=RATE, units="time")
    beats = np.array(found.beats)
    none = float("nan")
    f = mir_eval.beat.f_measure(song.beats, beats) if len(song.beats) else none
    g = mir_eval.beat.f_measure(song.beats, other) if len(song.beats) else none
    octave = mir_eval.beat.continuity(song.beats, beats)[3] if len(song.beats) else none
    d = mir_eval.beat.f_measure(song.downbeats, np.array(found.downbeats)) if len(song.downbeats) else none
    near = close = pairs = none
    if song.sections and found.sections:
        true = np.array([[a, b] for a, b, _ in song.sections])
        ours = np.array([[s.start_s, s.end_s] for s in found.sections])
        near, close = (mir_eval.segment.detection(true, ours, window=w, trim=True)[2] for w in (3.0, 0.5))
        labels = ["".join(c for c in n if not c.isdigit()).strip() for _, _, n in song.sections]
        end = max(true[-1, 1], ours[-1, 1])
        true_fit = mir_eval.util.adjust_intervals(true, labels, t_min=0, t_max=end)
        ours_fit = mir_eval.util.adjust_intervals(
            ours, [str(s.group) for s in found.sections], t_min=0, t_max=end
        )
        pairs = mir_eval.segment.pairwise(*true_fit, *ours_fit)[2]
    again = true_again = none
    if song.notes is not None and len(found.downbeats) and found.sections:
        own = repeats(song.notes, np.array(found.downbeats), found.sections)
        again, true_again = own.found, own.true
    bpm, phase = none, none
    if len(song.beats) > 1:
        bpm = found.tempo_bpm - 60 / float(np.median(np.diff(song.beats)))
        phase = 1000 * float(np.median([abs(beats[np.argmin(np.abs(beats - t))] - t) for t in song.beats]))
    return Row(
        song.name,
        f,
        g,
        octave,
        d,
        near,
        close,
        pairs,
        bpm,
        phase,
        found.sure.grid,
        took,
        decode_seconds(song),
        borders_off(song, found),
        again,
        true_again,
        any(abs(r.tempo_bpm / (found.tempo_bpm - bpm) - 1) < 0.02 for r in found.readings[:3]),
        found.tempo_steady,
    ), found


def mean(rows: list[Row], key: str) -> float:
    values = np.array([getattr(r, key) for r in rows], dtype=float)
    return float(np.nanmean(values)) if not np.isnan(values).all() else float("nan")


def heard(songs: Iterable[Truth], only: str, befalls: str, *, loud: bool) -> list[Row]:
    """Listen to songs, each line printed as it is known where ``loud``."""
    rows = []
    for song in songs:
        if only not in song.name:
            continue
        r, found = measure(VARIANTS[befalls](song))
        rows.append(r)
        if loud:
            print(
                f"{r.name:24} {r.beats:8.3f} {r.yardstick:8.3f} {r.any_octave:6.3f} {r.downbeats:7.3f} {r.near:8.3f} {r.close:6.3f} {r.pairs:6.3f}"
                f" {r.bpm:8.3f} {r.phase_ms:9.2f} {r.sure:5.2f} {found.metre:5d} {found.tempo_steady!s:>6} {r.seconds:6.2f} {r.seconds / r.decode:8.1f}",
                flush=True,
            )
    return rows


def calibration(rows: list[Row]) -> None:
    """Print which share of the grids that were said to be so sure is right."""
    for least in (0.5, 0.8, 0.9, 0.95):
        said = [r for r in rows if r.sure >= least and not np.isnan(r.beats)]
        right = sum(r.beats > 0.9 for r in said)
        share = f"{100 * right / len(said):.0f} %" if said else "none"
        print(
            f"said to be {100 * least:.0f} % sure and more: {len(said):3d}, of them right {right:3d} ({share})"
        )


def main() -> None:
    warnings.simplefilter("ignore")
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", nargs="?", type=Path)
    parser.add_argument("--only", default="")
    parser.add_argument("--as", dest="befalls", default="clean", choices=[*VARIANTS])
    parser.add_argument("--table", action="store_true")
    options = parser.parse_args()

    def songs() -> Iterator[Truth]:
        return folder_songs(options.folder) if options.folder else made_songs()

    if options.table:
        print(
            f"{'what befalls the songs':24} {'songs':>5} {'beats F':>8} {'librosa':>8} {'AMLt':>6} {'bars F':>7} {'in first 3':>10}"
            f" {'steady':>6} {'borders off':>11} {'x decode':>8}"
        )
        every: list[Row] = []
        for name in VARIANTS:
            rows = heard(songs(), options.only, name, loud=False)
            every += rows
            off = [r.borders for r in rows if not np.isnan(r.borders)]
            near = f"{sum(o <= 1 for o in off)} of {len(off)}" if off else ""
            print(
                f"{name:24} {len(rows):5d} {mean(rows, 'beats'):8.3f} {mean(rows, 'yardstick'):8.3f} {mean(rows, 'any_octave'):6.3f}"
                f" {mean(rows, 'downbeats'):7.3f} {100 * mean(rows, 'readings'):8.0f} % {100 * mean(rows, 'steady'):4.0f} % {near:>11}"
                f" {sum(r.seconds for r in rows) / sum(r.decode for r in rows):8.1f}",
                flush=True,
            )
        calibration(every)
        return
    print(
        f"{'song':24} {'beats F':>8} {'librosa':>8} {'AMLt':>6} {'bars F':>7} {'sect 3s':>8} {'0.5s':>6} {'pairs':>6}"
        f" {'BPM off':>8} {'phase ms':>9} {'sure':>5} {'metre':>5} {'steady':>6} {'s':>6} {'x decode':>8}"
    )
    rows = heard(songs(), options.only, options.befalls, loud=True)
    if rows:
        beats, librosa, octave, bars, near_, close, pairs = (
            mean(rows, k) for k in ("beats", "yardstick", "any_octave", "downbeats", "near", "close", "pairs")
        )
        print(
            f"{'mean':24} {beats:8.3f} {librosa:8.3f} {octave:6.3f} {bars:7.3f} {near_:8.3f} {close:6.3f} {pairs:6.3f}"
        )
        told = sum(not np.isnan(r.again) for r in rows)
        if told:
            print(
                f"by their notes ({told} songs): bars that repeat others in sections of one kind {mean(rows, 'again'):.3f},"
                f" bars of sections of one kind that do repeat {mean(rows, 'true'):.3f}"
            )
        calibration(rows)


if __name__ == "__main__":
    main()
