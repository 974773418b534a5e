"""Printers, beds and people of the tests' own: they share no code with the core they judge."""
