"""From a possible place to a measured one: evidence stacked along the take, then a robust line."""

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.sync.features import RATE, Singles, SoundFeatures
from zembi.core.sync.sliding import fft_size

Floats = NDArray[np.float64]

#: Clock differences tried when evidence is stacked, in parts of one.
DRIFTS = np.arange(-250, 251, 10) * 1e-6
#: A slope is fitted only to passes longer than this.
SLOPE_FROM_S = 12.0
#: Windows transformed in one go.
_AT_ONCE = 16


@dataclass(frozen=True)
class Line:
    """Song time = ``offset_s + rate * take time``."""

    offset_s: float
    rate: float = 1.0

    def song(self, take_s: float) -> float:
        """Song time at a take time."""
        return self.offset_s + self.rate * take_s

    def take(self, song_s: float) -> float:
        """Take time at a song time."""
        return (song_s - self.offset_s) / self.rate


@dataclass(frozen=True)
class Evidence:
    """Evidence of the waveform for a line.

    Attributes:
        line: The best line near the one asked about.
        z: Stacked correlation in standard deviations of chance.
        inverted: Whether the take holds the song upside down, as a loudspeaker or microphone wired the other way gives.
    """

    line: Line
    z: float
    inverted: bool = False


@dataclass(frozen=True)
class Windows:
    """Correlations of windows of the take around a line: ``rows[k, reach + lag]`` in units of chance.

    Attributes:
        rate: Lags a second.
        rounding: What rounding to whole lags added to each window's lag.
    """

    centres_s: Floats
    rows: Floats
    reach: int
    rounding: Floats
    rate: int = RATE


def _stretch(samples: Singles, first: int, count: int, size: int) -> Singles:
    """``count`` samples from ``first`` on, filled up to ``size``; zeros where there are none."""
    out = np.zeros(size, np.float32)
    part = samples[max(0, first) : max(0, first + count)]
    before = min(count, max(0, -first))
    out[before : before + len(part)] = part
    return out


