"""Beat tracking: a straight grid where the tempo is steady, a followed one where it is played freely."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from zembi.core.song.bending import Bend, bend_along, lay_bent_click
from zembi.core.song.click import WINDOW_S, Click, lay_click, standardised
from zembi.core.song.extent import Extent, border, music_extent, regularity
from zembi.core.song.families import akin, by_family
from zembi.core.song.places import CLEAR, PARTS, best_level, find_place, half_way
from zembi.core.song.placing import (
    FLUX_LEAD_S,
    OnsetStrength,
    fine_envelope,
    fine_shift,
    straight_grid,
    straight_phase,
)
from zembi.core.song.pointer import astray, click_pattern, follow_beat, follow_without_slips
from zembi.core.song.spectrum import FRAME_RATE, HOP, RATE, Floats, Singles, Spectrum
from zembi.core.song.stretches import TempoStretch, laid_in_stretches
from zembi.core.song.tempo import FASTEST, TempoReading, refine_tempo, tempo_readings


@dataclass(frozen=True)
class Signs:
    """Salience of the way a song is counted; larger is clearer.

    Attributes:
        alike: How alike its windows are on the click, 0..1; 0 where it keeps none.
        aside: Logarithm of how much likelier its beats are than the places half-way and at thirds.
        level: Logarithm of how much likelier this way to count is than half and double.
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
    stretches: list[TempoStretch]
    readings: list[TempoReading]
    signs: Signs
    unlike: list[tuple[float, float]]

    @property
    def steady(self) -> bool:
        """True if the beats are one straight grid."""
        return len(self.stretches) == 1 and self.stretches[0].steady


def _agreement(envelope: Floats, beats: Floats) -> float:
    """Share of beats with a real stroke within 40 ms."""
    if not len(beats):
        return 0.0
    reach = int(0.04 * FRAME_RATE)
    threshold = np.percentile(envelope, 80)
    frames = np.clip(np.round(beats * FRAME_RATE).astype(int), 0, len(envelope) - 1)
    near = [envelope[max(0, f - reach) : f + reach + 1].max() for f in frames]
    return float(np.mean(np.array(near) > threshold))


def _pulse(spectrum: Spectrum) -> Floats:
    """Onset strength for beats: the whole range, with the low and middle bands (drums) counted more."""
    parts = [spectrum.flux, 0.8 * spectrum.band_flux["low"], 0.5 * spectrum.band_flux["mid"]]
    return np.asarray(sum(p / max(float(p.std()), 1e-6) for p in parts))


def _beats_of_click(
    spectrum: Spectrum, sound: OnsetStrength, click: Click, bend: Bend | None = None
) -> tuple[float, Floats, Signs]:
    """The exact tempo and the straight grid of a song that keeps a click: which of its places are beats, how clearly.

    In the own time of a song that was followed, to which ``bend`` leads, it may be half a beat aside from somewhere on.
    """
    period = 60 / click.bpm
    first = straight_phase(sound.pulse, click.bpm, FRAME_RATE) + FLUX_LEAD_S
    slips: list[tuple[Floats, Floats]] = []

    def grid(step: float, since_s: float = sound.start_s) -> Floats:
        """A straight grid that is as late as is known by now."""
        beats = np.arange(first % step, sound.end_s, step)
        for times, late in slips:
            beats = beats + late[np.clip(np.searchsorted(times, beats + 1e-6) - 1, 0, None)]
        return beats[beats >= since_s]

    def placed(step: float) -> float:
        """Moves the grid to the places of it that are beats; by how much they are likelier than others (logarithm)."""
        nonlocal first
        place = find_place(spectrum, sound.pulse, grid(step))
        first += place.part / PARTS * step
        if bend is None:
            return place.ahead
        late = half_way(spectrum, sound.pulse, grid(step), np.diff(bend.to_song(grid(step))))
        if not late.any():
            return place.ahead
        slips.append((grid(step), late))
        return find_place(spectrum, sound.pulse, grid(step)).ahead

    # Where it counts half as fast as the song, no place half-way is off the beat, but those at quarters are.
    quick = placed(period / 2) if 2 * click.bpm <= FASTEST else CLEAR
    by_quarters = len(slips)
    ahead = placed(period)
    level = best_level(spectrum, sound.pulse, grid(period))
    alike = float(click.alike[click.heard].mean()) if click.heard.any() else 0.0
    aside = quick if level.factor == 2 else min(quick, ahead)
    signs = Signs(alike=alike, aside=aside, level=level.ahead, rival=level.rival)
    if level.factor == 0.5 and level.beats[0] > grid(period)[0] + 1e-6:
        first += period
    if level.factor == 2:
        del slips[by_quarters:]
    period /= level.factor
    reach = min(0.06, period / 5)
    late = fine_shift(sound.fine, sound.fine_rate, grid(period), reach)
    return 60 / period, grid(period, 0.0) + late, signs


