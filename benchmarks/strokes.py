"""Strokes by instrument on songs whose drum notes are known, beside onsets of a common library and attacks by band.

Usage: python benchmarks/strokes.py FOLDER [--only WORD] [--songs]
FOLDER holds songs, each with NAME.json in which "strokes" are rows of second, General MIDI drum note and velocity. A
stroke is found within 50 ms; times are those that listening tells, errors of those that are found.
"""

import zembi  # noqa: F401 - before numpy: one thread of linear algebra, so that time is of one core

# isort: split
import argparse
import json
import multiprocessing
import time
import warnings
from collections import defaultdict
from collections.abc import Iterator, Sequence
from pathlib import Path

import librosa
import mir_eval
import numpy as np
import soxr
from drum_notes import NOTES
from numpy.typing import NDArray
from song import decode_seconds
from songs import SOUNDS
from songs import Truth as Song

from zembi.core.song.hits import Hit
from zembi.core.song.listen import SongAnalysis, listen
from zembi.core.song.spectrum import BANDS, RATE
from zembi.media.sound import read_sound

Times = NDArray[np.float64]
#: What each instrument is compared with: the band in which it sounds.
BAND = {"kick": "low", "snare": "mid", "hat": "high", "crash": "high", "ride": "high", "tom": "mid"}
#: Rows of the table: one instrument, or several together.
ROWS = {
    "kick": ("kick",),
    "snare": ("snare",),
    "hats, cymbals": ("hat", "crash", "ride"),
    "hat": ("hat",),
    "cymbals": ("crash", "ride"),
    "crash": ("crash",),
    "ride": ("ride",),
    "tom": ("tom",),
}
_WINDOW_S, _TOGETHER_S, _SHOWN, _ACCENT = 0.05, 0.012, 0.5, 0.75
#: A stroke is an accent where it is so much harder than the usual of its instrument; fewer strokes tell nothing.
_HARDER, _FEWEST = 1.08, 8


def merged(times: Sequence[float]) -> Times:
    """Ascending times; what is struck together is one."""
    out: list[float] = []
    for at in sorted(times):
        if not out or at - out[-1] > _TOGETHER_S:
            out.append(at)
    return np.array(out)


def onsets(mono: Times, rate: int, band: str) -> Times:
    """Onsets of the library in one band, at its defaults."""
    low, high = BANDS[band]
    strength = librosa.onset.onset_strength(
        y=mono, sr=rate, fmin=low, fmax=high, n_mels=24 if band != "low" else 6, hop_length=256
    )
    return np.asarray(
        librosa.onset.onset_detect(onset_envelope=strength, sr=rate, hop_length=256, units="time")
    )


def strokes_of(hits: Sequence[Hit], least: float) -> list[float]:
    return [h.at_s for h in hits if h.strength >= least]


def found_in(
    song: Path,
) -> tuple[str, dict[str, dict[str, tuple[Times, Times]]], list[tuple[bool, bool]], float]:
    """Name; for each row and way the estimated and true times; accents told and true; cost in decodings."""
    strokes = json.loads(song.with_suffix(".json").read_text())["strokes"]
    audio, rate = read_sound(song)
    mono = soxr.resample(audio.mean(axis=1), rate, RATE).astype(np.float32)
    begin = time.process_time()
    heard = listen(mono)
    seconds = time.process_time() - begin
    # As a song is delivered: decoding half as many samples would be half the yardstick.
    delivered = soxr.resample(audio, rate, 44_100).astype(np.float32)
    stereo = delivered if audio.shape[1] == 2 else np.repeat(delivered[:, :1], 2, axis=1)
    empty = np.zeros(0)
    cost = seconds / decode_seconds(Song(song.name, stereo, 44_100, empty, empty, []))
    ways: dict[str, dict[str, tuple[Times, Times]]] = {}
    length = len(mono) / RATE
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        by_library = {band: onsets(mono.astype(float), RATE, band) for band in BANDS}
    for row, instruments in ROWS.items():
        true = merged(
            [s for s, note, _ in strokes if any(note in NOTES[i] for i in instruments) and s < length]
        )
        # All cymbals, also those that are neither surely a crash nor a ride.
        kinds = {"cymbal" if len(instruments) > 1 and i in ("crash", "ride") else i for i in instruments}
        hits = [h for kind in kinds for h in heard.hits[kind]]
        band = BAND[instruments[0]]
        ways[row] = {
            "strokes": (merged(strokes_of(hits, 0)), true), "shown": (merged(strokes_of(hits, _SHOWN)), true),
            "attacks": (merged(strokes_of(heard.hits[band], 0)), true), "library": (by_library[band], true),
        }  # fmt: skip
    return song.name, ways, list(accents(heard, strokes)), cost


