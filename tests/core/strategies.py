"""Surveys and screws for property tests."""

import numpy as np
from hypothesis import strategies as st

from finchwort.core.surveys import Survey

slope = st.floats(-0.01, 0.01)
level = st.floats(-2, 2)


@st.composite
def surveys(draw, least: int = 4, most: int = 40, noise: float = 0.3):
    """Readings at distinct places of a coarse net, not all on one line."""
    n = draw(st.integers(least, most))
    seed = draw(st.integers(0, 2**32 - 1))
    rng = np.random.default_rng(seed)
    cells = rng.choice(400, size=n, replace=False)
    x, y = (cells % 20) * 12.0, (cells // 20) * 11.0
    # three corners make sure that the places span a plane
    corners = np.array([[0.0, 0.0], [228.0, 0.0], [0.0, 209.0]])
    keep = ~((x == 0) & (y == 0)) & ~((x == 228) & (y == 0)) & ~((x == 0) & (y == 209))
    x = np.concatenate([x[keep], corners[:, 0]])
    y = np.concatenate([y[keep], corners[:, 1]])
    a, b, c = draw(slope), draw(slope), draw(level)
    height = a * x + b * y + c + rng.uniform(-noise, noise, x.size)
    return Survey(x, y, height)
