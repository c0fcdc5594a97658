"""Phrases and sections: borders on bar lines from change, repeats grouped, a first guess at names."""

from dataclasses import dataclass
from itertools import groupby

import numpy as np

from zembi.core.song.spectrum import FRAME_RATE, Floats, Singles, Spectrum

_KERNEL_BARS = 4
#: Sections are of the same music where they are so alike, and more alike than bars are in the mean by so much; a much
#: shorter one is not, of less than this share of the other.
_ALIKE, _THAN_USUAL, _LEAST_OF = 0.58, 0.22, 0.45
#: So many sections of the same music running can be two verses, or a chorus sung twice.
_RUNNING = 2


def beat_means(values: Singles, beats: Floats) -> Floats:
    """Mean of a frame-wise array over each beat's span; shape (beats, features)."""
    ends = np.append(beats, beats[-1] + np.median(np.diff(beats)))
    edges = np.clip(np.round(ends * FRAME_RATE), 0, len(values)).astype(int)
    # A beat may begin where the song ends: it sounds like its last frame.
    sums = np.add.reduceat(np.concatenate([values, values[-1:]]), edges)[:-1]
    return np.asarray(sums / np.maximum(np.diff(edges), 1)[:, None], dtype=float)


@dataclass(frozen=True)
class SectionGuess:
    """A span of whole bars, ``start_bar`` inclusive to ``end_bar`` exclusive; bar 0 is the first downbeat."""

    start_bar: int
    end_bar: int
    label: str
    group: int


def bar_features(spectrum: Spectrum, bar_starts: Floats) -> Floats:
    """Describe each bar: timbre, level and harmony in halves of the bar, standardised; shape (bars, features)."""
    halves = np.sort(
        np.concatenate(
            [
                bar_starts,
                bar_starts[:-1] + np.diff(bar_starts) / 2,
                [bar_starts[-1] + np.median(np.diff(bar_starts)) / 2],
            ]
        )
    )
    mel = beat_means(spectrum.mel, halves)
    timbre = mel.reshape(len(mel), 10, 4).mean(axis=2)
    level = mel.mean(axis=1, keepdims=True)
    chroma = beat_means(spectrum.chroma, halves)
    rows = np.hstack(
        [
            (timbre - timbre.mean(0)) / 0.6,
            2.0 * (level - level.mean()) / 0.6,
            2.5 * (chroma - chroma.mean(0)) / 0.3,
        ]
    )
    return rows.reshape(len(bar_starts), -1)


def likeness_matrix(features: Floats) -> Floats:
    """Self-similarity 0..1 of bars, shape (bars, bars): a Gaussian of their distance."""
    distance = np.sqrt(np.maximum(0, ((features[:, None] - features[None]) ** 2).mean(axis=2)))
    scale = max(float(np.median(distance)), 1e-6)
    return np.asarray(np.exp(-((distance / scale) ** 2)))


def novelty(likeness: Floats) -> Floats:
    """Change at each bar line by a checkerboard kernel along the diagonal (Foote 2000); shape (bars,)."""
    count, half = len(likeness), _KERNEL_BARS
    padded = np.pad(likeness, half, mode="edge")
    axis = np.arange(-half, half) + 0.5
    taper = np.exp(-0.5 * (axis / (half * 0.7)) ** 2)
    kernel = np.outer(np.sign(axis) * taper, np.sign(axis) * taper)
    values = np.array([np.sum(kernel * padded[i : i + 2 * half, i : i + 2 * half]) for i in range(count)])
    return np.asarray(np.maximum(0, values / kernel.clip(0).sum()))


