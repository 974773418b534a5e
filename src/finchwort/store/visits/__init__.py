"""Tables and queries of visits."""
