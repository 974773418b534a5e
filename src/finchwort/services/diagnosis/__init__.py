"""Use cases of diagnosis."""