def track_beats(spectrum: Spectrum, audio: Singles) -> BeatTrack:
    """Find the beats.

    What is not music before and after it (talk, noise, applause) is not listened to, and has no beats unless the
    song's click is heard there.

    Args:
        spectrum: From :func:`zembi.core.song.spectrum.describe`.
        audio: The same mono samples, for placing the beats to the millisecond.
    """
    length = len(audio) / RATE
    whole, extent = Extent(0.0, length), music_extent(spectrum, audio)
    pace = _pace(_part(spectrum, extent, whole))
    if extent != whole:
        wider = _as_far_as_heard(spectrum, extent, length, pace.bpm)
        if wider != extent:
            extent, pace = wider, _pace(_part(spectrum, wider, whole), pace)
    track = _track_within(spectrum, audio, extent, pace)
    if track.beats.size or extent == whole:
        return track
    return _track(spectrum, audio, _pace(spectrum))


def _part(spectrum: Spectrum, extent: Extent, whole: Extent) -> Spectrum:
    """The part of a song that is music; all of it as it is where that is the whole."""
    if extent == whole:
        return spectrum
    first, last = round(extent.start_s * FRAME_RATE), round(extent.end_s * FRAME_RATE)
    return spectrum.part(first, last)


def _track_within(spectrum: Spectrum, audio: Singles, extent: Extent, pace: "_Pace") -> BeatTrack:
    """The beats of the part of a song that is music, in song time; its first and last way go on to the ends."""
    length = len(audio) / RATE
    whole = Extent(0.0, length)
    if extent == whole:
        return _track(spectrum, audio, pace)
    first, last = round(extent.start_s * FRAME_RATE), round(extent.end_s * FRAME_RATE)
    track = _track(_part(spectrum, extent, whole), audio[first * HOP : last * HOP], pace)
    by = first * HOP / RATE
    ways = [replace(s, start_s=s.start_s + by, end_s=s.end_s + by) for s in track.stretches]
    ways[0] = replace(ways[0], start_s=0.0)
    ways[-1] = replace(ways[-1], end_s=length)
    unlike = [(a + by, b + by) for a, b in track.unlike]
    return replace(track, beats=track.beats + by, stretches=ways, unlike=unlike)


def _as_far_as_heard(spectrum: Spectrum, extent: Extent, length: float, bpm: float) -> Extent:
    """An extent with what keeps a beat before and after it: music without pitch (drums) after all."""
    envelopes = standardised([spectrum.flux, *spectrum.band_flux.values()])
    if not envelopes:
        return extent
    click = lay_click(envelopes, bpm)
    on_time = (click.alike > _ON_CLICK) & (np.abs(click.late) * 60 / bpm < _ON_TIME_S) & click.heard

    def reach(outside_s: float, to_song: Callable[[Floats], Floats]) -> float:
        """Seconds of music outwards from a border, of those that there are."""
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


@dataclass(frozen=True)
class _Pace:
    """Tempo of music, before its beats are known.

    Attributes:
        readings: Ways to count it, those of the likeliest family first.
        family: Logarithm of how much likelier that is than the next.
        bpm: The first reading, refined.
    """

    pulse: Floats
    bands: Mapping[str, Floats]
    envelopes: Sequence[Floats]
    readings: list[TempoReading]
    family: float
    bpm: float


