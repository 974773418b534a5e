"""Tables and queries of probing."""
