"""What is kept of a print file as bytes, and back: arrays and plain values, nothing that could run."""

from __future__ import annotations

import io
import json
import math
from dataclasses import asdict

import numpy as np

from finchwort.core.files import (
    Command,
    Extreme,
    FirstLayer,
    Foot,
    LowMap,
    PrintFile,
    Stated,
    Told,
)

FORM = 1
"""Raised when what is packed changes; older forms are still read."""


def pack_print(found: PrintFile) -> bytes:
    """Pack a print; `unpack_print` gives it back to a thousandth of a mm."""
    layer, low = found.layer, found.low
    plain = {
        "form": FORM,
        "height": layer.height,
        "travel": layer.travel,
        "parts": [asdict(part) for part in found.parts],
        "commands": [
            [str(one.what), one.line, None if math.isnan(one.value) else one.value, one.text]
            for one in found.commands
        ],
        "stated": asdict(found.stated),
        "plastic": [[one.value, one.line] for one in found.plastic],
        "ways": [[None if math.isnan(one.value) else one.value, one.line] for one in found.ways],
        "fastest": [None if math.isnan(found.fastest.value) else found.fastest.value, found.fastest.line],
        "low": [low.x, low.y],
        **{
            name: getattr(found, name)
            for name in (
                "lines",
                "size",
                "filament",
                "section",
                "seconds",
                "layers",
                "top",
                "sloped",
                "ended",
            )
        },
    }
    data = io.BytesIO()
    np.savez_compressed(
        data,
        plain=np.frombuffer(json.dumps(plain).encode(), dtype=np.uint8),
        ends=np.rint(np.hstack([layer.start, layer.end]) * 1000).astype(np.int32),
        area=layer.area.astype(np.float32),
        width=layer.width.astype(np.float32),
        speed=layer.speed.astype(np.float32),
        line=layer.line.astype(np.int32),
        path=layer.path.astype(np.int32),
        role=layer.role.astype(np.int8),
        part=layer.part.astype(np.int16),
        rates=found.rates.astype(np.float32),
        low_height=low.height.astype(np.float32),
        low_line=low.line.astype(np.int32),
    )
    return data.getvalue()


def unpack_print(data: bytes) -> PrintFile:
    """Give back what was packed."""
    with np.load(io.BytesIO(data), allow_pickle=False) as kept:
        plain = json.loads(kept["plain"].tobytes())
        ends = kept["ends"].astype(np.float64) / 1000
        layer = FirstLayer(
            plain["height"],
            ends[:, :2],
            ends[:, 2:],
            kept["width"].astype(np.float64),
            kept["area"].astype(np.float64),
            kept["speed"].astype(np.float64),
            kept["line"].astype(np.intp),
            kept["path"].astype(np.intp),
            kept["role"],
            kept["part"],
            plain["travel"],
        )
        low = LowMap(
            float(plain["low"][0]),
            float(plain["low"][1]),
            kept["low_height"].astype(np.float64),
            kept["low_line"],
        )
        rates = kept["rates"].astype(np.float64)
    return PrintFile(
        layer,
        tuple(Foot(**{**part, "bounds": tuple(part["bounds"])}) for part in plain["parts"]),
        tuple(
            Command(Told(what), line, math.nan if value is None else value, text)
            for what, line, value, text in plain["commands"]
        ),
        Stated(**plain["stated"]),
        plain["lines"],
        plain["size"],
        plain["filament"],
        plain["section"],
        plain["seconds"],
        plain["layers"],
        plain["top"],
        tuple(_extreme(one) for one in plain["plastic"]),
        tuple(_extreme(one) for one in plain["ways"]),
        _extreme(plain["fastest"]),
        rates,
        plain["sloped"],
        plain["ended"],
        low,
    )


def _extreme(pair: list[float | None]) -> Extreme:
    value, line = pair
    return Extreme(math.nan if value is None else float(value), int(line or 0))
