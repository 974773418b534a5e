"""Rules and computation, without interface code.

Everything here is a pure function or a frozen object: no files, no clock, no
network, no database.  Lengths are millimetres, heights are positive towards the
nozzle, arrays are float64.
"""
