"""The machine: its line, its dialect, the jobs done over it; and a simulated printer that lives apart."""
