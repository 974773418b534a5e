"""What is said of results, in sentences: pure functions, a file an area, for pages, command line, logbook and files."""
