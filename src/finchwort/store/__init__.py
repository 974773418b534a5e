"""Records in MariaDB: models, sessions, migrations and the services that write them."""

# every table is known as soon as one is
from finchwort.store import access_models, case_models, marks, offset_models  # noqa: F401