def repetition_change(likeness: Floats) -> Floats:
    """Novelty of the pattern of repeats: structure features over time lags (Serra et al. 2014); shape (bars,)."""
    count = len(likeness)
    keep = np.sort(likeness, axis=1)[:, -max(2, count // 8) :][:, :1]
    strong = np.where((likeness >= keep) & (likeness >= keep.T), likeness, 0.0)
    lags = np.array([[strong[i, (i - lag) % count] for lag in range(1, count)] for i in range(count)])
    weights = np.exp(-0.5 * (np.arange(-4, 5) / 1.6) ** 2)
    padded = np.pad(lags, ((4, 4), (0, 0)), mode="edge")
    smooth = (
        np.array([(padded[i : i + 9] * weights[:, None]).sum(axis=0) for i in range(count)]) / weights.sum()
    )
    change = np.zeros(count)
    change[1:] = np.linalg.norm(np.diff(smooth, axis=0), axis=1)
    return change


def _length_prior(bars: int) -> float:
    if bars < 2:
        return -4.0
    if bars < 3:
        return -2.5
    if bars > 24:
        return -1.5
    return {0: 0.0, 4: -0.15}.get(bars % 8, -0.45 if bars % 2 == 0 else -0.8)


def find_borders(change: Floats) -> list[int]:
    """Bars at which sections begin (0 first): the strongest changes that also give usual section lengths."""
    count = len(change)
    if count < 4:
        return [0]
    gain = change - 0.55
    best = np.full(count + 1, -np.inf)
    back = np.zeros(count + 1, dtype=int)
    best[0] = 0.0
    for end in range(1, count + 1):
        reward = float(np.clip(gain[end], -2, 2)) if end < count else 0.0
        for start in range(max(0, end - 32), end):
            value = best[start] + reward + 0.9 * _length_prior(end - start)
            if value > best[end]:
                best[end], back[end] = value, start
    borders, at = [], count
    while at > 0:
        at = int(back[at])
        borders.append(at)
    return borders[::-1]


def _alike(likeness: Floats, one: tuple[int, int], other: tuple[int, int]) -> float:
    """Similarity of two spans of bars where the shorter lies on the longer best; 0 where it is much shorter."""
    (a, end_a), (b, end_b) = sorted((one, other), key=lambda span: span[1] - span[0])
    length, room = end_a - a, end_b - b - (end_a - a)
    if length < _LEAST_OF * (length + room):
        return 0.0
    here = np.arange(length)
    return max(float(np.mean(likeness[a + here, b + by + here])) for by in range(room + 1))


def group_repeats(likeness: Floats, spans: list[tuple[int, int]]) -> list[int]:
    """Give sections of the same music the same group number, in order of first appearance."""
    groups: list[int] = []
    least = max(_ALIKE, float(np.mean(likeness)) + _THAN_USUAL)
    for i, span in enumerate(spans):
        matches = [_alike(likeness, span, before) for before in spans[:i]]
        best = int(np.argmax(matches)) if matches else -1
        new = best < 0 or matches[best] <= least
        groups.append(max(groups, default=-1) + 1 if new else groups[best])
    return groups


def _speaks_for_names(
    groups: list[int], energy: list[float], repeated: list[int], mean: dict[int, float]
) -> bool:
    """True if it is clear what is a verse and what a chorus.

    Little stands alone, the loudest repeat comes back after something else, and more than once something else is
    heard. The same music three times running is a riff, and says nothing of either.
    """
    if len(groups) < 4:
        return True
    alone = sum(g not in repeated for g in groups[1:-1])
    if not repeated or len(repeated) > 3 or alone > max(1, len(groups) // 4):
        return False
    of_loudest = [i for i, g in enumerate(groups) if g == repeated[0]]
    if of_loudest[-1] - of_loudest[0] == len(of_loudest) - 1:
        return False
    if any(len(list(run)) > _RUNNING for _, run in groupby(groups)):
        return False
    others = [e for e, g in zip(energy, groups, strict=True) if g != repeated[0]]
    if len(others) < 2:
        return False
    least = max(0.3 * float(np.std(energy)), 0.02 * float(np.mean(energy)))
    return mean[repeated[0]] - float(np.mean(others)) > least


def _letters(groups: list[int]) -> list[str]:
    """A letter for each kind in order of appearance, numbered where it comes again."""
    order = {g: k for k, g in enumerate(dict.fromkeys(groups))}
    out, seen = [], dict.fromkeys(order, 0)
    for g in groups:
        seen[g] += 1
        letter = chr(ord("A") + order[g] % 26) + ("" if order[g] < 26 else str(order[g] // 26 + 1))
        out.append(f"{letter} {seen[g]}" if groups.count(g) > 1 else letter)
    return out


def name_sections(spans: list[tuple[int, int]], groups: list[int], energy: list[float]) -> list[str]:
    """First names from order, repetition and energy: the loud repeated group is the chorus."""
    count = len(spans)
    sizes = {g: groups.count(g) for g in set(groups)}
    mean = {g: float(np.mean([e for e, k in zip(energy, groups, strict=True) if k == g])) for g in sizes}
    repeated = sorted((g for g in sizes if sizes[g] > 1), key=lambda g: -(mean[g] + 0.02 * sizes[g]))
    if not _speaks_for_names(groups, energy, repeated, mean):
        return _letters(groups)
    names: dict[int, str] = {}
    if repeated:
        names[repeated[0]] = "Chorus"
        for g in repeated[1:]:
            names.setdefault(g, "Verse" if "Verse" not in names.values() else "Part")
    kinds = []
    for i, g in enumerate(groups):
        if g in names:
            kinds.append(names[g])
        elif i == 0 and count > 2:
            kinds.append("Intro")
        elif i == count - 1 and count > 2:
            kinds.append("Outro")
        elif "Chorus" in kinds and i >= count // 2:
            kinds.append("Bridge")
        else:
            kinds.append("Verse")
    if (
        kinds
        and kinds[0] in ("Verse", "Part")
        and count > 3
        and energy[0] < np.median(energy)
        and spans[0][1] - spans[0][0] <= 6
    ):
        kinds[0] = "Intro"
    if count > 3 and energy[-1] < np.median(energy) and kinds[-1] not in ("Chorus", "Outro"):
        kinds[-1] = "Outro"
    numbered, seen = [], dict.fromkeys(kinds, 0)
    for kind in kinds:
        seen[kind] += 1
        numbered.append(
            f"{kind} {seen[kind]}" if kinds.count(kind) > 1 or kind in ("Verse", "Chorus") else kind
        )
    return numbered


def _relative(values: Floats) -> Floats:
    """Values against their own middle and 90th percentile: 0 is ordinary, 1 is a clear peak."""
    middle = float(np.median(values))
    return np.clip((values - middle) / max(float(np.percentile(values, 90)) - middle, 1e-6), -1, 2.5)


def find_sections(spectrum: Spectrum, bar_starts: Floats) -> list[SectionGuess]:
    """Sections of a song on its bar lines.

    Args:
        spectrum: The song's short-time description.
        bar_starts: Song time of each downbeat, ascending, shape (bars,).
    """
    if len(bar_starts) < 4:
        return [SectionGuess(0, max(1, len(bar_starts)), "Song", 0)]
    features = bar_features(spectrum, bar_starts)
    likeness = likeness_matrix(features)
    change = _relative(novelty(likeness)) + 0.7 * _relative(repetition_change(likeness))
    borders = find_borders(change)
    if len(borders) > 1 and len(bar_starts) - borders[-1] < 2:
        borders.pop()
    spans = list(zip(borders, [*borders[1:], len(bar_starts)], strict=True))
    groups = group_repeats(likeness, spans)
    loud = beat_means(spectrum.mel, bar_starts).mean(axis=1)
    energy = [float(loud[a:b].mean()) for a, b in spans]
    names = name_sections(spans, groups, energy)
    return [SectionGuess(a, b, n, g) for (a, b), n, g in zip(spans, names, groups, strict=True)]
