"""Open file formats, read into and written from core objects."""

from finchwort.core.base.errors import Problem
from finchwort.formats.documents import survey_json
from finchwort.formats.reading import read_survey
from finchwort.formats.result import Hint, ReadResult
from finchwort.formats.sdf import survey_sdf
from finchwort.formats.writing import survey_csv

__all__ = ["Hint", "Problem", "ReadResult", "read_survey", "survey_csv", "survey_json", "survey_sdf"]
