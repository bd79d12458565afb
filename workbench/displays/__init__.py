"""Displays as they are: pins, inputs, what each needs; which input reads what; the library."""
