"""What all areas of the API share.  Lengths are mm, heights positive towards the nozzle."""

from __future__ import annotations

from dataclasses import MISSING, fields
from typing import Annotated, Any, Self, get_type_hints

from pydantic import BaseModel, BeforeValidator, ConfigDict, create_model

from finchwort.core.base.remarks import Remark
from finchwort.messages.remarks import words

Said = Annotated[str, BeforeValidator(lambda value: words(value) if isinstance(value, Remark) else value)]
"""A text for people; a remark of a result is said in words here."""


class In(BaseModel):
    """Base of what comes in: nothing unknown is taken."""

    model_config = ConfigDict(extra="forbid")


def input_of(described: type) -> type[In]:
    """Make what comes in from a dataclass that a person fills in: the same fields, ranges and usual values."""
    hints = get_type_hints(described, include_extras=True)
    given: dict[str, Any] = {}
    for field in fields(described):
        usual = field.default if field.default_factory is MISSING else field.default_factory()
        given[field.name] = (hints[field.name], ... if usual is MISSING else usual)
    return create_model(f"{described.__name__}In", __base__=In, __module__=__name__, **given)


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
    code: str | None = None
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
