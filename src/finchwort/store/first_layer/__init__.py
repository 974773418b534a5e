"""Tables and queries of the first layer."""
