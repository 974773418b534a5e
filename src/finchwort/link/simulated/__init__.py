"""A simulated printer.  It lives apart: nothing here uses the code it is there to exercise."""
