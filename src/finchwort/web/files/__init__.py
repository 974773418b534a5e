"""Files of prints."""