def accents(heard: SongAnalysis, strokes: Sequence[tuple[float, int, int]]) -> Iterator[tuple[bool, bool]]:
    """Pairs for each found stroke: told to be an accent, and really harder than the usual of its instrument."""
    for name, notes in NOTES.items():
        true = np.array([(s, v) for s, note, v in strokes if note in notes]).reshape(-1, 2)
        if len(true) < _FEWEST or np.ptp(true[:, 1]) < 8:
            continue
        usual = float(np.median(true[:, 1]))
        for hit in heard.hits[name]:
            near = int(np.argmin(np.abs(true[:, 0] - hit.at_s)))
            if abs(true[near, 0] - hit.at_s) < _WINDOW_S:
                yield hit.strength >= _ACCENT, bool(true[near, 1] >= _HARDER * usual)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--only", default="", help="only songs with this word in their name")
    parser.add_argument("--songs", action="store_true", help="print every song")
    parser.add_argument("--workers", type=int, default=None)
    chosen = parser.parse_args()
    songs = [
        p
        for p in sorted(chosen.folder.iterdir())
        if p.suffix in SOUNDS and chosen.only in p.name and p.with_suffix(".json").exists()
    ]
    sums: dict[tuple[str, str], list[float]] = defaultdict(lambda: [0, 0, 0])
    each: dict[tuple[str, str], list[float]] = defaultdict(list)
    late: dict[tuple[str, str], list[float]] = defaultdict(list)
    told: list[tuple[bool, bool]] = []
    costs = []
    with multiprocessing.get_context("spawn").Pool(chosen.workers) as pool:
        for name, ways, accented, cost in pool.imap(found_in, songs):
            told += accented
            costs.append(cost)
            line = []
            for row, by_way in ways.items():
                for way, (found, true) in by_way.items():
                    if not len(true):
                        continue
                    pairs = mir_eval.util.match_events(true, found, _WINDOW_S)
                    total = sums[row, way]
                    for k, n in enumerate((len(pairs), len(found), len(true))):
                        total[k] += n
                    f = 2 * len(pairs) / max(1, len(found) + len(true))
                    each[row, way].append(f)
                    late[row, way] += [float(found[j] - true[i]) for i, j in pairs]
                    if way == "strokes":
                        line.append(f"{row} {f:.3f}")
            if chosen.songs:
                print(f"{name:28} {' '.join(line)}", flush=True)
    print(
        f"{len(songs)} songs\n{'':16}{'way':10}    F  (mean of songs)  precision  recall   late ms  |error| 50 %  95 %"
    )
    for (row, way), (both, found, true) in sums.items():
        errors = 1000 * np.array(late[row, way] or [np.nan])
        print(
            f"{row:16}{way:10}{2 * both / max(1, found + true):6.3f}  {np.mean(each[row, way]):10.3f}  "
            f"{both / max(1, found):12.3f}  {both / max(1, true):6.3f}  {np.median(errors):+8.1f}  "
            f"{np.median(np.abs(errors)):10.1f} {np.percentile(np.abs(errors), 95):7.1f}"
        )
    said = [true for accent, true in told if accent]
    print(
        f"accents: {len(said)} told, precision {np.mean(said) if said else float('nan'):.3f}, of all strokes {np.mean([t for _, t in told] or [np.nan]):.3f} are"
    )
    print(f"listening: {np.mean(costs):.1f} times decoding (most {max(costs):.1f})")


if __name__ == "__main__":
    main()
