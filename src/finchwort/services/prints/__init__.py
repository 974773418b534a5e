"""Prints: begun, looked at, ended, and what came of them."""
