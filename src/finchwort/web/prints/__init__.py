"""Routes of prints."""
