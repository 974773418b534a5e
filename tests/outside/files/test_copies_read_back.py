"""Copies of files read back by the tests' own reader: bent, moved, and with one thing changed.

Sources: ISO 6983-1 (words, G0 to G3, G20, G21, G90 to G92); scipy for the heights of the bed, shapely for moved lines;
the checksum of a line, exclusive or of its bytes, is common practice.
"""

import io
import math
import re
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import RegularGridInterpolator
from shapely import affinity
from shapely.geometry import MultiLineString

from finchwort.core.base.errors import CoreError
from finchwort.core.files import (
    ROLES,
    Bend,
    Change,
    CopyChange,
    Limits,
    LineRole,
    Shift,
    cut_in_pieces,
    plan_bend,
)
from finchwort.core.printers import Bed, KeepOff
from finchwort.core.surveys import Relief
from finchwort.formats.print_file import bent_copy, changed_copy, moved_copy, text_of
from finchwort.formats.print_file.bent import Bender
from finchwort.formats.print_file.copying import Copy
from tests.fixtures.plain_reader import read_plain
from tests.fixtures.print_files import read_text
from tests.fixtures.slicer import Manner, Thing, disc, rectangle, slice_things

SIDE = 220.0
PURGE = ROLES.index(LineRole.PURGE)
NEAR = 0.005
"""What a bent line may be off its gap, beyond what the survey does not know, mm."""
THINGS = [Thing(rectangle(60, 60, 40, 30), 0.6, 3), Thing(disc(170, 150, 30, 48), 0.4)]
MANNERS = {
    "counted through": Manner(),
    "from move to move": Manner(relative=True),
    "all moves relative": Manner(relative_moves=True),
    "CR LF": Manner(ending="\r\n"),
    "inches": Manner(inches=True),
    "one after the other": Manner(one_by_one=True, skirt=True),
    "lifted after homing": Manner(start=["M109 S{nozzle}", "G28", "G1 Z5 F600"]),
}


def relief_of(height, many=41):
    xs = np.linspace(0, SIDE, many)
    return Relief(xs, xs, height(xs[None, :], xs[:, None]))


def dome(x, y, size=0.25):
    u, v = (x - 110) / 110, (y - 110) / 110
    return 0.1 - size * (u**2 + v**2) + 0.06 * u * v + 0.02 * np.sin(x / 21)


def source(text):
    return lambda: text_of(io.BytesIO(text.encode()))


def joined(copy, head=()):
    text = b"".join(copy.text(head)).decode()
    copy.close()
    return text


class World:
    """A bed as scipy sees it, and what is to be added over it."""

    def __init__(self, relief, full, top):
        self.look = RegularGridInterpolator((relief.ys, relief.xs), relief.heights)
        self.zero = float(self.look([[SIDE / 2, SIDE / 2]])[0])
        self.full, self.top = full, top

    def bed(self, x, y):
        return float(self.look([[min(max(y, 0), SIDE), min(max(x, 0), SIDE)]])[0]) - self.zero

    def added(self, x, y, z):
        share = min(max((self.top - z) / (self.top - self.full), 0.0), 1.0)
        return self.bed(x, y) * share if share else 0.0


def same_path(case, plain, bent, world, off=NEAR):
    """The bent path is the plain one, cut, with its height changed as the bed asks; no filament is lost."""
    at, used, near = 0, 0.0, off
    plain_used = 0.0
    for move in plain.moves:
        # places are written to a thousandth, which matters on steep ways
        off = near + 1e-3 * abs(move.end[2] - move.start[2]) / max(move.way, 1e-3)
        plain_used += move.filament
        if move.way < 1e-6 and abs(move.end[2] - move.start[2]) < 1e-6 and not move.filament:
            continue
        arrived = False
        while not arrived:
            case.assertLess(at, len(bent.moves), f"line {move.line} is missing")
            piece = bent.moves[at]
            at += 1
            used += piece.filament
            x, y, z = piece.end
            share = along(move, x, y)
            nominal = move.start[2] + share * (move.end[2] - move.start[2])
            if abs(move.end[2] - move.start[2]) > 1e-9 and move.way < 1e-6:
                nominal = move.end[2]
            wanted = nominal + world.added(x, y, nominal)
            case.assertLess(abs(z - wanted), off, (move.line, piece.line, piece.end, wanted))
            arrived = math.dist((x, y), move.end[:2]) < 2e-3 and share > 1 - 1e-4
            # a piece is straight: its middle strays no further
            middle = [(a + b) / 2 for a, b in zip(piece.start, piece.end, strict=True)]
            begun = along(move, *piece.start[:2]) if piece.way > 1e-6 else share
            low = move.start[2] + (begun + share) / 2 * (move.end[2] - move.start[2])
            joins = abs(piece.start[2] - low - world.added(*piece.start[:2], low)) > 0.02
            if piece.way > 1e-6 and not joins:
                case.assertLess(
                    abs(middle[2] - low - world.added(*middle[:2], low)), off, (move.line, piece.line)
                )
        case.assertAlmostEqual(used, plain_used, delta=2e-4)
    case.assertEqual(at, len(bent.moves))


