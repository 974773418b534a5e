"""Use cases of visits."""
