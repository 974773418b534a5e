"""Finchwort: level a printer's bed, and know why the first layer sticks."""

__version__ = "0.1.0"
