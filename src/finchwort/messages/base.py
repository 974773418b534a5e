"""What is said of what several areas share."""

from __future__ import annotations

ERRORS = {
    "base.outlier_looked_above_below": "An outlier is looked for above, below or on both sides.",
    "base.outlier_shows_among_three": "An outlier shows among three readings or more.",
}
"""What is said of input that cannot be used, by the code of its error."""
