"""Bead, offset and judgements against geometry, worked numbers and reference libraries."""

import math
import unittest
import warnings

import numpy as np
from scipy import stats
from shapely.geometry import LineString, Point, box
from shapely.ops import unary_union
from statsmodels.miscmodels.ordinal_model import OrderedModel
from statsmodels.regression.linear_model import WLS

from finchwort.core.first_layer import (
    MELTS,
    STEPS,
    Bead,
    Patch,
    calibrate_steps,
    filament_area,
    line_up,
    melt_flow,
    offset_from_patches,
    step_probabilities,
)
from finchwort.core.printers import Bed
from finchwort.formats.gcode import write_gcode
from finchwort.knowledge.dialect import print_commands
from tests.fixtures.gcode_reader import read
from tests.fixtures.prints import make, setting


def section(bead: Bead, gap: float, at: float = 0.0):
    """A bead's section as a shape: a line between two ends, made round."""
    laid = bead.at_gap(gap)
    radius, half = laid.height / 2, (laid.width - laid.height) / 2
    if half <= 1e-12:
        return Point(at, radius).buffer(radius, quad_segs=400)
    return LineString([(at - half, radius), (at + half, radius)]).buffer(radius, quad_segs=400)


class BeadGeometryTest(unittest.TestCase):
    """Plane geometry by shapely."""

    def test_area_width_and_height(self):
        for bead in (Bead(0.42, 0.2), Bead(0.6, 0.3), Bead(0.4, 0.1)):
            for gap in (0.5 * bead.height, bead.height, 1.1 * bead.height, 2 * bead.height):
                shape = section(bead, gap)
                self.assertAlmostEqual(shape.area, bead.area, delta=2e-6)
                left, low, right, high = shape.bounds
                laid = bead.at_gap(gap)
                self.assertAlmostEqual(right - left, laid.width, places=6)
                self.assertAlmostEqual(high - low, laid.height, places=6)

    def test_neighbours_overlap_or_part(self):
        bead = Bead(0.42, 0.2)
        for gap in (0.15, 0.2, 0.225, 0.24, 0.28, 0.33):
            one, other = section(bead, gap), section(bead, gap, bead.spacing)
            laid = bead.at_gap(gap)
            if laid.separation > 0:
                self.assertAlmostEqual(one.distance(other), laid.separation, places=5)
            else:
                self.assertGreater(one.intersection(other).area, 0)
                left, _, right, _ = one.intersection(other).bounds
                self.assertAlmostEqual(right - left, -laid.separation, places=5)

    def test_spacing_just_fills_the_layer(self):
        """What neighbours share equals what the rounded ends leave empty."""
        bead = Bead(0.42, 0.2)
        beads = [section(bead, 0.2, i * bead.spacing) for i in range(-3, 4)]
        window = box(0, 0, bead.spacing, 0.2)
        union = unary_union(beads).intersection(window).area
        total = sum(shape.intersection(window).area for shape in beads)
        self.assertAlmostEqual(total, window.area, delta=1e-5)
        self.assertAlmostEqual(total - union, window.area - union, delta=1e-5)

    def test_contact_is_the_flat_foot(self):
        bead = Bead(0.42, 0.2)
        foot = section(bead, 0.2).intersection(LineString([(-1, 1e-9), (1, 1e-9)])).length
        self.assertAlmostEqual(foot, bead.at_gap(0.2).contact_width, delta=2e-3)

    def test_worked_numbers(self):
        """Arithmetic: width 0.42, height 0.20."""
        bead = Bead(0.42, 0.2)
        self.assertAlmostEqual(bead.area, 0.0754, places=4)
        self.assertAlmostEqual(bead.spacing, 0.377, places=3)
        self.assertAlmostEqual(bead.parting_gap, 0.23, places=2)
        self.assertAlmostEqual(bead.free_diameter, 0.31, places=2)
        self.assertAlmostEqual(bead.at_gap(0.15).fill, 4 / 3, places=6)
        self.assertAlmostEqual(bead.free_diameter, 2 * math.sqrt(bead.area / math.pi))


