"""Use cases of printers."""