def along(move, x, y):
    """How far along a move a place lies, from 0 to 1; the place lies on it."""
    points = np.array(move.points)
    steps = np.hypot(*np.diff(points, axis=0).T)
    if steps.sum() < 1e-6:
        return 1.0
    begin, way = points[:-1], np.diff(points, axis=0)
    t = np.clip(((np.array([x, y]) - begin) * way).sum(axis=1) / np.maximum(steps**2, 1e-18), 0, 1)
    far = np.hypot(*(begin + t[:, None] * way - [x, y]).T)
    assert far.min() < 0.02, (move, x, y, far.min())
    # of a closed arc the furthest of the places that are as near
    best = int(np.flatnonzero(far < far.min() + 1e-3)[-1])
    return float((steps[:best].sum() + t[best] * steps[best]) / steps.sum())


class BentTest(unittest.TestCase):
    def test_every_point_of_the_first_layer_at_its_gap_in_every_manner(self):
        relief = relief_of(dome)
        for name, manner in MANNERS.items():
            with self.subTest(name):
                text, _ = slice_things(THINGS, manner)
                found = read_text(text)
                plan = plan_bend(found, cut_in_pieces(found.layer), relief)
                copy, bender = bent_copy(source(text), found, plan.bend, Limits(0.05))
                bent = read_plain(joined(copy))
                plain = read_plain(text)
                world = World(relief, found.layer.height, plan.bend.top)
                lines = set(found.layer.line.tolist())
                first = [move for move in bent.laid if move.start[2] < found.layer.height + 0.19]
                self.assertGreater(len(first), len(lines))
                levels = 0
                for move in first:
                    for t in (0.0, 0.3, 0.5, 1.0):
                        x, y, z = (a + t * (b - a) for a, b in zip(move.start, move.end, strict=True))
                        gap = z - world.bed(x, y)
                        if gap < found.layer.height + 0.1:
                            levels += 1
                            self.assertLess(abs(gap - found.layer.height), NEAR)
                self.assertGreater(levels, 4 * len(lines))
                self.assertLess(abs(bent.filament / plain.filament - 1), 0.002)
                self.assertGreater(bender.least, found.layer.height - NEAR)

    def test_every_line_outside_the_bent_layers_is_unchanged(self):
        relief = relief_of(lambda x, y: dome(x, y, 0.05))
        text, _ = slice_things([Thing(rectangle(60, 60, 40, 30), 5.0)], Manner())
        found = read_text(text)
        plan = plan_bend(found, cut_in_pieces(found.layer), relief)
        copy, _ = bent_copy(source(text), found, plan.bend, Limits(0.05))
        lines, bent = text.splitlines(), joined(copy).splitlines()
        low = {m.line for m in read_plain(text).moves if min(m.start[2], m.end[2]) < plan.bend.top}
        # a line that leads nowhere but names a height is told the bent one
        kept = [
            line for number, line in enumerate(lines, 1) if number not in low and not line.startswith("G0")
        ]
        self.assertGreater(len(kept), 500)
        # in their order, and whole from the first high layer on
        rest = iter(bent)
        self.assertTrue(all(line in rest for line in kept))
        tail = len(lines) - max(low)
        self.assertEqual(bent[-tail:], lines[-tail:])

    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 10**9))
    def test_random_programmes(self, seed):
        text = programme(np.random.default_rng(seed))
        bend = Bend(relief_of(dome, 23), float(dome(110.0, 110.0)), 0.2, 3.0)
        world = World(bend.relief, bend.full, bend.top)
        world.zero = bend.zero
        copy = Copy()
        copy.write(source(text)(), Bender(bend, Limits(-10.0, 1e9)))
        same_path(self, read_plain(text), read_plain(joined(copy)), world)

    def test_arcs_follow_the_bed_too(self):
        relief = relief_of(dome)
        for arcs in ("G2 X50 Y110 I-60 J0 E9", "G3 X170 Y110 I-60 J0 E20", "G2 X110 Y50 R60 E5"):
            text = f"G28\nG1 Z5 F600\nM83\nG1 X170 Y110 F6000\nG1 Z0.2\n{arcs} F1200 ; wall\nG1 Z9\n"
            bend = Bend(relief, float(dome(110.0, 110.0)), 0.2, 4.0)
            world = World(relief, 0.2, 4.0)
            world.zero = bend.zero
            copy = Copy()
            copy.write(source(text)(), Bender(bend, Limits(0.05)))
            bent = joined(copy)
            same_path(self, read_plain(text), read_plain(bent), world)
            self.assertNotRegex(bent, r"G[23] ")
            self.assertGreater(bent.count("; wall"), 10)

    def test_words_without_spaces_keep_their_speed(self):
        text = "G28\nG1Z5F600\nM83\nG1X20Y20F6000\nG1Z0.2\nG1X200Y200E9F1200\nG1Z9\n"
        copy = Copy()
        bend = Bend(relief_of(dome), float(dome(110.0, 110.0)), 0.2, 4.0)
        copy.write(source(text)(), Bender(bend, Limits(0.05)))
        laid = read_plain(joined(copy)).laid
        self.assertGreater(len(laid), 10)
        self.assertEqual({move.speed for move in laid}, {20.0})

    def test_the_end_of_the_file_stays_as_it_is(self):
        text = "G28\nG1 Z5 F600\nG1 X60 Y60 F6000\nG1 Z0.2\nG1 X160 Y60 E4\nG1 Z20\nM84"
        copy = Copy()
        copy.write(source(text)(), Bender(Bend(relief_of(dome), 0.1, 0.2, 4.0), Limits(0.05)))
        self.assertTrue(joined(copy).endswith("G1 Z20\nM84"))

    def test_what_cannot_be_bent_is_refused_and_nothing_is_given(self):
        start = "G28\nG1 Z5 F600\nG1 X20 Y20 F6000\nG1 Z0.2\n"
        bend = Bend(relief_of(dome), float(dome(110.0, 110.0)), 0.2, 4.0)
        for text, code in (
            (start + "G92 Z0\nG1 X50 E1\n", "files.copy_zero_moved"),
            (start + "G1 X50 G1 E1\n", "files.copy_crowded"),
            (start + "G1 X200 (aside) Y60 E1\n", "files.copy_crowded"),
            (start + "G1 X2e+2 E1\n", "files.copy_crowded"),
            ("N1 G28\nN2 G1 Z5 F600\nN3 G1 X20 Y20\nN4 G1 Z0.2\nN5 G1 X200 Y200 E1\n", "files.copy_numbered"),
            (start + "G1 Z0.01\nG1 X80 E1\n", "files.bend_touches"),
            (start.replace("\n", "\r"), "files.copy_returns"),
        ):
            with self.subTest(code), self.assertRaises(CoreError) as caught:
                copy = Copy()
                self.addCleanup(copy.close)
                copy.write(source(text)(), Bender(bend, Limits(0.05)))
            self.assertEqual(caught.exception.code, code)
        steep = Bend(relief_of(lambda x, y: 0.4 * (x > 110) + 0 * y), 0.0, 0.2, 9.0)
        with self.assertRaises(CoreError) as caught:
            copy = Copy()
            self.addCleanup(copy.close)
            copy.write(source(start + "G1 Z1\nG1 X200 F30000\n")(), Bender(steep, Limits(0.05)))
        self.assertEqual(caught.exception.code, "files.bend_fast")


