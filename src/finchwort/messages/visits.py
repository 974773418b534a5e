"""What is said of visits."""

from __future__ import annotations

ERRORS = {
    "visits.changed": "Say what was changed: {names}.",
    "visits.done_when_recorded": "That is done when it is recorded.",
    "visits.limits_need_visits_more": "Limits need {min_values} visits or more.",
    "visits.nothing_known_surface_kind": "Nothing is known of a surface of kind {values!r}.",
    "visits.page_logbook_does_not": "That page of the logbook does not exist.",
    "visits.the_lies_between_and": "The {what} lies between {low:g} and {high:g} °C.",
    "visits.value_missing_not_number": "A value is missing or is not a number.",
    "visits.visit_cannot_come_before": "A visit cannot come before the one it follows.",
    "visits.visit_made": "A visit is made of {names}.",
}
"""What is said of input that cannot be used, by the code of its error."""
