"""The migrations, in order."""