def programme(rng):
    """A random programme within a bed, its moves low and high, in all ways of counting."""
    lines, at = ["G28", "G1 Z5 F600", "G1 X60 Y60 F6000"], [60.0, 60.0, 5.0]
    relative = False
    for _ in range(int(rng.integers(5, 40))):
        kind = rng.integers(0, 12)
        if kind == 0:
            relative = not relative
            lines.append("G91" if relative else "G90")
        elif kind == 1:
            lines.append("G92 E0")
        elif kind == 2:
            lines.append(
                str(rng.choice(["M82", "M83", "; a remark", "M106 S3", "G1 E2 F1800", "", "G1 F900"]))
            )
        elif kind == 3 and not relative:
            radius, turn = rng.uniform(2, 30), rng.uniform(0, 2 * math.pi)
            cx, cy = (min(max(v, 40), 180) for v in at[:2])
            x, y = cx + radius * math.cos(turn), cy + radius * math.sin(turn)
            lines.append(f"G1 X{x:.3f} Y{y:.3f}")
            x, y = round(x, 3), round(y, 3)
            end = cx + radius * math.cos(turn + 2), cy + radius * math.sin(turn + 2)
            way = rng.choice(["G2", "G3"])
            lines.append(
                f"{way} X{end[0]:.3f} Y{end[1]:.3f} I{cx - x:.5f} J{cy - y:.5f} E{rng.uniform(0, 3):.4f}"
            )
            at[:2] = [round(v, 3) for v in end]
        else:
            new = [*rng.uniform(5, 215, 2).round(3), float(rng.choice([0.2, 0.2, 0.4, 1.0, 2.7, 3.0, 6.0]))]
            words = []
            for i, axis in enumerate("XYZ"):
                if rng.random() < (0.75, 0.75, 0.35)[i]:
                    words.append(f"{axis}{new[i] - at[i] if relative else new[i]:.3f}")
                    at[i] = new[i]
            if rng.random() < 0.6:
                words.append(f"E{rng.uniform(-0.5, 3):.4f}")
            if rng.random() < 0.3:
                words.append(f"F{rng.integers(600, 9000)}")
            tail = str(rng.choice(["", "", " ; wall", " (aside)"]))
            if words:
                lines.append(f"{rng.choice(['G0', 'G1'])} {' '.join(words)}{tail}")
    return "\n".join(lines) + "\n"


