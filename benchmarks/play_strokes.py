"""Render MIDI files with their drums played otherwise each time, for fitting and measuring what hears strokes.

Usage: python benchmarks/play_strokes.py MIDI_FOLDER OUT FONT.sf2... [--times N] [--seed N] [--plain]
Each time the pace, the pitch, the instruments and the drum kit are others, parts are left out, the drums are mixed louder
or softer than the rest or play alone, one kit in four is synthesised, and in half of them they play a pattern made by
chance, with fills, ghost notes and accents. With --plain every file is rendered once as it is. Writes NAME.flac, and NAME.json with "strokes", "beats" and "downbeats". Needs
the fluidsynth program.
"""

import argparse
import json
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import av
import mido
import numpy as np
import scipy
import soxr
from drum_notes import NOTES
from numpy.typing import NDArray

from zembi.core.song.spectrum import RATE
from zembi.media.sound import read_sound

Sound = NDArray[np.float32]
Event = tuple[float, mido.Message]
#: Second, note, velocity.
Stroke = tuple[float, int, int]
DRUMS, _RENDERED, _MOST_S = 9, 44_100, 130.0
#: Programs of drum kits in General MIDI fonts; a font that lacks one plays its first.
_KITS = (0, 8, 16, 24, 25, 32, 40)
_PERCUSSION = (0, 0, 0, 54, 56, 60, 62, 63, 69, 70, 75, 82)


@dataclass(frozen=True)
class Piece:
    """A MIDI file in seconds: messages of all channels but the drums', the drums' notes, beats and downbeats."""

    name: str
    messages: list[Event]
    strokes: list[Stroke]
    beats: list[float]
    downbeats: list[float]


def read_piece(path: Path) -> Piece:
    """Read a MIDI file. Downbeats are by its time signatures; four beats where it has none."""
    file = mido.MidiFile(path, clip=True)
    now, tick = 0.0, 0
    tempi, metres = [(0, 0.0, 500_000)], {0: 4}
    messages: list[Event] = []
    strokes: list[Stroke] = []
    for message in mido.merge_tracks(file.tracks):
        now += mido.tick2second(message.time, file.ticks_per_beat, tempi[-1][2])
        tick += message.time
        if message.type == "set_tempo":
            tempi.append((tick, now, message.tempo))
        elif message.type == "time_signature":
            metres[tick] = message.numerator * 4 // message.denominator or 1
        elif getattr(message, "channel", None) == DRUMS:
            if message.type == "note_on" and message.velocity:
                strokes.append((now, message.note, message.velocity))
        elif not message.is_meta and hasattr(message, "channel"):
            messages.append((now, message))

    def second(at: int) -> float:
        begin, since, tempo = max(t for t in tempi if t[0] <= at)
        return since + mido.tick2second(at - begin, file.ticks_per_beat, tempo)

    ticks = range(0, tick + 1, file.ticks_per_beat)
    downs: list[int] = []
    for (begin, metre), (end, _) in pairwise([*sorted(metres.items()), (tick + 1, 4)]):
        downs += range(begin, end, metre * file.ticks_per_beat)
    return Piece(path.stem, messages, strokes, [second(t) for t in ticks], [second(t) for t in downs])


