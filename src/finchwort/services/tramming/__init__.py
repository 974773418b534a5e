"""Use cases of tramming."""