def first_lines(plain, z):
    """The first layer of what was read, behind the purge line."""
    return MultiLineString([m.points for m in plain.laid if abs(m.end[2] - z) < 1e-3 and m.start[1] > 12])


class MovedTest(unittest.TestCase):
    def test_the_print_is_moved_and_what_is_around_it_is_not(self):
        bed = Bed(SIDE, SIDE)
        for name, manner in MANNERS.items():
            if manner.relative_moves:
                continue
            text, _ = slice_things(THINGS, manner)
            found = read_text(text)
            plain = read_plain(text)
            for dx, dy, turn in ((10.0, -12.0, 0), (3.25, 4.5, 1), (-2.0, 0.0, 2), (0.0, 0.0, 3)):
                with self.subTest(name, turn=turn):
                    shift = Shift.of(found.layer, dx, dy, turn)
                    moved = read_plain(joined(moved_copy(source(text), found, shift, bed)))
                    wanted = affinity.rotate(first_lines(plain, found.layer.height), 90 * turn, shift.middle)
                    wanted = affinity.translate(wanted, dx, dy)
                    got = first_lines(moved, found.layer.height)
                    self.assertLess(wanted.hausdorff_distance(got), 2e-3)
                    self.assertEqual(len(moved.moves), len(plain.moves))
                    self.assertAlmostEqual(moved.filament, plain.filament, delta=1e-6)
                    for a, b in zip(plain.moves, moved.moves, strict=True):
                        self.assertAlmostEqual(a.end[2], b.end[2], delta=1e-6)
                        self.assertAlmostEqual(a.way, b.way, delta=500 if a.line < 30 else 5e-3)
                    purge = [m for m in plain.laid if m.end[1] < 5]
                    self.assertEqual(purge, [m for m in moved.laid if m.end[1] < 5][: len(purge)])

    def test_arcs_are_turned_with_it(self):
        body = "G1 X60 Y60\nG3 X60 Y60 I15 J0 E5\nG2 X90 Y60 R15 E3\nG1 X60 E2\n"
        text = f"M83\nG28\nG1 Z5 F600\nG1 X10 Y10 Z0.2\nG1 X80 E9 F1200\nG1 X58 Y58\n{body}G1 Z0.4\n{body}G1 Z9\n"
        found = read_text(text)
        shift = Shift.of(found.layer, 5.0, 7.0, 1)
        moved = read_plain(joined(moved_copy(source(text), found, shift, Bed(SIDE, SIDE))))
        wanted = affinity.rotate(first_lines(read_plain(text), 0.2), 90, shift.middle)
        self.assertLess(
            affinity.translate(wanted, 5.0, 7.0).hausdorff_distance(first_lines(moved, 0.2)), 2e-3
        )

    def test_checksums_of_moved_lines_are_right(self):
        text, _ = slice_things(THINGS[:1], Manner(numbered=True))
        found = read_text(text)
        moved = joined(moved_copy(source(text), found, Shift.of(found.layer, 10, 0), Bed(SIDE, SIDE)))
        for line in moved.splitlines():
            body, _, check = line.rpartition("*")
            total = 0
            for byte in body.encode():
                total ^= byte
            self.assertEqual(total, int(check), line)

    def test_what_may_not_be_moved_is_refused(self):
        body = "G1 X60 Y60 F6000\nG1 X90 E2 F1200\nG1 Y90 E2\nG1 X60 E2\nG1 Y60 E2\n"
        start = "G90\nM83\nG28\nG1 Z5 F600\nG1 X10 Y10 Z0.2\n; purge line\nG1 X80 E9\n; outer wall\n"
        whole = f"{start}{body}G1 Z0.4\n{body}"
        clip = Bed(SIDE, SIDE, keep_off=())
        for text, shift, code in (
            (whole, (150, 0), "files.move_outside"),
            (f"{start}{body}G0 X0 Y210\nG1 Z0.4\n{body}", (5, 0), "files.move_parks"),
            (f"{start}{body}G28 X\nG1 Z0.4\n{body}", (5, 0), "files.move_home"),
            (f"{start}{body}G92 X0\nG1 X10 Z0.4 E1\n", (5, 0), "files.move_zero"),
        ):
            with self.subTest(code):
                found = read_text(text)
                with self.assertRaises(CoreError) as caught:
                    moved_copy(source(text), found, Shift.of(found.layer, *shift), clip).close()
                self.assertEqual(caught.exception.code, code)

    def test_a_print_that_begins_where_the_purge_line_ends_or_in_steps_is_not_moved(self):
        text, _ = slice_things(THINGS[:1], Manner())
        lines = text.splitlines()
        at = next(i for i, line in enumerate(lines) if re.match(r"G0 X(?!10\.|70\.)", line))
        x, y = (float(word[1:]) for word in lines[at].split()[1:3])
        steps = ["G91", f"G0 X{x - 70:.3f} Y{y - 4:.3f} F9000", "G90"]
        for new, code in ((steps, "files.move_relative"), ([], "files.move_runs_on")):
            changed = "\n".join(lines[:at] + new + lines[at + 1 :]) + "\n"
            found = read_text(changed)
            if not new:
                # remarks may name the purge line though no way parts it from the print
                role = np.where(found.layer.line < at, PURGE, found.layer.role)
                found = replace(found, layer=replace(found.layer, role=role))
            with self.subTest(code), self.assertRaises(CoreError) as caught:
                moved_copy(source(changed), found, Shift.of(found.layer, 5, 0), Bed(SIDE, SIDE)).close()
            self.assertEqual(caught.exception.code, code)

    def test_clips_are_kept_clear_of(self):
        text, _ = slice_things(THINGS[:1], Manner())
        found = read_text(text)
        clip = KeepOff("left clip", 0.0, 90.0, 12.0, 120.0, 6.0)
        bed = Bed(SIDE, SIDE, keep_off=(clip,))
        moved_copy(source(text), found, Shift.of(found.layer, 5, 0), bed).close()
        with self.assertRaises(CoreError) as caught:
            moved_copy(source(text), found, Shift.of(found.layer, -25, 45), bed).close()
        self.assertEqual(caught.exception.code, "files.move_clip")


