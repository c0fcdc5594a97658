"""How sure a place is, as a number that means something."""

import numpy as np

#: Evidence in standard deviations below which a place is not believed.
LEAST_Z = 11.0
#: Places at or above this confidence are locked.
LOCK_AT = 0.9
#: Less than this and the pass is taken for chance.
BELIEVE_AT = 0.5
#: A rival at or above this share of the best's evidence counts as equal unless the take decides against it.
EQUAL = 0.7
#: Standard deviations by which the take must prefer a place to a rival.
DECIDED = 8.0


def confidence(z: float, seconds: float, spread_s: float, continuity: float) -> float:
    """Confidence 0..1 that a pass lies where it was found.

    Independent ways to be wrong are multiplied: the evidence could be chance (falls off with ``z`` and with
    length), the windows could disagree (``spread_s``), and it could be another song with the same drum strokes
    (``continuity``). Places that fit equally well divide it further; see :mod:`zembi.core.sync.align`.

    Args:
        z: Stacked evidence in standard deviations of chance.
        seconds: Length of the pass.
        spread_s: Median absolute residual of the windows around the line.
        continuity: Whether the song sounds all through, 0..1.
    """
    chance = 1 - np.exp(-max(0.0, z - LEAST_Z + 1.5) / 2.2)
    length = 1 - np.exp(-seconds / 1.1)
    agreement = 1 / (1 + (spread_s / 0.004) ** 2)
    sounding = np.clip((continuity - 0.3) / 0.2, 0, 1)
    return float(np.clip(chance * length * agreement * sounding, 0, 1))
