"""What the API takes and gives, a file an area; every name can be had from here."""

from finchwort.web.schemas.access import *  # noqa: F403
from finchwort.web.schemas.base import *  # noqa: F403
from finchwort.web.schemas.diagnosis import *  # noqa: F403
from finchwort.web.schemas.files import *  # noqa: F403
from finchwort.web.schemas.first_layer import *  # noqa: F403
from finchwort.web.schemas.levelling import *  # noqa: F403
from finchwort.web.schemas.machine import *  # noqa: F403
from finchwort.web.schemas.printers import *  # noqa: F403
from finchwort.web.schemas.prints import *  # noqa: F403
from finchwort.web.schemas.probing import *  # noqa: F403
from finchwort.web.schemas.surveys import *  # noqa: F403
from finchwort.web.schemas.tramming import *  # noqa: F403
from finchwort.web.schemas.visits import *  # noqa: F403
