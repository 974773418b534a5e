"""A sheet that lies on a carrier: it bends, is pulled down by its weight or by magnets, and goes nowhere through what is below.

Nothing here is known to the code under test.  The sheet is a thin elastic plate over an obstacle: its energy of bending
and of what pulls it is least, and it lies on or above carrier and tape.  Tape is cut by a hand, a few millimetres off,
and lies a little thicker where layers do not stick flat.
"""

import numpy as np
from scipy.ndimage import gaussian_filter
from scipy.optimize import minimize

SIDE, CELLS = 220.0, 29
"""Sheet of 220 mm on a grid of 29 by 29."""


def places():
    along = np.linspace(0, SIDE, CELLS)
    return np.meshgrid(along, along)


def lie(ground, stiffness, pull=1.0):
    """Heights of a sheet on a ground (mm); stiffness against pull in cells, so that 0 follows everything."""
    shape = ground.shape

    def energy(flat):
        w = flat.reshape(shape)
        bend = np.zeros_like(w)
        bend[:, 1:-1] += w[:, 2:] - 2 * w[:, 1:-1] + w[:, :-2]
        bend[1:-1, :] += w[2:, :] - 2 * w[1:-1, :] + w[:-2, :]
        slope = np.zeros_like(w)
        inner = bend[:, 1:-1]
        slope[:, 2:] += inner
        slope[:, 1:-1] -= 2 * inner
        slope[:, :-2] += inner
        inner = bend[1:-1, :]
        slope[2:, :] += inner
        slope[1:-1, :] -= 2 * inner
        slope[:-2, :] += inner
        value = 0.5 * stiffness * float((bend**2).sum()) + pull * float((w - ground).sum()) / 100
        return value, (stiffness * slope + pull / 100).ravel()

    start = np.full(ground.size, ground.max())
    bounds = [(low, None) for low in ground.ravel()]
    found = minimize(
        energy, start, jac=True, bounds=bounds, method="L-BFGS-B", options={"maxiter": 4000, "maxfun": 8000}
    )
    return found.x.reshape(shape)


def tape_laid(ground, plan, thickness, rng):
    """The ground with tape on it as somebody laid it."""
    x, y = places()
    laid = np.zeros_like(ground)
    for one in plan.places:
        for piece in one.pieces:
            u = (x - piece.x - rng.normal(0, 3)) / (piece.width / 2)
            v = (y - piece.y - rng.normal(0, 3)) / (piece.depth / 2)
            inside = u**2 + v**2 <= 1 if piece.oval else (np.abs(u) <= 1) & (np.abs(v) <= 1)
            laid += inside * thickness * rng.uniform(0.95, 1.1)
    return ground + laid


def readings(sheet, rng, per_side=5, noise=0.005):
    """Places and heights as a probe reads them, on a tilted bed."""
    along = np.linspace(15, SIDE - 15, per_side)
    x, y = (a.ravel() for a in np.meshgrid(along, along))
    i = np.clip(np.rint(x / SIDE * (CELLS - 1)).astype(int), 0, CELLS - 1)
    j = np.clip(np.rint(y / SIDE * (CELLS - 1)).astype(int), 0, CELLS - 1)
    tilt = rng.uniform(-0.1, 0.1, 2)
    return x, y, sheet[j, i] + tilt[0] * x / SIDE + tilt[1] * y / SIDE + rng.normal(0, noise, x.size)


def carriers(rng):
    """Carriers as they come: bowed, sunk in one place, warped, with dents and a crumb."""
    x, y = places()
    u, v = 2 * x / SIDE - 1, 2 * y / SIDE - 1
    rough = gaussian_filter(rng.normal(0, 1, x.shape), 3)
    rough *= 0.01 / np.abs(rough).max()
    a, b = rng.uniform(-0.5, 0.5, 2)
    yield "bowl", 0.2 * (u**2 + v**2) / 2 + rough
    yield "sunk", -0.18 * np.exp(-((u - a) ** 2 + (v - b) ** 2) * 5) + rough
    yield "trough", 0.16 * u**2 + rough
    yield "corner", -0.16 * np.exp(-((u - 0.9) ** 2 + (v - 0.9) ** 2) * 3) + rough


def flatness(sheet):
    """Highest less lowest once the least-squares plane is out, mm."""
    x, y = places()
    rows = np.column_stack([x.ravel(), y.ravel(), np.ones(x.size)])
    rest = sheet.ravel() - rows @ np.linalg.lstsq(rows, sheet.ravel(), rcond=None)[0]
    return float(np.ptp(rest))
