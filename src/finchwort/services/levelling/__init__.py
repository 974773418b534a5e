"""Use cases of levelling."""