def rendered(events: list[Event], font: Path, room: bool) -> Sound:
    """Sound of some messages by a font, mono."""
    track, before = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=500_000)]), 0
    for at, message in sorted(events, key=lambda e: e[0]):
        tick = round(2000 * at)
        track.append(message.copy(time=tick - before))
        before = tick
    track.append(mido.MetaMessage("end_of_track", time=2000))
    with tempfile.TemporaryDirectory() as folder:
        played, sound = Path(folder) / "piece.mid", Path(folder) / "piece.wav"
        mido.MidiFile(type=0, ticks_per_beat=1000, tracks=[track]).save(played)
        extras = ["-R", str(int(room)), "-C", str(int(room)), "-o", "synth.dynamic-sample-loading=1"]
        subprocess.run(
            ["fluidsynth", "-ni", "-q", "-g", "0.5", "-r", str(_RENDERED), *extras, "-T", "wav", "-F", sound, font, played],
            check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        return np.asarray(read_sound(sound)[0].mean(axis=1), np.float32)


def drum_events(strokes: list[Stroke], kit: int) -> list[Event]:
    """Messages that play strokes on a kit."""
    events: list[Event] = [(0.0, mido.Message("program_change", channel=DRUMS, program=kit))]
    for at, note, velocity in strokes:
        events.append((at, mido.Message("note_on", channel=DRUMS, note=note, velocity=velocity)))
        events.append((at + 0.12, mido.Message("note_off", channel=DRUMS, note=note)))
    return events


def invented(rng: np.random.Generator, beats: list[float]) -> Iterator[Stroke]:
    """A drum part made by chance: a pattern of four beats with its own kick, backbeats, hats or ride, fills and crashes."""
    kick, snare, hat, ride = (
        int(rng.choice(n)) for n in ((35, 36), (38, 40, 38, 37, 39), (42, 42, 44), (51, 53, 59))
    )
    kicks, ghosts = rng.random(16) < rng.uniform(0.05, 0.3), rng.random(16) < rng.choice([0, 0.15])
    kicks[0], snares = True, np.zeros(16, bool)
    snares[[8] if rng.random() < 0.15 else [4, 12]] = True
    on_ride, every, swing = (
        rng.random() < 0.3,
        int(rng.choice([1, 2, 2, 4])),
        float(rng.choice([0, 0, 0.1, 0.17])),
    )
    loose, accent = float(rng.choice([0, 0, 0.004, 0.008])), float(rng.uniform(0, 35))
    loud = dict(zip(("kick", "snare", "hat"), rng.integers(60, 115, 3), strict=True))
    other, struck = int(rng.choice(_PERCUSSION)), rng.random(16) < rng.uniform(0.1, 0.5)

    def hard(mean: float) -> int:
        return int(np.clip(mean + rng.normal() * 8, 20, 127))

    for number, (begin, end) in enumerate(pairwise(beats)):
        bar, beat = divmod(number, 4)
        if bar % 16 == 0 and beat == 0 and rng.random() < 0.4:
            on_ride = not on_ride
        if bar % 8 == 0 and beat == 0 and rng.random() < 0.7:
            yield begin, int(rng.choice([49, 57, 52, 55])), hard(110)
        for part in range(4):
            at = begin + (end - begin) * (part / 4 + (swing / 2 if part % 2 else 0)) + rng.normal() * loose
            place = 4 * beat + part
            if bar % 8 == 7 and beat >= 2 and rng.random() < 0.75:
                yield at, int(rng.choice([38, 41, 43, 45, 47, 48, 50])), hard(100)
                continue
            if kicks[place]:
                yield at, kick, hard(loud["kick"] + (0.4 * accent if place == 0 else 0))
            if snares[place] or ghosts[place]:
                yield at, snare, hard(loud["snare"] if snares[place] else 40)
            if part % (4 // every) == 0:
                yield at, ride if on_ride else hat, hard(loud["hat"] + (accent if part == 0 else -accent / 2))
            if other and struck[place]:
                yield at, other, hard(75)


def synthesised(strokes: list[Stroke], rng: np.random.Generator) -> Sound:
    """Sound of strokes on a kit of tones and noise made by chance, mono; notes it has no drum for are silent."""
    make = _synthetic_kit(rng)
    sound = np.zeros(int((max((at for at, _, _ in strokes), default=0.0) + 2) * _RENDERED), np.float32)
    for at, note, velocity in strokes:
        drum = make(note)
        first = int(at * _RENDERED)
        sound[first : first + len(drum)] += drum[: len(sound) - first] * (velocity / 127) ** 1.5
    return sound


def _synthetic_kit(rng: np.random.Generator) -> Callable[[int], Sound]:
    """Make the sound of a drum note, each time a little otherwise, on one kit."""

    def noise(seconds: float, low: float, high: float, decay: float) -> Sound:
        count = int(seconds * _RENDERED)
        band = scipy.signal.butter(2, [low, min(high, 20_000)], "band", fs=_RENDERED, output="sos")
        hiss = scipy.signal.sosfilt(band, rng.standard_normal(count))
        return np.asarray(
            hiss / np.abs(hiss).max() * np.exp(-decay * np.arange(count) / _RENDERED), np.float32
        )

    def tone(seconds: float, low: float, fall: float, pace: float, decay: float) -> Sound:
        t = np.arange(int(seconds * _RENDERED)) / _RENDERED
        phase = low * t + fall / pace * (1 - np.exp(-pace * t))
        return np.asarray(np.sin(2 * np.pi * phase) * np.exp(-decay * t), np.float32)

    kick = rng.uniform(38, 70), rng.uniform(30, 230), rng.uniform(15, 70), rng.uniform(6, 25)
    click, body, hiss = rng.uniform(0, 0.5), rng.uniform(150, 260), rng.uniform(0.3, 1.2)
    dull, bright, short = rng.uniform(200, 1500), rng.uniform(7000, 16_000), rng.uniform(10, 35)
    closed, hat_low = rng.uniform(30, 110), rng.uniform(4000, 8000)
    long, crash_low = rng.uniform(2.5, 6), rng.uniform(2500, 5000)
    partials, ping = rng.uniform(400, 7000, 7), rng.uniform(3, 9)
    toms = {
        n: f * rng.uniform(0.9, 1.1)
        for n, f in zip((41, 43, 45, 47, 48, 50), (75, 88, 105, 125, 145, 170), strict=True)
    }

    def make(note: int) -> Sound:
        if note in NOTES["kick"]:
            sound = tone(0.45, *kick)
            sound[: _RENDERED // 50] += click * noise(0.02, 1000, 8000, 400)
        elif note in NOTES["snare"]:
            sound = 0.6 * tone(0.35, body, 0, 1, short) + hiss * noise(0.35, dull, bright, short)
        elif note in NOTES["hat"]:
            sound = 0.35 * noise(
                *((0.4, hat_low, 18_000, closed / 6) if note == 46 else (0.15, hat_low, 18_000, closed))
            )
        elif note in NOTES["ride"]:
            sound = sum(0.06 * tone(0.8, f, 0, 1, ping) for f in partials) + 0.1 * noise(
                0.8, 5000, 16_000, 3 * ping
            )
        elif note in NOTES["crash"]:
            sound = 0.5 * noise(1.5, crash_low, 17_000, long)
        elif note in toms:
            sound = 0.8 * tone(0.5, toms[note], 0.3 * toms[note], 12, short / 3)
        else:
            sound = np.zeros(0, np.float32)
        return np.asarray(sound, np.float32)

    return make


def otherwise(piece: Piece, rng: np.random.Generator, fonts: list[Path]) -> tuple[Sound, list[Stroke], float]:
    """The piece played otherwise: sound, strokes, and how many times as long it takes."""
    slower, higher = float(np.exp(rng.uniform(-0.22, 0.22))), int(rng.integers(-5, 6))
    left_out = {c for c in range(16) if rng.random() < 0.15}
    programs = {c: int(rng.integers(0, 112)) for c in range(16) if rng.random() < 0.25}
    events: list[Event] = []
    for at, message in piece.messages:
        if message.channel in left_out:
            continue
        if message.type in ("note_on", "note_off"):
            message = message.copy(note=int(np.clip(message.note + higher, 0, 127)))
        elif message.type == "program_change" and message.channel in programs:
            message = message.copy(program=programs[message.channel])
        events.append((at * slower, message))
    own = len(piece.strokes) > 50 and rng.random() < 0.5
    played = piece.strokes if own else list(invented(rng, piece.beats))
    strokes = sorted((max(0.0, at * slower), note, velocity) for at, note, velocity in played)
    room, kit = bool(rng.random() < 0.6), 0 if rng.random() < 0.35 else int(rng.choice(_KITS))
    drums = (
        synthesised(strokes, rng)
        if rng.random() < 0.25
        else rendered(drum_events(strokes, kit), fonts[rng.integers(len(fonts))], room)
    )
    alone = rng.random() < 0.1 and len(strokes) > 50
    rest = rendered(events, fonts[rng.integers(len(fonts))], room) if events and not alone else drums[:0]
    length = max(len(drums), len(rest))
    parts = [
        np.pad(s, (0, length - len(s))) / (np.sqrt(np.mean(s**2)) + 1e-9) for s in (drums, rest) if len(s)
    ]
    mix = parts[0] * 10 ** ((rng.normal() * 4.5 - 1) / 20) + sum(parts[1:])
    if rng.random() < 0.4:
        mix = np.tanh(rng.uniform(0.9, 3) * mix / np.quantile(np.abs(mix), 0.99))
    if rng.random() < 0.4:
        low = scipy.signal.sosfilt(
            scipy.signal.butter(1, rng.uniform(150, 3000), fs=_RENDERED, output="sos"), mix
        )
        mix = low + 10 ** (rng.uniform(-6, 6) / 20) * (mix - low)
    return np.asarray(0.9 * mix / np.abs(mix).max(), np.float32), strokes, slower


def as_it_is(piece: Piece, font: Path) -> tuple[Sound, list[Stroke], float]:
    """The piece as it is, by one font."""
    return rendered([*piece.messages, *drum_events(piece.strokes, 0)], font, True), piece.strokes, 1.0


def write(path: Path, sound: Sound) -> None:
    """Write a mono FLAC at the rate of listening."""
    samples = soxr.resample(sound, _RENDERED, RATE)
    with av.open(str(path), "w") as out:
        stream = out.add_stream("flac", rate=RATE, layout="mono")
        whole = np.round(np.clip(samples, -1, 1) * 32767).astype(np.int16)
        for first in range(0, len(whole), 4096):
            frame = av.AudioFrame.from_ndarray(whole[None, first : first + 4096], "s16", "mono")
            frame.rate, frame.pts = RATE, first
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("midi", type=Path)
    parser.add_argument("out", type=Path)
    parser.add_argument("fonts", type=Path, nargs="+")
    parser.add_argument("--times", type=int, default=8)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--plain", action="store_true")
    chosen = parser.parse_args()
    chosen.out.mkdir(parents=True, exist_ok=True)
    for path in sorted(chosen.midi.glob("*.mid")):
        piece = read_piece(path)
        for number in range(1 if chosen.plain else chosen.times):
            rng = np.random.default_rng([chosen.seed, number, sum(map(ord, piece.name))])
            sound, strokes, slower = (
                as_it_is(piece, chosen.fonts[0]) if chosen.plain else otherwise(piece, rng, chosen.fonts)
            )
            end = min(len(sound) / _RENDERED, _MOST_S)
            told = {
                "strokes": [[round(at, 5), note, hard] for at, note, hard in strokes if at < end],
                "beats": [at * slower for at in piece.beats if at * slower < end],
                "downbeats": [at * slower for at in piece.downbeats if at * slower < end],
            }
            name = piece.name if chosen.plain else f"{piece.name}-{chosen.seed}-{number}"
            write(chosen.out / f"{name}.flac", sound[: int(end * _RENDERED)])
            (chosen.out / f"{name}.json").write_text(json.dumps(told))
            print(name, flush=True)


if __name__ == "__main__":
    main()
