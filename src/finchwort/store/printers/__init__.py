"""Tables and queries of printers."""
