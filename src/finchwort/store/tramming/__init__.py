"""Tables and queries of tramming."""
