"""Whatever the manner in which a bed is written down, it is read as the same bed.

A generator writes one bed in the manners of people and machines: tables with remarks, running numbers and units, a sentence
for each touch, matrices with numbered rows and columns.  It shares nothing with the reader.
"""

import random
import unittest

import numpy as np

from finchwort.core.printers import Bed
from finchwort.formats import Hint, read_survey

BED = Bed(220, 220)
SEEDS = 400
REMARKS = ("ok", "", "a bit rough", "third try, paper bent", "see photo", "-", "again 2x")


def heights(rng, n):
    """Heights to the hundredth, none alike, as a probe or a dial tells them."""
    return [round(rng.uniform(-0.45, 0.45), 2) for _ in range(n)]


def places(rng):
    """Three to nine places, spread over the bed."""
    xs, ys = sorted(rng.sample(range(12, 208), 3)), sorted(rng.sample(range(12, 208), 3))
    while min(np.diff(xs).min(), np.diff(ys).min(), 60) < 30:
        xs, ys = sorted(rng.sample(range(12, 208), 3)), sorted(rng.sample(range(12, 208), 3))
    found = [(x, y) for y in ys for x in xs]
    rng.shuffle(found)
    return found[: rng.randint(5, 9)]


def number(rng, value, comma=False, digits=2, minus=True):
    text = f"{value:.{digits}f}"
    if minus and rng.random() < 0.3:
        text = text.replace("-", "−")
    if value > 0 and rng.random() < 0.3:
        text = "+" + text
    return text.replace(".", ",") if comma else text


def table(rng, points, values):
    """A table with words in it: header, units, remark column, running number, any separator."""
    separator = rng.choice([";", "\t", " | ", ","])
    comma = separator != "," and rng.random() < 0.5
    gap, micro = rng.random() < 0.3, rng.random() < 0.3
    unit = rng.choice([" [µm]", " (um)"]) if micro else rng.choice(["", " [mm]", " (mm)"])
    x, y = rng.choice([("x", "y"), ("X", "Y"), ("x [mm]", "y [mm]"), ("X pos", "Y pos"), ("Pos X", "Pos Y")])
    name = "Gap" if gap else rng.choice(["Height", "z", "Reading", "height", "Value", "Deviation"])
    columns = [(x, lambda i: str(points[i][0])), (y, lambda i: str(points[i][1]))]

    def value(i):
        v = -values[i] if gap else values[i]
        return number(rng, 1000 * v, comma, 0) if micro else number(rng, v, comma)

    columns.append((name + unit, value))
    rng.shuffle(columns)
    if rng.random() < 0.6:
        columns.insert(0, (rng.choice(["No.", "#", "Point"]), lambda i: str(i + 1)))
    if rng.random() < 0.6:
        word = rng.choice(["Remark", "Note", "who"])
        columns.append((word, lambda _: rng.choice(REMARKS).replace(separator.strip() or "\t", " ")))
    if rng.random() < 0.3:
        columns.insert(
            rng.randint(0, len(columns)), ("Place", lambda _: rng.choice(["front left", "middle", "back"]))
        )
    lines = [separator.join(head for head, _ in columns)]
    lines += [separator.join(cell(i) for _, cell in columns) for i in range(len(points))]
    if rng.random() < 0.4:
        lines.insert(0, rng.choice(["Bed of the attic printer, hot", "Measured on Tuesday"]))
    if separator == " | " and rng.random() < 0.5:
        lines = [f"| {line} |" for line in lines]
    return "\n".join(lines)


def bare_table(rng, points, values):
    """Columns without a header: a running number, places, heights, and words."""
    separator = rng.choice([";", "\t"])
    comma = rng.random() < 0.5
    begin = rng.choice([0, 1])
    rows = [
        [str(i + begin), str(x), str(y), number(rng, v, comma)]
        for i, ((x, y), v) in enumerate(zip(points, values, strict=True))
    ]
    if rng.random() < 0.5:
        rows = [[*row, rng.choice(["ok", "rough", "fine"])] for row in rows]
    return "\n".join(separator.join(row) for row in rows)


def sentences(rng, points, values):
    """A sentence for each touch, place and height in any order, after time stamps and among chatter."""
    manner = rng.choice(
        [
            lambda x, y, v: f"Touched at x {x}, y {y}: height {number(rng, v)} mm",
            lambda x, y, v: f"y={y} x={x} gave z = {number(rng, v)}",
            lambda x, y, v: f"{abs(v):.2f} mm {'high' if v >= 0 else 'low'} at X{x} Y{y}",
            lambda x, y, v: f"at ({x}; {y}) the reading was {number(rng, v)} mm, looks fine",
            lambda x, y, v: f"Z:{number(rng, v)} measured, probe stood over X:{x}.0 and Y:{y}.0",
            lambda x, y, v: f"height of {number(rng, v, comma=True)} mm where x is {x} and y is {y}",
            lambda x, y, v: f"gap {number(rng, -v)} mm at x: {x}, y: {y}",
            lambda x, y, v: f"point at y {y} / x {x} is {number(rng, 1000 * v, digits=0)} µm",
        ]
    )
    stamp = rng.choice(["", "12:%02d ", "[09:15:%02d] ", "2026-11-26 10:%02d:07 ", "Recv: "])
    lines = []
    for i, ((x, y), v) in enumerate(zip(points, values, strict=True)):
        lines.append((stamp % i if "%" in stamp else stamp) + manner(x, y, v))
        if rng.random() < 0.2:
            lines.append(
                (stamp % i if "%" in stamp else stamp)
                + rng.choice(["busy: processing", "ok", "T:60.1 /60.0", "moving on"])
            )
    return "\n".join(lines)


