"""Probing and measuring, checked against handbooks, libraries and the SDF standard."""

import struct
import unittest

import numpy as np
import scipy.stats
import statsmodels.api as sm
from scipy.optimize import curve_fit

from finchwort.core.base.statistics import grubbs_test, sd_interval, slope_interval
from finchwort.core.printers import Bed
from finchwort.core.probing import GOOD_RANGE, USABLE_RANGE, assess_repeatability, fit_soak
from finchwort.core.surveys import Survey
from finchwort.formats import Hint, read_survey, survey_sdf
from finchwort.knowledge import materials, surfaces

URANIUM = [199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57]
"""NIST/SEMATECH e-Handbook 1.3.5.17.1 (Tietjen and Moore), from memory."""


class GrubbsTest(unittest.TestCase):
    def test_worked_example(self):
        """G = 2.4687, upper one-tailed critical value 2.0317 at 0.05: NIST/SEMATECH e-Handbook, from memory."""
        found = grubbs_test(URANIUM, tail="upper")
        self.assertAlmostEqual(found.statistic, 2.4687, delta=1e-4)
        self.assertAlmostEqual(found.critical, 2.0317, delta=1e-4)
        self.assertTrue(found.outlier)
        self.assertEqual(found.index, 7)

    def test_critical_values_from_the_t_distribution(self):
        """The handbook's formula, worked with scipy.stats.t."""
        for n in (3, 5, 10, 30, 100):
            t = scipy.stats.t.ppf(1 - 0.05 / (2 * n), n - 2)
            wanted = (n - 1) / np.sqrt(n) * np.sqrt(t**2 / (n - 2 + t**2))
            self.assertAlmostEqual(grubbs_test(np.arange(n)).critical, wanted, places=9)


class DeviationTest(unittest.TestCase):
    def test_gear_diameters(self):
        """100 gear diameters, s = 0.006278908: 95 % interval 0.005513 to 0.007294.

        NIST/SEMATECH e-Handbook 1.3.5.8, from memory.
        """
        low, high = sd_interval(0.006278908, 100)
        self.assertAlmostEqual(low, 0.005512884, delta=1e-7)
        self.assertAlmostEqual(high, 0.007294110, delta=1e-7)

    def test_against_scipy(self):
        rng = np.random.default_rng(1)
        for n in (3, 10, 40):
            x = rng.normal(0, 0.01, n)
            found = assess_repeatability(x)
            chi = scipy.stats.chi2(n - 1)
            self.assertAlmostEqual(
                found.sd_low, np.std(x, ddof=1) * np.sqrt((n - 1) / chi.ppf(0.975)), places=12
            )
            self.assertAlmostEqual(
                found.sd_high, np.std(x, ddof=1) * np.sqrt((n - 1) / chi.ppf(0.025)), places=12
            )

    def test_least_difference_is_that_of_a_t_interval_for_two_readings(self):
        x = np.random.default_rng(2).normal(0, 0.004, 10)
        wanted = scipy.stats.t.ppf(0.975, 9) * np.std(x, ddof=1) * np.sqrt(2)
        self.assertAlmostEqual(assess_repeatability(x).least_difference, wanted, places=12)


class SlopeTest(unittest.TestCase):
    def test_against_statsmodels_and_scipy(self):
        rng = np.random.default_rng(3)
        for n in (4, 12, 60):
            x, y = np.sort(rng.uniform(0, 10, n)), rng.normal(0, 0.01, n)
            fit = sm.OLS(y, sm.add_constant(x)).fit()
            slope, low, high = slope_interval(x, y)
            self.assertAlmostEqual(slope, fit.params[1], places=12)
            np.testing.assert_allclose([low, high], fit.conf_int()[1], rtol=1e-9)
            self.assertAlmostEqual(slope, scipy.stats.linregress(x, y).slope, places=12)


class SoakCurveTest(unittest.TestCase):
    def test_against_scipy_curve_fit(self):
        rng = np.random.default_rng(4)
        t = np.arange(0, 700, 20.0)
        y = 0.05 + 0.12 * np.exp(-t / 180) + rng.normal(0, 0.003, t.size)
        wanted, _ = curve_fit(lambda t, h, a, tau: h + a * np.exp(-t / tau), t, y, p0=(0, 0.1, 100))
        found = fit_soak(t, y)
        h, a, tau = wanted
        # averaged over curves it may be, but where there are readings it is the curve that fits best
        np.testing.assert_allclose(found.curve(t), h + a * np.exp(-t / tau), atol=0.004)
        ahead = a * (np.exp(-(t[-1] + 300) / tau) - np.exp(-t[-1] / tau))
        self.assertLessEqual(abs(found.to_go - ahead), found.to_go_margin)


