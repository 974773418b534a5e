"""Use cases of files of prints."""