def correlate_windows(
    song: SoundFeatures,
    take: SoundFeatures,
    line: Line,
    start_s: float,
    end_s: float,
    *,
    window_s: float = 2.0,
    hop_s: float = 1.0,
    reach_s: float = 0.1,
    most: int = 400,
) -> Windows:
    """Correlate windows of the take with the song around where the line puts them.

    Windows of which the song holds less than half are left out.
    """
    size, reach = int(window_s * RATE), int(reach_s * RATE)
    count = max(1, int((end_s - start_s - window_s) / hop_s) + 1)
    firsts = np.round(np.linspace(start_s, max(start_s, end_s - window_s), min(count, most)) * RATE).astype(
        int
    )
    lengths = np.minimum(size, len(take.white) - firsts)
    # The window's centre is put where the line says, so that a rate moves only the edges.
    times = (firsts + lengths / 2) / RATE
    begins = np.round((line.offset_s + line.rate * times) * RATE - lengths / 2).astype(int)
    kept = (firsts >= 0) & (lengths >= size // 2)
    kept &= (begins >= -size // 2) & (begins + size // 2 <= len(song.white))
    firsts, lengths, begins, times = firsts[kept], lengths[kept], begins[kept], times[kept]
    transform = fft_size(size + 2 * reach)
    rows = np.zeros((len(firsts), 2 * reach + 1))
    for begin in range(0, len(firsts), _AT_ONCE):
        some = range(begin, min(len(firsts), begin + _AT_ONCE))
        pieces = np.stack([_stretch(take.white, firsts[k], lengths[k], size) for k in some])
        under = np.stack(
            [_stretch(song.white, begins[k] - reach, lengths[k] + 2 * reach, transform) for k in some]
        )
        spectra = scipy.fft.rfft(under, axis=1) * np.conj(scipy.fft.rfft(pieces, transform, axis=1))
        lags = scipy.fft.irfft(spectra, transform, axis=1)[:, : 2 * reach + 1]
        # Every third lag says as much of what chance gives as all do.
        usual = np.median(np.abs(lags[:, :: 3 if reach > 400 else 1]), axis=1, keepdims=True)
        rows[some] = lags / (1.4826 * usual + 1e-6)
    exact = (line.offset_s + (line.rate - 1) * times) * RATE
    return Windows(times, rows, reach, np.asarray(exact - np.round(exact)))


def stack(windows: Windows, line: Line, tried: NDArray[np.floating] = DRIFTS) -> Evidence:
    """Add the windows up along every drift tried and take the best line.

    Args:
        windows: Correlated around ``line``.
        line: That line.
        tried: Differences of rate to try on a pass long enough for a slope.
    """
    count = len(windows.centres_s)
    if count == 0:
        return Evidence(line, 0.0)
    middle = float(windows.centres_s.mean())
    span = float(np.ptp(windows.centres_s))
    drifts = tried if span > SLOPE_FROM_S else np.zeros(1)
    clipped = np.clip(windows.rows, -12, 12)
    width = clipped.shape[1]
    best = (-np.inf, 0, 0.0)
    for drift in drifts:
        shift = np.round(drift * (windows.centres_s - middle) * windows.rate).astype(int)
        total = np.zeros(width)
        for k in range(count):
            s = int(shift[k])
            if 0 <= s < width:
                total[: width - s] += clipped[k, s:]
            elif -width < s < 0:
                total[-s:] += clipped[k, :s]
        lag = int(np.argmax(total))
        if total[lag] > best[0]:
            best = (float(total[lag]), lag - windows.reach, float(drift))
    z, lag, drift = best
    rate = line.rate + drift
    offset = line.offset_s + lag / windows.rate - drift * middle
    return Evidence(Line(offset, rate), z / np.sqrt(count))


def focused(windows: Windows, line: Line, found: Evidence) -> Evidence:
    """The same line with the evidence of the run of windows that speaks for it most.

    A few seconds of the song amid talk are drowned by the windows around them.

    Args:
        windows: Correlated around ``line``.
        line: That line.
        found: What :func:`stack` made of them.
    """
    times = windows.centres_s
    if len(times) < 2:
        return found
    lags = (found.line.offset_s - line.offset_s + (found.line.rate - line.rate) * times) * windows.rate
    index = np.clip(np.round(lags).astype(int) + windows.reach, 0, windows.rows.shape[1] - 1)
    total = np.concatenate([[0.0], np.cumsum(np.clip(windows.rows[np.arange(len(times)), index], -12, 12))])
    lengths = np.arange(len(total))[None] - np.arange(len(total))[:, None]
    sums = np.where(lengths > 0, total[None] - total[:, None], 0.0)
    return replace(found, z=max(found.z, float((sums / np.sqrt(np.maximum(lengths, 1))).max())))


def _parabola(row: Floats, i: int) -> float:
    if not 0 < i < len(row) - 1:
        return float(i)
    a, b, c = row[i - 1], row[i], row[i + 1]
    bottom = a - 2 * b + c
    return i + (0.5 * (a - c) / bottom if bottom < 0 else 0.0)


def measure(windows: Windows, line: Line) -> tuple[Line, Floats, Floats]:
    """Fit a line through each window's own peak, robustly.

    Args:
        windows: Correlated around ``line`` with a small reach.
        line: The line they were correlated around.

    Returns:
        The fitted line; the residual of each window in seconds (nan where the window has no clear peak); and
        the height of each window's peak, in units of chance.
    """
    peaks = np.argmax(windows.rows, axis=1)
    heights = windows.rows[np.arange(len(peaks)), peaks]
    fine = np.array([_parabola(r, int(i)) for r, i in zip(windows.rows, peaks, strict=True)])
    lags = (fine - windows.reach - windows.rounding) / windows.rate
    weight = np.clip(heights - 5.0, 0, 25)
    usable = weight > 0
    if usable.sum() < 2:
        return line, np.full(len(lags), np.nan), heights
    times = windows.centres_s
    centre = float(np.average(times, weights=weight))
    slope, level = 0.0, _weighted_median(lags, weight)
    fit_slope = float(np.ptp(times[usable])) > SLOPE_FROM_S - 2.0 and usable.sum() >= 6
    current = weight * (np.abs(lags - level) < 0.02)
    for _ in range(12):
        if fit_slope:
            slope, level = _line_fit(times - centre, lags, current)
        else:
            level = float(np.average(lags, weights=current)) if current.sum() else level
        residual = lags - level - slope * (times - centre)
        spread = max(1.4826 * _weighted_median(np.abs(residual), weight), 2e-5)
        current = weight / (1 + (residual / (2 * spread)) ** 2)
    residual = np.where(usable, lags - level - slope * (times - centre), np.nan)
    return Line(line.offset_s + level - slope * centre, line.rate + slope), residual, heights


def _weighted_median(values: Floats, weights: Floats) -> float:
    order = np.argsort(values)
    total = np.cumsum(weights[order])
    return float(values[order][np.searchsorted(total, total[-1] / 2)])


def _line_fit(times: Floats, lags: Floats, weights: Floats) -> tuple[float, float]:
    total = weights.sum()
    if total <= 0:
        return 0.0, 0.0
    mt, ml = float((weights * times).sum() / total), float((weights * lags).sum() / total)
    bottom = float((weights * (times - mt) ** 2).sum())
    slope = float((weights * (times - mt) * (lags - ml)).sum() / bottom) if bottom > 0 else 0.0
    return slope, ml - slope * mt
