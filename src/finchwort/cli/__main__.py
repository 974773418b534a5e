"""Run the command line."""

from finchwort.cli import main

main()
