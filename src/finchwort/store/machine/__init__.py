"""Tables and queries of machines at the line."""
