"""Air: the pressure of the day, water boiling in it, and boost above it."""
