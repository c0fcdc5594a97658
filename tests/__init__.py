"""Tests on behaviour: known answers, round trips, properties, real files, the real page."""

import zembi  # noqa: F401 - before anything else: it settles how many threads linear algebra uses
