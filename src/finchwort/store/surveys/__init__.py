"""Tables and queries of surveys."""
