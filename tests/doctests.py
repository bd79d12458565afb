"""The examples that stand in docstrings, module by module."""

from __future__ import annotations

import doctest
import importlib
from pathlib import Path

__all__ = ["hold", "with_examples"]

ROOT = Path(__file__).parent.parent


def with_examples(package: str) -> list[str]:
    """The names of the modules of a package in which an example stands."""
    files = sorted((ROOT / package).rglob("*.py"))
    return [
        ".".join(file.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
        for file in files
        if ">>>" in file.read_text()
    ]


def hold(module: str) -> bool:
    """Whether a module has examples and all of them are true."""
    found = doctest.testmod(importlib.import_module(module))
    return found.attempted > 0 and not found.failed