class JudgementTest(unittest.TestCase):
    """Ordered probit by statsmodels (OrderedModel)."""

    def data(self):
        rng = np.random.default_rng(3)
        shift = rng.uniform(-0.15, 0.15, 800)
        near, far, scatter, best = 0.03, 0.075, 0.015, 0.02
        seen = shift - best + rng.normal(0, scatter, shift.size)
        # from far too close to far too far, as the shift rises
        step = np.searchsorted([-far, -near, near, far], seen)
        return shift, step, (near, far, scatter, best)

    def test_likelihood_is_that_of_an_ordered_probit(self):
        shift, step, (near, far, scatter, best) = self.data()
        model = OrderedModel(step, shift[:, None], distr="probit")
        cuts = (np.array([-far, -near, near, far]) + best) / scatter
        params = np.concatenate([[1 / scatter, cuts[0]], np.log(np.diff(cuts))])
        ours = step_probabilities(shift - best, (near, far), scatter, lapse=0.0, outright=0.0)
        self.assertEqual(ours.shape[1], len(STEPS))
        ours = ours[np.arange(step.size), 4 - step]
        np.testing.assert_allclose(np.log(np.maximum(ours, 1e-20)).sum(), model.loglike(params), rtol=1e-7)

    def test_the_fit_finds_the_same_middle(self):
        shift, step, (_, _, scatter, best) = self.data()
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            found = OrderedModel(step, shift[:, None], distr="probit").fit(
                method="bfgs", disp=False, maxiter=500
            )
        slope = found.params[0]
        cuts = found.model.transform_threshold_params(found.params[1:])[1:-1]
        self.assertAlmostEqual(cuts.mean() / slope, best, delta=0.003)
        self.assertAlmostEqual(1 / slope, scatter, delta=0.003)

    def test_lapses_are_a_mixture(self):
        plain = step_probabilities(np.array([0.0]), (0.03, 0.07), 1e-4, lapse=0.0, outright=0.0)[0]
        np.testing.assert_allclose(plain, [0, 0, 1, 0, 0], atol=1e-9)
        mixed = step_probabilities(np.array([0.0]), (0.03, 0.07), 1e-4, lapse=0.1, outright=0.0)[0]
        np.testing.assert_allclose(mixed, [0, 0.05, 0.9, 0.05, 0], atol=1e-9)


class PatchTest(unittest.TestCase):
    def test_plane_and_interval_against_weighted_least_squares(self):
        """statsmodels WLS with the caliper's variance as weights, on a plane: the bow that nobody measured only widens it."""
        rng = np.random.default_rng(5)
        bed = Bed(200, 180)
        patches = [
            Patch(float(x), float(y), 0.2, tuple(0.23 + 0.0003 * x + rng.normal(0, 0.02, n)))
            for (x, y), n in zip([(20, 20), (180, 25), (175, 160), (30, 150)], (3, 5, 4, 6), strict=True)
        ]
        found = offset_from_patches(patches, bed)
        means = [np.mean(p.thickness) - 0.2 for p in patches]
        weights = [len(p.thickness) / found.noise**2 for p in patches]
        design = [[p.x - 100, p.y - 90, 1.0] for p in patches]
        fit = WLS(means, design, weights=weights).fit(cov_type="fixed scale", cov_kwds={"scale": 1.0})
        self.assertAlmostEqual(found.closer, fit.params[2], delta=0.006)
        self.assertGreater(found.margin, 1.9 * fit.bse[2])
        # with a survey that shows no bow the patches are known as well as their plane
        flat = offset_from_patches(patches, bed, shape=lambda x, y: -0.0003 * (x - 100))
        self.assertLess(flat.margin, found.margin + 0.01)
        self.assertAlmostEqual(flat.closer, fit.params[2], delta=0.012)

    def test_one_patch_is_a_mean_with_students_t(self):
        values = (0.24, 0.26, 0.25)
        found = offset_from_patches([Patch(100, 100, 0.2, values)], Bed(200, 200))
        dof = 4 + 2
        sd = math.sqrt((4 * 0.02**2 + np.var(values) * 3) / dof)
        self.assertAlmostEqual(found.closer, 0.05)
        self.assertAlmostEqual(found.margin, stats.t.ppf(0.975, dof) * sd / math.sqrt(3), places=9)


