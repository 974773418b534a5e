"""Readings written out."""

from __future__ import annotations

from finchwort.core.surveys import Survey


def survey_csv(survey: Survey) -> str:
    """Write a survey as comma-separated text with a header, mm, heights positive towards the nozzle.

    Numbers are written so that reading them gives the same values again.

    Examples
    --------
    >>> print(survey_csv(Survey([0, 1, 0], [0, 0, 1], [0, 0.1, 0.25])), end="")
    x_mm,y_mm,height_mm
    0.0,0.0,0.0
    1.0,0.0,0.1
    0.0,1.0,0.25
    """
    rows = zip(survey.x.tolist(), survey.y.tolist(), survey.height.tolist(), strict=True)
    return "x_mm,y_mm,height_mm\n" + "".join(f"{x!r},{y!r},{z!r}\n" for x, y, z in rows)
