"""Use cases of probing."""
