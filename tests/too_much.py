"""Readings that take too much, for the process apart to be held against."""

from __future__ import annotations

import os


def forever(_: str) -> str:
    while True:
        pass


def without_end(_: str) -> str:
    return str(len(bytearray(10**10)))


def and_dies(_: str) -> str:
    os._exit(9)
