"""Use cases of surveys."""
