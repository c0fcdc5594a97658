"""Confidence of a place, as a calibrated probability."""

import numpy as np

#: Evidence in standard deviations below which a place is not believed.
LEAST_Z = 11.0
#: Places at or above this confidence are locked.
LOCK_AT = 0.9
#: Less than this and the pass is taken for chance.
BELIEVE_AT = 0.5
#: The same for a pass beside one that is sure: talk and drums look a little like any song.
BELIEVE_FURTHER_AT = 0.8
#: A rival at or above this share of the best's evidence counts as equal unless the take decides against it.
EQUAL = 0.7
#: Standard deviations by which the take must prefer a place to a rival.
DECIDED = 8.0


#: Weakest guess of a speed that is looked into: with the waveform to prove it, and by envelopes alone.
LEAST_GUESS, LEAST_GUESS_STRETCHED = 5.0, 5.5
#: A rival of a stretched pass is equal at this share of its likeness and of its harmony.
EQUAL_LIKENESS, EQUAL_HARMONY = 0.85, 0.88


def confidence(
    z: float, seconds: float, spread_s: float, *, soft: float, middle: float, evenness: float
) -> float:
    """Confidence 0..1 that a pass lies where it was found.

    Independent ways to be wrong are multiplied: the evidence could be chance (falls off with ``z`` and with
    length), the windows could disagree (``spread_s``), it could be another song with the same drums (``soft``), other
    strokes that fall on the song's (``middle``) or another song with some of the same notes or samples
    (``evenness``). Places that fit equally well divide it further; see :mod:`zembi.core.sync.align`. How often it is right is measured in docs/sync.md.

    Args:
        z: Stacked evidence in standard deviations of chance.
        seconds: Length of the pass.
        spread_s: Median absolute residual of the windows around the line.
        soft, middle: Whether the song sounds all through, from :func:`zembi.core.sync.passes.sounding`.
        evenness: Whether it sounds in every second, 0..1.
    """
    chance = 1 - np.exp(-max(0.0, z - LEAST_Z + 1.5) / 2.2)
    length = 1 - np.exp(-seconds / 0.9)
    agreement = 1 / (1 + (spread_s / 0.004) ** 2)
    drums = np.clip((soft - 0.2) / 0.3, 0, 1)
    strokes = np.clip((middle - 0.5) / 0.2, 0, 1)
    even = np.clip((evenness - 0.3) / 0.15, 0, 1)
    return float(np.clip(chance * length * agreement * drums * strokes * even, 0, 1))


def stretched_confidence(score: float, harmony: float, spread_s: float, song_s: float) -> float:
    """Confidence 0..1 in a pass whose pitch was kept, for which only envelopes and tones can speak.

    Args:
        score: Evidence of the speed, from :func:`zembi.core.sync.speed.SpeedSearch`.
        harmony: Agreement of the tones, -1..1: above 0.4 for true places, below 0.35 for other songs and places.
        spread_s: Median absolute residual of the windows.
        song_s: Seconds of song in the pass.
    """
    # A short pass gives few windows and a weak guess; tones that agree this well are no chance either.
    chance = max(np.clip((score - 6.5) / 2.5, 0, 1), np.clip((harmony - 0.65) / 0.15, 0, 1))
    tones = np.clip((harmony - 0.35) / 0.15, 0, 1)
    agreement = 1 / (1 + (spread_s / 0.012) ** 2)
    length = 1 - np.exp(-song_s / 4.0)
    return float(np.clip(chance * tones * agreement * length, 0, 1))
