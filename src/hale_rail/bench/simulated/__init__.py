"""Instruments that are not there, on sockets, with a simulated unit under their probes."""
