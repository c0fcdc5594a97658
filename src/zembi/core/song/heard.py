"""Features of each beat, section and line of the working song: energy, hits and voice, as cutting follows them."""

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from zembi.core.song.cutdown import SongMap
from zembi.core.song.grid import Grid
from zembi.core.song.hits import Hit
from zembi.core.song.lyrics import LyricLine, line_ends

#: How near a beat a hit lies that is on it, in seconds.
_ON_BEAT_S = 0.06
#: From which value on a voice is heard, and the seconds between two values.
_VOICE, _VOICE_HOP_S = 0.5, 0.1
#: Loudness of what has no sound, in LUFS, and the energy of what was not listened to.
SILENT_LUFS, NO_ENERGY = -70.0, 0.5

Range = tuple[float, float]


@dataclass(frozen=True)
class Heard:
    """Features heard in the music; working time in seconds.

    Attributes:
        energy: On each beat of the grid, 0 to 1.
        hits: Strength of the strongest hit on each beat, 0 to 1.
        sung: Stretches that are sung.
        bands: Every hit of each band with its strength.
        lines: Where lines of the lyrics begin.
    """

    energy: tuple[float, ...] = ()
    hits: tuple[float, ...] = ()
    sung: tuple[Range, ...] = ()
    bands: Mapping[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)
    lines: tuple[float, ...] = ()


@dataclass(frozen=True)
class Curves:
    """Loudness in LUFS and energy (0 to 1) of the whole song, a value every ``hop_s`` seconds."""

    lufs: Sequence[float]
    energy: Sequence[float]
    hop_s: float

    def mean(self, song: SongMap, start_s: float, end_s: float) -> tuple[float, float]:
        """Mean loudness and energy of what is kept from one working time to another."""
        loud: list[float] = []
        energy: list[float] = []
        for a, b, _at in song.pieces(song.to_song(start_s), song.to_song(end_s - 1e-6)):
            inside = slice(int(a / self.hop_s), int(b / self.hop_s))
            loud += self.lufs[inside]
            energy += self.energy[inside]
        return (
            sum(loud) / len(loud) if loud else SILENT_LUFS,
            sum(energy) / len(energy) if energy else NO_ENERGY,
        )


def energy_on_beats(grid: Grid, curves: Curves, song: SongMap, seconds: float) -> tuple[float, ...]:
    """Energy on each beat, 0 to 1: from the song's tenth quietest value to its twentieth loudest.

    Args:
        grid: The working song's.
        curves: Of the whole song.
        song: What is kept of it.
        seconds: Length of the working song.
    """
    usual = sorted(curves.energy) or [NO_ENERGY]
    low, high = usual[len(usual) // 10], usual[-1 - len(usual) // 20]
    out = []
    for at, following in zip(grid.beats, [*grid.beats[1:], grid.beats[-1] + 60 / grid.bpm], strict=True):
        here = song.to_song(min(max(0.0, at), max(0.0, seconds - 1e-6)))
        first = int(here / curves.hop_s)
        inside = curves.energy[first : max(first + 1, int((here + following - at) / curves.hop_s))]
        mean = sum(inside) / len(inside) if inside else low
        out.append(min(1.0, max(0.0, (mean - low) / max(1e-9, high - low))))
    return tuple(out)


def hits_on_beats(
    grid: Grid, bands: Mapping[str, Sequence[Hit]], song: SongMap, seconds: float
) -> tuple[float, ...]:
    """Strength of the strongest hit of any band on each beat, 0 where none is."""
    strongest = sorted((h.at_s, h.strength) for hits in bands.values() for h in hits)
    times = [h[0] for h in strongest]
    out = []
    for at in grid.beats:
        here = song.to_song(min(max(0.0, at), max(0.0, seconds - 1e-6)))
        near = strongest[bisect_left(times, here - _ON_BEAT_S) : bisect_left(times, here + _ON_BEAT_S)]
        out.append(max((s for _, s in near), default=0.0))
    return tuple(out)


def working_hits(
    bands: Mapping[str, Sequence[Hit]], song: SongMap
) -> dict[str, tuple[tuple[float, float], ...]]:
    """Every hit of what is kept, by band: working time and strength."""
    return {
        band: tuple((song.to_working(h.at_s), h.strength) for h in hits if song.holds(h.at_s))
        for band, hits in bands.items()
    }


def sung_by_lines(lines: Sequence[LyricLine], song: SongMap, song_seconds: float) -> tuple[Range, ...]:
    """Working times of the lines of the lyrics that are kept, from their beginning to their end."""
    out = []
    for line, end in zip(lines, line_ends(lines, song_seconds), strict=True):
        if line.at_s is not None and end is not None and song.holds(line.at_s):
            at = song.to_working(line.at_s)
            out.append((at, at + end - line.at_s))
    return tuple(out)


def sung_by_voice(voice: Sequence[float], song: SongMap) -> tuple[Range, ...]:
    """Working times at which a voice is likely heard."""
    out: list[Range] = []
    since: float | None = None
    for n, likely in enumerate([*voice, 0.0]):
        at = n * _VOICE_HOP_S
        if likely >= _VOICE and since is None:
            since = at
        elif likely < _VOICE and since is not None:
            out += [(working, working + b - a) for a, b, working in song.pieces(since, at)]
            since = None
    return tuple(out)