class ChangedTest(unittest.TestCase):
    def lines(self, text, kind, value, now):
        found = read_text(text)
        return joined(changed_copy(source(text), found, Change(kind, value), now))

    def test_only_the_speed_of_the_first_layer_is_otherwise(self):
        for name, manner in MANNERS.items():
            with self.subTest(name):
                text, _ = slice_things(THINGS, manner)
                found = read_text(text)
                mine = set(found.layer.line[found.layer.role != PURGE].tolist())
                plain = read_plain(text)
                changed = read_plain(self.lines(text, CopyChange.SPEED, 15.0, 25.0))
                for a, b in zip(plain.moves, changed.moves, strict=True):
                    self.assertEqual((a.start, a.end, a.filament), (b.start, b.end, b.filament))
                    wanted = a.speed * 0.6 if a.line in mine else a.speed
                    self.assertAlmostEqual(b.speed, wanted, delta=1e-3 * wanted, msg=a.line)

    def test_a_speed_that_ways_share_stays_theirs(self):
        text = (
            "M83\nG28\nG1 Z0.2 F600\nG1 X5 Y5\nG1 X80 E4 F1200\nG1 X40 Y40 F3000\nG1 X80 E3\nG1 Y80 E3\nG1 X40 Y80\n"
            "G1 Y40 E3\nG1 Z0.4\nG1 X80 E3\nG1 Y80 E3\n"
        )
        found = read_text(text)
        role = found.layer.role
        changed = self.lines(text, CopyChange.SPEED, 100.0, 50.0)
        speeds = [m.speed for m in read_plain(changed).moves]
        plain = [m.speed for m in read_plain(text).moves]
        mine = {int(line) for line, r in zip(found.layer.line, role, strict=True) if r != PURGE}
        lines = [m.line for m in read_plain(text).moves]
        for line, a, b in zip(lines, plain, speeds, strict=True):
            self.assertEqual(b, 2 * a if line in mine else a, line)

    def test_heat_in_all_its_commands_and_nothing_else(self):
        text = slice_things(THINGS[:1], Manner())[0].replace("G28", "M104 S150\nM104 S205\nG28")
        text += "M104 S190\nM104 S205\n"
        changed = self.lines(text, CopyChange.NOZZLE, 212.5, 205.0)
        pairs = [(a, b) for a, b in zip(text.splitlines(), changed.splitlines(), strict=True) if a != b]
        self.assertEqual(pairs, [("M109 S205.0", "M109 S212.5"), ("M104 S205", "M104 S212.5")])
        named = text.replace("M109 S205.0", "BEGIN_ALL BED_TEMP=60 NOZZLE_TEMP=205")
        self.assertIn("BED_TEMP=60 NOZZLE_TEMP=212.5\n", self.lines(named, CopyChange.NOZZLE, 212.5, 205.0))

    def test_fan_is_set_where_the_first_layer_is_laid_and_set_back(self):
        for name in ("counted through", "one after the other", "CR LF"):
            with self.subTest(name):
                text, _ = slice_things(THINGS, MANNERS[name])
                found = read_text(text)
                changed = self.lines(text, CopyChange.FAN, 40.0, 0.0)
                mine = set(found.layer.line[found.layer.role != PURGE].tolist())
                fan, number, seen = 0, 0, 0
                own = fan_by_line(text)
                originals = text.splitlines()
                for line in changed.splitlines():
                    fan = fan_after(fan, line)
                    if number < len(originals) and line == originals[number]:
                        number += 1
                        if number in mine:
                            seen += 1
                            self.assertEqual(fan, 102)
                        elif number > max(mine) and line.startswith("G1"):
                            self.assertEqual(fan, own[number - 1])
                self.assertEqual((number, seen), (len(originals), len(mine)))

    def test_a_machine_that_counts_its_fan_to_one_is_told_so(self):
        text = slice_things(THINGS[:1], Manner())[0].replace("M107", "M106 S0.0").replace("S255", "S0.75")
        changed = self.lines(text, CopyChange.FAN, 40.0, 0.0)
        extra = [line for line in changed.splitlines() if line not in set(text.splitlines())]
        self.assertEqual(extra, ["M106 S0.400"])

    def test_a_trim_moves_every_layer_by_one_step(self):
        for step in (0.02, -0.05):
            text, _ = slice_things(THINGS[:1], Manner())
            changed = self.lines(text, CopyChange.OFFSET, step, 0.0)
            extra = [line for line in changed.splitlines() if line not in set(text.splitlines())]
            self.assertEqual([line.split()[0] for line in extra], ["G92", "G1"])
            found = read_text(text)
            begun = int(found.layer.line[found.layer.role != PURGE].min())
            plain = [m for m in read_plain(text).laid if m.line >= begun]
            laid = [m for m in read_plain(changed).laid if m.line >= begun]
            self.assertEqual(len(plain), len(laid))
            for a, b in zip(plain, laid, strict=True):
                self.assertAlmostEqual(b.end[2] - a.end[2], step, delta=1e-6)


def fan_after(fan, line):
    if line.startswith("M107"):
        return 0
    return int(line.split("S")[1]) if line.startswith("M106") else fan


def fan_by_line(text):
    found, fan = [], 0
    for line in text.splitlines():
        fan = fan_after(fan, line)
        found.append(fan)
    return found


if __name__ == "__main__":
    unittest.main()
