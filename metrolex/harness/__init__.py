"""Wires: their resistance, their size, the way they go and whether the lead reaches."""
