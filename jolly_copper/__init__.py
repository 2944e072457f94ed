"""Jolly Copper: design, prove, build and keep the track power wiring of a club's model railroad."""

__version__ = "0.14.3"

import os as _os

# The matrices are small: a second thread costs more in hand-over than it computes. Must be said before numpy loads.
_os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
