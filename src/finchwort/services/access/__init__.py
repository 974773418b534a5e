"""Use cases of who may come in."""