def _pace(spectrum: Spectrum, most: _Pace | None = None) -> _Pace:
    """Tempo of what is music from end to end; counted like most of it, where that is known."""
    pulse = _pulse(spectrum)
    bands = {"all": spectrum.flux, **spectrum.band_flux}
    envelopes = standardised(list(bands.values()))
    readings, family = (most.readings, most.family) if most else (tempo_readings(pulse, bands), 4.0)
    if not envelopes:
        return _Pace(pulse, bands, envelopes, readings, family, readings[0].bpm)
    if not most:
        readings, family = by_family(readings, envelopes)
    return _Pace(pulse, bands, envelopes, readings, family, refine_tempo(pulse, readings[0].bpm))


def _track(spectrum: Spectrum, audio: Singles, pace: _Pace) -> BeatTrack:
    """The beats of what is music from end to end, of which it is known how fast it is."""
    pulse, bands, envelopes, readings = pace.pulse, pace.bands, pace.envelopes, pace.readings
    start, end = spectrum.audible_range
    sound = OnsetStrength(pulse, *fine_envelope(audio), start, end)
    length = len(pulse) / FRAME_RATE
    signs = UNSIGNED
    unlike: list[tuple[float, float]] = []
    if not envelopes:
        bpm, beats = straight_grid(sound, readings[0].bpm, 0.0, length)
        stretches = [TempoStretch(0.0, length, bpm, True)]
    else:
        click = lay_click(envelopes, pace.bpm)
        run = follow_beat(envelopes, click.bpm, click_pattern(envelopes, click.bpm), rounds=2)
        if not astray(run.times, click.bpm, start, end):
            # One click from end to end: nothing else is tried.
            bpm, beats, signs = _beats_of_click(spectrum, sound, click)
            unlike = click.unlike
            stretches = [TempoStretch(0.0, length, bpm, True)]
        else:
            readings, beats, signs, unlike = _in_its_own_time(
                spectrum, sound, bands, envelopes, readings[0].bpm
            )
            beats, stretches = laid_in_stretches(sound, envelopes, beats)
            bpm = float(60 / np.median(np.diff(beats))) if len(beats) > 1 else readings[0].bpm
    period = 60 / bpm
    beats = beats[(beats >= start - 0.25 * period) & (beats < end) & (beats >= 0)]
    readings = [TempoReading(bpm, readings[0].score), *readings[1:]]
    signs = replace(signs, family=pace.family, agreement=_agreement(pulse, beats), bpm=bpm)
    return BeatTrack(beats, bpm, stretches, readings, signs, unlike)


def _in_its_own_time(
    spectrum: Spectrum,
    sound: OnsetStrength,
    bands: Mapping[str, Floats],
    envelopes: Sequence[Floats],
    bpm: float,
) -> tuple[list[TempoReading], Floats, Signs, list[tuple[float, float]]]:
    """Ways to count, the beats, and where they are in doubt, of a song whose tempo moves.

    In the time that its pulse keeps, it is on a click.

    Which pulse is followed (beats, or every third of two) does not matter to that time; there the song's lines are
    sharp again, and say what the beat is.
    """
    run = follow_without_slips(envelopes, bpm)
    first = bend_along(len(sound.pulse), run)
    own_bands = {band: first.straighten(flux) for band, flux in bands.items()}
    found = tempo_readings(_pulse(first.spectrum(spectrum)), own_bands)
    pace = float(60 / np.median(np.diff(run))) if len(run) > 1 else bpm
    readings = [r for r in found if akin(r.bpm, pace)] or [TempoReading(pace, found[0].score)]
    readings += [r for r in found if not akin(r.bpm, pace)]
    guess = refine_tempo(first.straighten(sound.pulse), readings[0].bpm)
    bend, click = lay_bent_click(list(bands.values()), first, guess)
    own = bend.spectrum(spectrum)
    heard = OnsetStrength(
        _pulse(own),
        bend.straighten_at(sound.fine, sound.fine_rate),
        sound.fine_rate,
        *bend.to_own(np.array([sound.start_s, sound.end_s])),
    )
    _, own_beats, signs = _beats_of_click(own, heard, click, bend)
    beats = bend.to_song(own_beats)
    counted = TempoReading(float(60 / np.median(np.diff(beats))), readings[0].score)
    unlike = [(float(a), float(b)) for a, b in (bend.to_song(np.array(span)) for span in click.unlike)]
    return [counted, *readings[1:]], beats, signs, unlike
