"""What every picture needs: reliefs, verdicts, rounded heights."""

from __future__ import annotations

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.surveys import Verdict
from finchwort.core.surveys import height_map as reliefs
from finchwort.messages.surveys import sentence_of, word_of
from finchwort.web import schemas


def relief_out(relief: reliefs.Relief, heights: Array | None = None) -> schemas.Relief:
    """Give a relief; the readings themselves, when given, count for its low and high."""
    values = relief.heights
    low, high = float(values.min()), float(values.max())
    if heights is not None:
        low, high = min(low, float(heights.min())), max(high, float(heights.max()))
    datum = reliefs.shown_datum(low, high, float(values.mean()))
    low, high = low - datum, high - datum
    step = reliefs.contour_step(high - low)
    return schemas.Relief.model_construct(
        columns=relief.xs.size,
        rows=relief.ys.size,
        heights_um=np.rint((values - datum) * 1000).astype(int).ravel().tolist(),
        datum=datum,
        low=low,
        high=high,
        step=step,
        levels=reliefs.contour_levels(low, high, step),
        limit=reliefs.tint_limit(low, high),
    )


def verdict_out(verdict: Verdict) -> schemas.Verdict:
    """Give a verdict."""
    return schemas.Verdict.of(verdict, word=word_of(verdict), sentence=sentence_of(verdict))


def rounded(values: Array) -> list[float]:
    """Give heights to a tenth of a micrometre."""
    return np.round(values, 4).tolist()
