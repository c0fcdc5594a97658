"""Where the beats fall: a straight grid where the tempo is steady, a followed one where it is played freely."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import gaussian_filter1d
from scipy.signal import butter, sosfiltfilt

from zembi.core.song.bending import bend_along, lay_bent_click
from zembi.core.song.click import WINDOW_S, Click, lay_click, standardised
from zembi.core.song.extent import Extent, border, music_extent, regularity
from zembi.core.song.halfway import best_level, half_way_gain
from zembi.core.song.pointer import (
    LOOSE,
    NEAR,
    astray,
    click_pattern,
    divides_in_three,
    family_score,
    follow_beat,
    learned_pattern,
)
from zembi.core.song.spectrum import FRAME_RATE, HOP, RATE, Floats, Singles, Spectrum
from zembi.core.song.stretches import Stretch, straight_runs
from zembi.core.song.tempo import TempoReading, refine_tempo, strokes_explained, tempo_readings

#: Beats that lie on a line for longer than this keep a tempo. A song goes by such lines where half of it lies on ones
#: that are so much longer: what sways is straight for short whiles only.
_LINE_S, _LONG_S = 8.0, 16.0
#: How many families of tempo are followed, and by how much another has to tell more than the first to be taken for it.
_FAMILIES, _TELLS_MORE = 3, 1.3
#: Octaves from which on a family is followed for itself: what the reach about a tempo does not take in.
_ANOTHER = NEAR / np.log(2)
#: Beats of straight stretches on both sides by which a free passage is joined to them.
_CONTEXT = 8
#: Lines of equal tempo, up to this share and seconds, that follow each other are one.
_SAME_TEMPO, _SAME_PLACE_S = 0.002, 0.025
#: How much later a stroke begins than its flux peak says, in seconds (half a window less the look-back).
_FLUX_LEAD_S = 0.010


@dataclass(frozen=True)
class Signs:
    """How clearly a song is counted the way it is; larger is clearer.

    Attributes:
        alike: How alike its windows are on the click, 0..1; 0 where it keeps none.
        aside: By how much its beats look more like beats than the places half-way.
        level: By how much this way to count is ahead of half or double, whichever is next.
        rival: Which that is: 0.5 or 2.
        family: Logarithm of how much likelier its family of tempi is than the next.
        agreement: Share of beats, 0..1, at which the music really strikes.
        bpm: The tempo that it is counted at.
    """

    alike: float = 0.0
    aside: float = 0.0
    level: float = 0.0
    rival: float = 2.0
    family: float = 0.0
    agreement: float = 0.0
    bpm: float = 120.0


UNSIGNED = Signs()
#: Beyond what is surely music, a window is on its click where it is so alike and no farther off. Speech is by chance.
_ON_CLICK, _ON_TIME_S = 0.6, 0.02
#: Windows that strike so regularly are music (see :func:`regularity`).
_REGULAR = 0.3
#: Steps in which what is beyond the music is heard, and the least that can be, in seconds.
_STEP_S, _LEAST_HEARD_S = 2.0, 2.0


@dataclass(frozen=True)
class BeatTrack:
    """Beats of a song.

    Attributes:
        beats: Song times in seconds, ascending.
        bpm: Median tempo.
        stretches: How time is kept from where to where, over the whole song.
        readings: Other ways to count, likeliest first; the first is the one used.
        signs: How clearly it is counted so.
        unlike: Where the music strikes otherwise than the click, from where to where; ascending.
    """

    beats: Floats
    bpm: float
    stretches: list[Stretch]
    readings: list[TempoReading]
    signs: Signs
    unlike: list[tuple[float, float]]

    @property
    def steady(self) -> bool:
        """Whether the beats are one straight grid."""
        return len(self.stretches) == 1 and self.stretches[0].steady


def fine_envelope(audio: Singles) -> tuple[Floats, float]:
    """Rise of energy at one millisecond steps, for placing a beat inside a frame.

    Returns:
        The envelope, and its rate in values a second.
    """
    step = RATE // 1000
    total = np.zeros(len(audio) // step)
    for low, high in ((40.0, 180.0), (250.0, 2_500.0), (4_000.0, 10_000.0)):
        band = sosfiltfilt(butter(2, [low, high], "band", fs=RATE, output="sos"), audio)
        energy = (band[: len(total) * step].reshape(-1, step) ** 2).mean(axis=1)
        smooth = np.convolve(energy, np.hanning(9) / np.hanning(9).sum(), mode="same")
        level = np.log1p(smooth / max(float(np.percentile(smooth, 90)) * 1e-2, 1e-12))
        rise = np.zeros_like(level)
        rise[6:] = np.maximum(0, level[6:] - level[:-6])
        total += rise
    return total, RATE / step


def straight_phase(envelope: Floats, bpm: float, rate: float) -> float:
    """First beat time in seconds (0 <= t < one beat) of the straight grid that the envelope agrees with most."""
    period = 60 / bpm
    bins = 200
    phase = ((np.arange(len(envelope)) / rate) % period) / period * bins
    whole = phase.astype(int) % bins
    folded = np.bincount(whole, weights=envelope, minlength=bins) / np.maximum(
        np.bincount(whole, minlength=bins), 1
    )
    kernel = np.hanning(9)
    wrapped = np.concatenate([folded[-4:], folded, folded[:4]])
    smooth = np.convolve(wrapped, kernel, mode="valid")
    return float(np.argmax(smooth) + 0.5) / bins * period


def _fine_shift(fine: Floats, fine_rate: float, beats: Floats, reach_s: float) -> float:
    """How much to move a grid so that it sits on the attacks: the peak of the averaged fine rise."""
    reach = int(reach_s * fine_rate)
    centres = np.round(beats * fine_rate).astype(int)
    centres = centres[(centres > reach) & (centres < len(fine) - reach)]
    if len(centres) < 4:
        return 0.0
    stack = np.stack([fine[c - reach : c + reach + 1] for c in centres])
    mean = np.convolve(np.minimum(stack, np.percentile(stack, 99)).mean(axis=0), np.hanning(7), mode="same")
    return float(np.argmax(mean) - reach) / fine_rate


def _agreement(envelope: Floats, beats: Floats) -> float:
    """Share of beats with a real stroke within 40 ms."""
    if not len(beats):
        return 0.0
    reach = int(0.04 * FRAME_RATE)
    threshold = np.percentile(envelope, 80)
    frames = np.clip(np.round(beats * FRAME_RATE).astype(int), 0, len(envelope) - 1)
    near = [envelope[max(0, f - reach) : f + reach + 1].max() for f in frames]
    return float(np.mean(np.array(near) > threshold))


def audible_range(level: Floats) -> tuple[float, float]:
    """Where the song sounds: seconds from the first to the last frame within 50 dB of its loudest."""
    loud = np.nonzero(level > level.max() * 10 ** (-50 / 20))[0]
    if not len(loud):
        return 0.0, 0.0
    return float(loud[0] / FRAME_RATE), float((loud[-1] + 1) / FRAME_RATE)


def _pulse(spectrum: Spectrum) -> Floats:
    """Onset strength for beats: the whole range, with the low and middle bands (drums) counted more."""
    parts = [spectrum.flux, 0.8 * spectrum.band_flux["low"], 0.5 * spectrum.band_flux["mid"]]
    return np.asarray(sum(p / max(float(p.std()), 1e-6) for p in parts))


@dataclass(frozen=True)
class _Sound:
    """What beats are placed by."""

    pulse: Floats
    fine: Floats
    fine_rate: float
    start_s: float
    end_s: float


def _straight(sound: _Sound, bpm: float, start_s: float, end_s: float) -> tuple[float, Floats]:
    """The exact tempo near ``bpm`` in a part of the song, and its straight grid over the whole song."""
    a, b = int(start_s * FRAME_RATE), max(int(end_s * FRAME_RATE), 1)
    piece = sound.pulse[a:b]
    bpm = refine_tempo(piece, bpm)
    period = 60 / bpm
    phase = straight_phase(piece, bpm, FRAME_RATE) + a / FRAME_RATE + _FLUX_LEAD_S
    beats = np.arange(phase % period, sound.end_s, period)
    inside = beats[(beats >= start_s) & (beats <= end_s)]
    return bpm, beats + _fine_shift(sound.fine, sound.fine_rate, inside, min(0.06, period / 5))


def _click_of(sound: _Sound, bands: Mapping[str, Floats], bpm: float) -> Click | None:
    """The click of about a tempo, laid over the song; None where nothing strikes."""
    envelopes = standardised(list(bands.values()))
    return lay_click(envelopes, refine_tempo(sound.pulse, bpm)) if envelopes else None


def _beats_of_click(
    spectrum: Spectrum, sound: _Sound, bands: Mapping[str, Floats], click: Click
) -> tuple[float, Floats, Signs]:
    """The exact tempo and the straight grid of a song that keeps a click: which of its places are beats, how clearly."""
    bpm, period = click.bpm, 60 / click.bpm
    phase = straight_phase(sound.pulse, bpm, FRAME_RATE) + _FLUX_LEAD_S

    def within(beats: Floats) -> Floats:
        return beats[(beats >= sound.start_s) & (beats <= sound.end_s)]

    beats = np.arange(phase % period, sound.end_s, period)
    aside = half_way_gain(spectrum, sound.pulse, within(beats))
    if aside > 0:
        beats = np.arange((phase + period / 2) % period, sound.end_s, period)

    def heard(tempo: float) -> float:
        return strokes_explained(sound.pulse, bands["low"], bands["mid"], tempo)

    level = best_level(spectrum, sound.pulse, within(beats), heard)
    if len(level.beats) > 1:
        bpm, period = bpm * level.factor, period / level.factor
        beats = np.arange(level.beats[0] % period, sound.end_s, period)
    alike = float(click.alike[click.heard].mean()) if click.heard.any() else 0.0
    signs = Signs(alike=alike, aside=abs(aside), level=level.ahead, rival=level.rival)
    reach = min(0.06, period / 5)
    return bpm, beats + _fine_shift(sound.fine, sound.fine_rate, within(beats), reach), signs


def _families(readings: Sequence[TempoReading]) -> list[TempoReading]:
    """The likeliest reading of each family: those that are not its half, double or fourfold."""
    found: list[TempoReading] = []
    for reading in readings:
        if not any(_akin(reading.bpm, f.bpm) for f in found):
            found.append(reading)
    return found


def _octaves_apart(bpm: float, other: float) -> float:
    """How far a tempo is from another or its half, double and so on, whichever is nearest, in octaves."""
    apart = float(np.log2(bpm / other))
    return apart - round(apart)


def _akin(bpm: float, other: float) -> bool:
    """Whether a tempo is another, or its half, double or fourfold."""
    return abs(_octaves_apart(bpm, other)) < 0.03


def _nearer(sound: _Sound, beats: Floats) -> Floats:
    """Beats moved by what the strokes around each are late, a dozen beats at a time and within 80 ms."""
    lags = np.arange(-round(0.08 * FRAME_RATE), round(0.08 * FRAME_RATE) + 1)
    for sigma in (6.0, 3.0):
        frames = np.round((beats - _FLUX_LEAD_S) * FRAME_RATE).astype(int)
        near = np.clip(frames[:, None] + lags[None], 0, len(sound.pulse) - 1)
        usual = np.minimum(sound.pulse, np.percentile(sound.pulse, 98))[near]
        heard = gaussian_filter1d(usual, sigma, axis=0) * np.exp(-0.5 * (lags / lags[-1] / 0.7) ** 2)
        late = gaussian_filter1d(lags[heard.argmax(axis=1)] / FRAME_RATE, sigma)
        beats = np.maximum.accumulate(beats + late)
    return np.asarray(beats)


def _laid_again(sound: _Sound, bpm: float, beats: Floats) -> tuple[float, Floats]:
    """A straight stretch laid by its own strokes alone, with as many beats as before."""
    exact, grid = _straight(sound, bpm, float(beats[0]), float(beats[-1]))
    first = float(grid[np.argmin(np.abs(grid - beats[0]))])
    again = first + np.arange(len(beats)) * 60 / exact
    kept = np.abs(again - beats).max() < 0.25 * 60 / exact
    return (exact, again) if kept else (bpm, beats)


def track_beats(spectrum: Spectrum, audio: Singles) -> BeatTrack:
    """Find the beats.

    What is not music before and after it (talk, noise, applause) is not listened to, and has no beats unless the
    song's click is heard there.

    Args:
        spectrum: From :func:`zembi.core.song.spectrum.describe`.
        audio: The same mono samples, for placing the beats to the millisecond.
    """
    length = len(audio) / RATE
    extent = music_extent(spectrum, audio)
    track = _track_within(spectrum, audio, extent)
    wider = _as_far_as_heard(spectrum, extent, length, track.bpm)
    if wider != extent:
        extent, track = wider, _track_within(spectrum, audio, wider)
    if track.beats.size or extent == Extent(0.0, length):
        return track
    return _track(spectrum, audio)


def _track_within(spectrum: Spectrum, audio: Singles, extent: Extent) -> BeatTrack:
    """The beats of the part of a song that is music, in song time; its first and last way go on to the ends."""
    length = len(audio) / RATE
    if extent == Extent(0.0, length):
        return _track(spectrum, audio)
    first, last = round(extent.start_s * FRAME_RATE), round(extent.end_s * FRAME_RATE)
    track = _track(spectrum.part(first, last), audio[first * HOP : last * HOP])
    by = first * HOP / RATE
    ways = [replace(s, start_s=s.start_s + by, end_s=s.end_s + by) for s in track.stretches]
    ways[0] = replace(ways[0], start_s=0.0)
    ways[-1] = replace(ways[-1], end_s=length)
    unlike = [(a + by, b + by) for a, b in track.unlike]
    return replace(track, beats=track.beats + by, stretches=ways, unlike=unlike)


def _as_far_as_heard(spectrum: Spectrum, extent: Extent, length: float, bpm: float) -> Extent:
    """An extent with what keeps a beat before and after it: music without pitch (drums) after all."""
    if extent == Extent(0.0, length):
        return extent
    envelopes = standardised([spectrum.flux, *spectrum.band_flux.values()])
    if not envelopes:
        return extent
    click = lay_click(envelopes, bpm)
    on_time = (click.alike > _ON_CLICK) & (np.abs(click.late) * 60 / bpm < _ON_TIME_S) & click.heard

    def reach(outside_s: float, to_song: Callable[[Floats], Floats]) -> float:
        """How many seconds outwards from a border there is music, of those that there are."""
        size = min(WINDOW_S, outside_s)
        if size < _LEAST_HEARD_S:
            return 0.0
        away = np.arange(size / 2, outside_s - size / 2 + 1e-6, _STEP_S)
        on = regularity(envelopes, to_song(away), size) > _REGULAR
        if size == WINDOW_S:
            on |= np.interp(to_song(away), click.times, on_time.astype(float)) > 0.5
        last = _last_on(on)
        return 0.0 if last is None else outside_s if last == len(on) - 1 else float(away[last])

    before = reach(extent.start_s, lambda away: extent.start_s - away)
    after = reach(length - extent.end_s, lambda away: extent.end_s + away)
    start, end = extent.start_s - before, extent.end_s + after
    if 0 < start < extent.start_s:
        start = min(extent.start_s, border(spectrum, start, WINDOW_S / 2))
    if extent.end_s < end < length:
        end = max(extent.end_s, border(spectrum, end, WINDOW_S / 2))
    return Extent(start, end)


def _last_on(on: np.ndarray) -> int | None:
    """The last window that keeps the click before two in a row do not; None where the first ones do not."""
    last = None
    for i, keeps in enumerate(on):
        if keeps:
            last = i
        elif i - (-1 if last is None else last) >= 2:
            break
    return last


def _track(spectrum: Spectrum, audio: Singles) -> BeatTrack:
    """The beats of what is music from end to end."""
    pulse = _pulse(spectrum)
    bands = {"all": spectrum.flux, **spectrum.band_flux}
    readings = tempo_readings(pulse, bands)
    start, end = audible_range(spectrum.level)
    sound = _Sound(pulse, *fine_envelope(audio), start, end)
    length = len(pulse) / FRAME_RATE
    envelopes = standardised(list(bands.values()))
    signs, family = UNSIGNED, 4.0
    unlike: list[tuple[float, float]] = []
    if not envelopes:
        bpm, beats = _straight(sound, readings[0].bpm, 0.0, length)
        stretches = [Stretch(0.0, length, bpm, True)]
    else:
        readings, family = _by_family(readings, envelopes)
        click = lay_click(envelopes, refine_tempo(pulse, readings[0].bpm))
        run = follow_beat(envelopes, click.bpm, click_pattern(envelopes, click.bpm), rounds=2)
        if not astray(run.times, click.bpm, start):
            # One click from end to end: nothing else is tried.
            bpm, beats, signs = _beats_of_click(spectrum, sound, bands, click)
            unlike = click.unlike
            stretches = [Stretch(0.0, length, bpm, True)]
        else:
            readings, beats, signs, unlike = _in_its_own_time(spectrum, sound, bands, readings[0].bpm)
            beats, stretches = _laid_in_stretches(sound, envelopes, beats)
            bpm = float(60 / np.median(np.diff(beats))) if len(beats) > 1 else readings[0].bpm
    period = 60 / bpm
    beats = beats[(beats >= start - 0.25 * period) & (beats < end) & (beats >= 0)]
    readings = [TempoReading(bpm, readings[0].score), *readings[1:]]
    signs = replace(signs, family=family, agreement=_agreement(pulse, beats), bpm=bpm)
    return BeatTrack(beats, bpm, stretches, readings, signs, unlike)


def _in_its_own_time(
    spectrum: Spectrum, sound: _Sound, bands: Mapping[str, Floats], bpm: float
) -> tuple[list[TempoReading], Floats, Signs, list[tuple[float, float]]]:
    """Ways to count, the beats, and where they are in doubt, of a song whose tempo moves: in the time that its pulse keeps it is on a click.

    Which pulse is followed (beats, or every third of two) does not matter to that time; there the song's lines are
    sharp again, and say what the beat is.
    """
    envelopes = standardised(list(bands.values()))
    run = follow_beat(envelopes, bpm).times
    first = bend_along(len(sound.pulse), run)
    own_bands = {band: first.straighten(flux) for band, flux in bands.items()}
    found = tempo_readings(_pulse(first.spectrum(spectrum)), own_bands)
    pace = float(60 / np.median(np.diff(run))) if len(run) > 1 else bpm
    readings = [r for r in found if _akin(r.bpm, pace)] or [TempoReading(pace, found[0].score)]
    readings += [r for r in found if not _akin(r.bpm, pace)]
    guess = refine_tempo(first.straighten(sound.pulse), readings[0].bpm)
    bend, click = lay_bent_click(list(bands.values()), first, guess)
    own = bend.spectrum(spectrum)
    heard = _Sound(
        _pulse(own),
        bend.straighten_at(sound.fine, sound.fine_rate),
        sound.fine_rate,
        *bend.to_own(np.array([sound.start_s, sound.end_s])),
    )
    own_bands = {band: bend.straighten(flux) for band, flux in bands.items()}
    _, own_beats, signs = _beats_of_click(own, heard, own_bands, click)
    beats = bend.to_song(own_beats)
    counted = TempoReading(float(60 / np.median(np.diff(beats))), readings[0].score)
    unlike = [(float(a), float(b)) for a, b in (bend.to_song(np.array(span)) for span in click.unlike)]
    return [counted, *readings[1:]], beats, signs, unlike


def _by_family(
    readings: Sequence[TempoReading], envelopes: Sequence[Floats]
) -> tuple[list[TempoReading], float]:
    """Readings with those first whose family tells most of the song's pattern, and how far that is ahead (logarithm)."""
    families: list[TempoReading] = []
    for reading in readings:
        # A tempo nearby would be followed to the same pulse.
        if all(abs(_octaves_apart(reading.bpm, f.bpm)) > _ANOTHER for f in families):
            families.append(reading)
    families = families[:_FAMILIES]
    told = [max(1.0, family_score(envelopes, f.bpm)) for f in families]
    best = int(np.argmax(told))
    if told[best] < _TELLS_MORE * told[0]:
        best = 0
    elif _thirds_of(families[0].bpm, families[best].bpm, envelopes):
        told[best] = 1.0
        best = 0
    others = [
        t
        for f, t in zip(families, told, strict=True)
        # Where a tempo moves much, another one near it is followed to the same pulse.
        if not (abs(_octaves_apart(f.bpm, families[best].bpm)) < 2 * _ANOTHER and t > 0.95 * told[best])
    ]
    ahead = float(np.log(told[best] / max(others))) if others else 4.0

    first = families[best].bpm
    within = [r for r in readings if _akin(r.bpm, first)]
    return [*within, *(r for r in readings if not _akin(r.bpm, first))], max(0.0, ahead)


