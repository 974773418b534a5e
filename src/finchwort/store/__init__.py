"""Records in MariaDB: tables, queries, sessions and migrations."""

# every table is known as soon as one is
from finchwort.store.access import marks
from finchwort.store.access import models as access_models
from finchwort.store.diagnosis import models as case_models
from finchwort.store.first_layer import models as offset_models

__all__ = ["access_models", "case_models", "marks", "offset_models"]
