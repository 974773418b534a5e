"""What all areas of the API share.  Lengths are mm, heights positive towards the nozzle."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, StringConstraints

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
ScrewName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]
Key = Annotated[str, StringConstraints(pattern=r"^[0-9A-Za-z-]{8,36}$")]
Side = Annotated[FiniteFloat, Field(ge=40, le=2000)]
Coordinate = Annotated[FiniteFloat, Field(ge=-5000, le=5000)]
LayerHeight = Annotated[FiniteFloat, Field(ge=0.05, le=1.0)]
BedTemperature = Annotated[FiniteFloat, Field(ge=0, le=200)]
NozzleTemperature = Annotated[FiniteFloat, Field(ge=0, le=500)]
Origin = Literal["front_left", "centre"]


class In(BaseModel):
    """Base of what comes in: nothing unknown is taken."""

    model_config = ConfigDict(extra="forbid")


class Out(BaseModel):
    """Base of what goes out."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)

    @classmethod
    def of(cls, source: object, **more: Any) -> Self:
        """Take the fields from a record or a result by their names; ``more`` are those that it lacks or says otherwise."""
        return cls(**{name: getattr(source, name) for name in cls.model_fields if name not in more}, **more)


class Problem(Out):
    """An error, RFC 9457, with the fields and lines it is about."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[FieldError] = []
    lines: list[LineProblem] = []


class FieldError(Out):
    """What is wrong with one field."""

    field: str
    message: str


class LineProblem(Out):
    """A line of a text that could not be read."""

    line: int
    text: str
    reason: str


class Version(In):
    """The version a change starts from."""

    version: int


class XY(Out):
    """A place on the bed."""

    x: float
    y: float


class Rectangle(Out):
    """A rectangle, mm."""

    x_min: float
    y_min: float
    x_max: float
    y_max: float


class Done(Out):
    """The record that was deleted or brought back."""

    id: int


class Health(Out):
    """Whether the product can work."""

    ok: bool
    version: str