def _thirds_of(bpm: float, other: float, envelopes: Sequence[Floats]) -> bool:
    """Whether another tempo is that of the thirds of a beat, two by two, and it is the beat that divides in three."""
    return abs(abs(_octaves_apart(other, bpm)) - np.log2(4 / 3)) < 0.03 and divides_in_three(envelopes, bpm)


def _joined(beats: Floats, runs: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """Straight runs, those that go on along the same line made one."""
    out: list[tuple[int, int]] = []
    for first, last in runs:
        if out:
            before, end = out[-1]
            slope, there = np.polyfit(np.arange(before, end), beats[before:end], 1)
            own = np.polyfit(np.arange(first, last), beats[first:last], 1)[0]
            off = abs(float(np.median(beats[first:last] - slope * np.arange(first, last) - there)))
            reach = _SAME_PLACE_S + _SAME_TEMPO * float(beats[last - 1] - beats[end - 1]) / 4
            if abs(np.log(own / slope)) < _SAME_TEMPO and off < reach:
                out[-1] = (before, last)
                continue
        out.append((first, last))
    return out


def _freely(envelopes: Sequence[Floats], pattern: Floats, beats: Floats, first: int, last: int) -> Floats:
    """The beats of a free passage between straight ones, followed by the song's pattern with less regard to tempo.

    Args:
        envelopes: Of the whole song.
        pattern: Its strokes over a beat.
        beats: Of the whole song.
        first, last: Indexes of the passage's first beat and of the first one after it.
    """
    a, b = max(0, first - _CONTEXT), min(len(beats), last + _CONTEXT)
    around = np.concatenate([beats[a:first], beats[last:b]])
    if len(around) < 4:
        return beats[first:last]
    start = round(beats[a] * FRAME_RATE) if a else 0
    end = round(beats[b - 1] * FRAME_RATE) if b < len(beats) else len(envelopes[0])
    usual = float(np.median(np.concatenate([np.diff(beats[a:first]), np.diff(beats[last:b])])))
    part = [e[start:end] for e in envelopes]
    run = (
        follow_beat(part, 60 / usual, pattern, rounds=1, cost=LOOSE).times + start / FRAME_RATE + _FLUX_LEAD_S
    )
    # It may be on the other half of the beat: the straight ones tell.
    near = run[np.argmin(np.abs(run[:, None] - around[None]), axis=0)]
    if float(np.median(np.abs(near - around))) > usual / 4:
        run = (run[1:] + run[:-1]) / 2
    after = beats[first - 1] + usual / 2 if first else -np.inf
    before = beats[last] - usual / 2 if last < len(beats) else np.inf
    return np.asarray(run[(run > after) & (run < before)])


def _laid_in_stretches(
    sound: _Sound, envelopes: Sequence[Floats], beats: Floats
) -> tuple[Floats, list[Stretch]]:
    """Beats with those that keep a tempo for long laid on straight lines, and how time is kept from where to where."""
    length = len(sound.pulse) / FRAME_RATE
    runs = [r for r in _joined(beats, straight_runs(beats)) if beats[r[1] - 1] - beats[r[0]] > _LINE_S]
    lasting = [float(beats[last - 1] - beats[first]) for first, last in runs]
    free = _nearer(sound, beats)
    if sum(x for x in lasting if x > _LONG_S) < 0.5 * (beats[-1] - beats[0]):
        return free, [Stretch(0.0, length, float(60 / np.median(np.diff(beats))), False)]
    pattern = learned_pattern(envelopes, (beats - _FLUX_LEAD_S) * FRAME_RATE)
    pieces: list[tuple[Floats, float, bool]] = []
    at = 0
    for first, last in [*runs, (len(beats), len(beats))]:
        if first - at > 2:
            loose = _settle(_freely(envelopes, pattern, beats, at, first), sound.fine, sound.fine_rate)
            pieces.append((loose, float(60 / np.median(np.diff(loose))) if len(loose) > 1 else 0.0, False))
        elif first > at and pieces:
            pieces[-1] = (np.concatenate([pieces[-1][0], free[at:first]]), *pieces[-1][1:])
        if last > first:
            guess = 60 * (last - 1 - first) / float(beats[last - 1] - beats[first])
            bpm, laid = _laid_again(sound, guess, beats[first:last])
            pieces.append((laid, bpm, True))
        at = last
    pieces = [p for p in pieces if len(p[0])]
    out = np.concatenate([beats for beats, _, _ in pieces])
    stretches = [Stretch(float(beats[0]), length, bpm, steady) for beats, bpm, steady in pieces]
    starts = [0.0, *(s.start_s for s in stretches[1:])]
    ends = [*starts[1:], length]
    kept = [replace(s, start_s=a, end_s=b) for s, a, b in zip(stretches, starts, ends, strict=True)]
    return np.maximum.accumulate(out), kept


def _settle(beats: Floats, fine: Floats, fine_rate: float) -> Floats:
    """Move each followed beat to the nearest clear attack within 35 ms, then take off single outliers."""
    reach = int(0.035 * fine_rate)
    floor = np.percentile(fine, 90)
    weight = np.hanning(2 * reach + 1) + 0.2
    out = beats.copy()
    for i, at in enumerate(beats):
        centre = round(at * fine_rate)
        if centre - reach < 0 or centre + reach + 1 > len(fine):
            continue
        piece = fine[centre - reach : centre + reach + 1]
        if piece.max() > floor:
            out[i] = (centre + int(np.argmax(piece * weight)) - reach) / fine_rate
    if len(out) > 4:
        smooth = (out[:-2] + out[2:]) / 2
        off = np.abs(out[1:-1] - smooth) > 0.03
        out[1:-1] = np.where(off, 0.5 * (out[1:-1] + smooth), out[1:-1])
    return out
