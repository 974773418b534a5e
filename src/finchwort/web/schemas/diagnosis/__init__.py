"""What the API takes and gives of cases, and of what is believed."""

from finchwort.web.schemas.diagnosis.cases import *  # noqa: F403
from finchwort.web.schemas.diagnosis.prior import *  # noqa: F403
