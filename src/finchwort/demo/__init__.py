"""The demo: an invented workshop, and the command that starts it all."""