class TestPrintTest(unittest.TestCase):
    """Read back by a reader that shares nothing with the writer."""

    KINDS = ("patches", "ladder", "discs")

    def programs(self, filament=1.75):
        for kind in self.KINDS:
            made = make(kind, setting(filament=filament))
            yield made, read(write_gcode(made, print_commands("open"), printer="Bittern"))

    def test_filament_section(self):
        """Circle of 1.75 mm: 2.405 mm² (plane geometry)."""
        self.assertAlmostEqual(filament_area(1.75), 2.405, places=3)

    def test_volume_is_section_times_length(self):
        """Within 0.5 %: what is pushed in equals section of the bead times length of the lines."""
        for filament in (1.75, 2.85):
            for made, program in self.programs(filament):
                laid = [m for m in program.moves if m.filament > 0 and m.start[:2] != m.end[:2]]
                pushed = sum(m.filament for m in laid) * math.pi * filament**2 / 4
                self.assertAlmostEqual(pushed / made.volume, 1, delta=0.005)
                patches = [m for m in laid if m.start[1] > 5]
                length = sum(m.length for m in patches)
                area = (0.42 - 0.2) * 0.2 + math.pi * 0.2**2 / 4
                pushed = sum(m.filament for m in patches) * math.pi * filament**2 / 4
                self.assertAlmostEqual(pushed / (area * length), 1, delta=0.005)

    def test_lines_cover_the_patches_by_shapely(self):
        """Lines as wide as the bead leave no gap in a patch, and nothing lies outside it."""
        for made, program in self.programs():
            laid = [
                m for m in program.moves if m.filament > 0 and m.start[:2] != m.end[:2] and m.start[1] > 5
            ]
            for spot in made.spots:
                near = [
                    m
                    for m in laid
                    if max(abs(m.start[0] - spot.x), abs(m.start[1] - spot.y)) <= spot.size / 2
                ]
                line = unary_union([LineString([m.start[:2], m.end[:2]]) for m in near])
                sheet = line.buffer(0.21)
                if spot.round:
                    wanted = Point(spot.x, spot.y).buffer(spot.size / 2)
                else:
                    half = spot.size / 2
                    wanted = box(spot.x - half, spot.y - half, spot.x + half, spot.y + half)
                self.assertGreater(sheet.intersection(wanted).area / wanted.area, 0.97)
                self.assertLess(sheet.difference(wanted.buffer(0.02)).area, 0.02 * wanted.area)
                if made.kind == "ladder":
                    break

    def test_words_of_the_standard(self):
        """ISO 6983-1 (from memory): a word is a letter and a number; G00 and G01 move, G90 counts from the zero,
        M00 stops the programme; F is the feed, X, Y and Z are dimensions."""
        text = write_gcode(make("paper_walk", setting()), print_commands("open"), printer="Bittern")
        program = read(text)
        names = {name for name, _ in program.commands}
        self.assertLessEqual({"G0", "G1", "G90", "M0"}, names)
        for name, values in program.commands:
            if name in ("G0", "G1"):
                self.assertLessEqual(set(values), set("GXYZFE"))


class SumsTest(unittest.TestCase):
    """Little sums of the trade; the melting limits are handbook values from memory."""

    def test_steps_are_proportional(self):
        """New steps = old steps x asked / measured, with 100 mm asked (follows from arithmetic)."""
        self.assertAlmostEqual(calibrate_steps(100, 100, 95).new, 105.263, places=3)
        self.assertAlmostEqual(calibrate_steps(415, 100, 104).new, 399.038, places=3)

    def test_flow_and_melting(self):
        """Volume per second = line width x height x speed; 8 to 12 mm³/s of PLA (from memory)."""
        self.assertAlmostEqual(melt_flow(0.4, 0.2, 100).flow, 8.0)
        self.assertEqual(MELTS, (8.0, 12.0))

    def test_spacing_of_lines(self):
        """For 0.42 x 0.20 mm: area 0.0754 mm², spacing 0.377 mm (follows from geometry)."""
        found = line_up(0.42, 0.2)
        self.assertAlmostEqual(found.area, 0.0754, places=4)
        self.assertAlmostEqual(found.spacing, 0.377, places=3)
