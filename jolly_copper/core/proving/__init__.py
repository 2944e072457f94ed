"""Proving the railroad by meter: what to read, what readings teach, and where a fault is."""
