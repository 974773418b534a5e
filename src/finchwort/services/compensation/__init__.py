"""Use cases of compensation."""