def matrix(rng, values):
    """A matrix with numbers at rows and columns, bars or brackets, counted upwards or downwards.

    ``values`` has the front row first; rows are numbered from the front.
    """
    rows, columns = values.shape
    down, begin = rng.random() < 0.5, rng.choice([0, 1])
    comma, after = rng.random() < 0.3, rng.choice(["", " |", "|", ":", " |"])
    order = range(rows - 1, -1, -1) if down else range(rows)
    count = range(columns)
    header = "      " + "      ".join(str(c + begin) for c in count)
    body = []
    for r in order:
        cells = [number(rng, v, comma, 3) for v in values[r]]
        if after and rng.random() < 2:
            between = rng.choice(["  ", " | "]) if after.strip() == "|" else "  "
        else:
            between = "  "
        body.append(f"{r + begin}{after}  " + between.join(cells))
    place = rng.choice(["above", "below", "none"]) if after else rng.choice(["above", "below"])
    lines = [header, *body] if place == "above" else [*body, header] if place == "below" else body
    chatter = rng.choice([[], ["Bed topography:"], ["Recv: mesh follows", ""]])
    return "\n".join([*chatter, *lines, *(["ok"] if rng.random() < 0.5 else [])])


class MannersTest(unittest.TestCase):
    def same(self, text, points, values, seed):
        try:
            result = read_survey(text, Hint(bed=BED))
        except Exception as error:
            raise AssertionError(f"{seed}: {error}\n{text}") from error
        got = {
            (float(x), float(y)): round(float(z), 4)
            for x, y, z in zip(result.survey.x, result.survey.y, result.survey.height, strict=True)
        }
        wanted = {(float(x), float(y)): v for (x, y), v in zip(points, values, strict=True)}
        self.assertEqual(got, wanted, f"{seed}: {result.assumptions}\n{text}")

    def check(self, manner, first):
        for seed in range(first, first + SEEDS):
            rng = random.Random(seed)
            points = places(rng)
            values = heights(rng, len(points))
            self.same(manner(rng, points, values), points, values, seed)

    def test_tables_with_words(self):
        self.check(table, 1000)

    def test_tables_without_a_header(self):
        self.check(bare_table, 2000)

    def test_a_sentence_for_each_touch(self):
        self.check(sentences, 3000)

    def test_matrices_with_numbers(self):
        for seed in range(4000, 4000 + SEEDS):
            rng = random.Random(seed)
            columns, rows = rng.randint(3, 6), rng.randint(3, 6)
            values = np.array([heights(rng, columns) for _ in range(rows)])
            text = matrix(rng, values)
            try:
                result = read_survey(text, Hint(bed=BED))
            except Exception as error:
                raise AssertionError(f"{seed}: {error}\n{text}") from error
            said = f"{seed}: {result.assumptions}\n{text}"
            self.assertEqual((result.layout, result.columns, result.rows), ("grid", columns, rows), said)
            survey = result.survey
            order = np.lexsort((survey.x, survey.y))  # front row first
            np.testing.assert_allclose(
                survey.height[order].reshape(rows, columns), values, atol=1e-9, err_msg=said
            )
            self.assertTrue(any("row numbers count" in one for one in result.assumptions), said)

    def test_the_numbered_header_above_rows_with_bars(self):
        """It was taken for a row of the matrix, and the back row for the front one."""
        text = "     0     1     2\n2 | +0.30 +0.31 +0.32\n1 | +0.20 +0.21 +0.22\n0 | +0.10 +0.11 +0.12\n"
        result = read_survey(text, Hint(bed=BED))
        self.assertEqual((result.columns, result.rows), (3, 3))
        front = result.survey.height[np.argmin(result.survey.x + result.survey.y)]
        self.assertAlmostEqual(float(front), 0.10)
        self.assertTrue(any("count down" in one for one in result.assumptions))
        # the person may say otherwise
        turned = read_survey(text, Hint(bed=BED, flip_y=True)).survey
        self.assertAlmostEqual(float(turned.height[np.argmin(turned.x + turned.y)]), 0.30)


if __name__ == "__main__":
    unittest.main()
