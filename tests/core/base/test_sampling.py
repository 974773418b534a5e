"""Draws from known densities: what comes back is what went in."""

import unittest

import numpy as np

from finchwort.core.base.sampling import interval, sample


class SamplingTest(unittest.TestCase):
    def test_a_normal_density_gives_its_mean_covariance_and_interval(self):
        mean = np.array([0.3, -1.0, 2.0])
        covariance = np.array([[0.04, 0.01, 0.0], [0.01, 0.25, -0.1], [0.0, -0.1, 1.0]])
        inverse = np.linalg.inv(covariance)

        def density(theta):
            off = np.atleast_2d(theta) - mean
            return -0.5 * np.einsum("ni,ij,nj->n", off, inverse, off)

        draws, weights = sample(density, np.zeros(3), np.array([0.5, 1.5, 2.5]))
        self.assertAlmostEqual(weights.sum(), 1.0)
        found = weights @ draws
        np.testing.assert_allclose(found, mean, atol=0.05)
        off = draws - found
        np.testing.assert_allclose((off * weights[:, None]).T @ off, covariance, atol=0.06)
        low, high = interval(draws[:, 0], weights)
        self.assertAlmostEqual(low, 0.3 - 1.96 * 0.2, delta=0.04)
        self.assertAlmostEqual(high, 0.3 + 1.96 * 0.2, delta=0.04)

    def test_the_higher_of_two_hills_far_from_the_first_belief_is_found(self):
        def density(theta):
            x = np.atleast_2d(theta)[:, 0]
            near, far = -0.5 * ((x + 1) / 0.05) ** 2, 4 - 0.5 * ((x - 1) / 0.05) ** 2
            return np.logaddexp(near, far) - 0.5 * np.atleast_2d(theta)[:, 1:].sum(axis=1) ** 2

        draws, weights = sample(density, np.zeros(3), np.ones(3))
        self.assertAlmostEqual(float(weights @ draws[:, 0]), 1.0, delta=0.1)

    def test_equal_weights_are_plain_quantiles(self):
        values = np.random.default_rng(1).normal(size=4000)
        low, high = interval(values, np.full(4000, 1 / 4000))
        np.testing.assert_allclose([low, high], np.quantile(values, [0.025, 0.975]), atol=0.02)
