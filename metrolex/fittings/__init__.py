"""Threads and other connections, tap drills, and the chain of fittings from a port to a sender."""
