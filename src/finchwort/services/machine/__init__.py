"""Use cases of machines at the line."""
