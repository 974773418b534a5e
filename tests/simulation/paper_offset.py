"""A person who sets the Z offset with a strip of paper: written before the advice it judges, sharing nothing with it."""

from __future__ import annotations

import numpy as np


class Strip:
    """A tip over a plate: how far it truly stands above it, and how a strip feels there.

    ``gap`` is the true gap at Z = 0 with the present offset, negative when it would be pressed.  The strip is seldom
    exactly as thick as it is said to be, the person feels with some scatter and now and then presses a wrong button.
    """

    def __init__(self, rng, gap=None, said=0.1, careless=0.01):
        self.rng = rng
        self.gap = float(rng.uniform(-0.3, 1.0)) if gap is None else gap
        self.said = said
        self.paper = max(0.05, said + rng.normal(0, 0.010))
        self.edges = np.array([0.015, -0.015, -0.030, -0.050]) + np.sort(rng.normal(0, 0.003, 4))[::-1]
        self.careless = careless

    def feel(self, z):
        more = z + self.gap - self.paper + self.rng.normal(0, 0.012)
        which = int(np.sum(more < self.edges))
        if self.rng.random() < self.careless:
            which = int(np.clip(which + self.rng.choice([-1, 1]), 0, 4))
        return ("free", "slight", "strong", "bunches", "stuck")[which]

    def lower_until_drags(self, z, step):
        """Lower in steps until the strip is no longer free; gives the Z and how the strip then feels.

        Nobody goes on lowering when the strip is already held.
        """
        for _ in range(400):
            feel = self.feel(z)
            if feel != "free":
                return z, feel
            z = round(z - step, 4)
        return z, feel

    def offset_closer(self, by):
        self.gap -= by
