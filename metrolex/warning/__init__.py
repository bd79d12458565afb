"""Warnings and shift lamps: when they come, whether they come in time, whether they come for nothing."""
