"""Tables and queries of who may come in."""
