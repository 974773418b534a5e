"""Tables and queries of prints."""
