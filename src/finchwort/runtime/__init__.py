"""Running it: the processes, where the records lie, what is logged, backups in time, and the way in from the network."""
