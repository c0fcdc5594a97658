"""Lightness in the film: the coded values moved towards black or white."""

import numpy as np

from zembi.core.picture.step import Values
from zembi.media.sheet import BLACK, WHITE, Sheet


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture mixed with black (an amount below 1) or white (above)."""
    amount = min(2.0, max(0.0, values["amount"]))
    share = np.float32(abs(1 - amount))
    kept = [p * (1 - share) for p in sheet.planes]
    if amount > 1:
        white = [np.float32(w - b) * share for w, b in zip(WHITE, BLACK, strict=True)]
        kept = [p + w * sheet.covers(k) if w else p for k, (p, w) in enumerate(zip(kept, white, strict=True))]
    return sheet.with_planes(kept)
