"""Zembi: cut a music video to its song."""

import os

__version__ = "0.1.0"

# Work is shared out among processes; more threads of the linear algebra in each would only wait for one another. It
# reads this when it is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
