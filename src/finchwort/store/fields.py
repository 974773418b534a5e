"""What single values may be, each range once: the same for what is stored and for what a request brings.

Lengths are mm, temperatures °C.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, FiniteFloat, StringConstraints

HOTTEST_BED, HOTTEST_NOZZLE = 150.0, 350.0
"""No desktop printer is set up to be hotter than this, °C."""
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
ScrewName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]
Short = Annotated[str, StringConstraints(max_length=40)]
Note = Annotated[str, StringConstraints(max_length=500)]
Key = Annotated[str, StringConstraints(pattern=r"^[0-9A-Za-z-]{8,36}$")]
Side = Annotated[FiniteFloat, Field(ge=40, le=2000)]
Coordinate = Annotated[FiniteFloat, Field(ge=-5000, le=5000)]
LayerHeight = Annotated[FiniteFloat, Field(ge=0.05, le=1.0)]
BedTemperature = Annotated[FiniteFloat, Field(ge=0, le=200)]
NozzleTemperature = Annotated[FiniteFloat, Field(ge=0, le=500)]
FoilSize = Annotated[FiniteFloat, Field(ge=0.005, le=2)]
Pitch = Annotated[FiniteFloat, Field(ge=0.1, le=10)]
SpringTurns = Annotated[FiniteFloat, Field(ge=0, le=40)]
ProbeOffset = Annotated[FiniteFloat, Field(ge=-150, le=150)]
