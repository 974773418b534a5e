"""Finchwort: level a printer's bed, and know why the first layer sticks."""

import os

__version__ = "0.1.0"

# sums of a bed are small, and several processes share the processors: with threads of their own these would spin beside each
# other, twice the work for the same answer.  It counts when numpy is loaded, so before any of ours is.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
