"""Files of prints on record."""