class SdfStandardTest(unittest.TestCase):
    """Files made by hand from the description in ISO 25178-71 (field order from memory)."""

    def test_an_ascii_file_written_by_hand(self):
        text = "\r\n".join(
            [
                "aISO-1.0",
                "ManufacID   = ByHand",
                "CreateDate  = 010120260900",
                "ModDate     = 010120260900",
                "NumPoints   = 3",
                "NumProfiles = 2",
                "Xscale      = 5.0E-2",
                "Yscale      = 1.0E-1",
                "Zscale      = 1.0E-6",
                "Zresolution = 1.0E-6",
                "Compression = 0",
                "DataType    = 5",
                "CheckType   = 0",
                "*",
                "100 50 0",
                "-20 -30 -40",
                "*",
                "*",
                "",
            ]
        )
        found = read_survey(text.encode(), Hint(bed=Bed(200, 200)))
        self.assertEqual((found.columns, found.rows), (3, 2))
        np.testing.assert_allclose(found.survey.height, [0.1, 0.05, 0, -0.02, -0.03, -0.04], atol=1e-9)
        np.testing.assert_allclose(found.survey.x, [50, 100, 150] * 2, atol=1e-9)
        np.testing.assert_allclose(found.survey.y, [50] * 3 + [150] * 3, atol=1e-9)

    def test_a_binary_file_packed_by_hand(self):
        heights = np.array([[0.1, -0.05], [0.02, 0.0]])
        header = b"bISO-1.0" + b"ByHand".ljust(10) + b"010120260900" * 2
        header += struct.pack("<HHddddBBB", 2, 2, 0.1, 0.1, 1e-3, -1.0, 0, 7, 0)
        self.assertEqual(len(header), 81)
        data = header + heights.astype("<f8").tobytes()
        found = read_survey(data, Hint(bed=Bed(200, 200)))
        np.testing.assert_allclose(found.survey.height, heights.ravel(), atol=1e-9)

    def test_what_we_write_says_what_it_is(self):
        grid = Survey.from_grid([15, 110, 205], [15, 205], [[0.1, 0, -0.1], [0.05, 0, 0]])
        head = survey_sdf(grid).decode().split("*")[0]
        self.assertRegex(head, r"(?i)numpoints\s*=\s*3")
        self.assertRegex(head, r"(?i)numprofiles\s*=\s*2")
        step = float(
            next(line for line in head.splitlines() if line.lower().startswith("xscale")).split("=")[1]
        )
        self.assertAlmostEqual(step, 0.095)
        binary = survey_sdf(grid, binary=True)
        self.assertEqual(struct.unpack("<HH", binary[42:46]), (3, 2))


class TradeTest(unittest.TestCase):
    """Common practice: values without a source to name."""

    def test_ranges_of_a_probe(self):
        self.assertEqual((GOOD_RANGE, USABLE_RANGE), (0.02, 0.05))

    def test_table_of_surfaces(self):
        """A few corners of the table, typed in a second time."""
        rows = {
            ("smooth_pei", "PETG"): (70, 85, "release"),
            ("textured_pei", "PA"): (80, 100, "glue"),
            ("glass", "ABS"): (100, 110, "adhesive"),
            ("coated_glass", "TPU"): (40, 60, None),
            ("rubbery_sheet", "ABS"): (90, 105, None),
            ("low_temperature_sheet", "PLA"): (35, 50, "glue"),
            ("masking_tape", "PLA"): (0, 50, None),
            ("polyimide_film", "ABS"): (100, 110, "slurry"),
            ("laminate", "PA"): (70, 100, None),
        }
        for (surface, material), (low, high, need) in rows.items():
            pair = surfaces()[surface].pairs[material]
            self.assertEqual((pair.bed_low, pair.bed_high, pair.need), (low, high, need))
        self.assertEqual(len(surfaces()), 9)
        missing = {(s.key, m) for s in surfaces().values() for m in materials() if m not in s.pairs}
        self.assertEqual(len(missing), 20)
        # what a strong hold tears is on soft and cool surfaces only
        foamed = {key for key, m in missing if m == "Foamed PLA"}
        self.assertEqual(foamed, {"rubbery_sheet", "masking_tape", "polyimide_film", "laminate"})
        nozzles = {m.name: (m.nozzle_low, m.nozzle_high) for m in materials().values()}
        self.assertEqual(nozzles["PLA"], (195, 220))
        self.assertEqual(nozzles["PC"], (260, 290))
