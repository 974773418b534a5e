"""Use cases of the first layer."""
