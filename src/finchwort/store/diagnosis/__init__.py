"""Tables and queries of diagnosis."""
