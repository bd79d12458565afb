"""Standard tables in ``metrolex/data``: read once, kept as plain rows.

Every file names its source beside the numbers; nothing here changes a unit.
"""

from __future__ import annotations

import functools
import tomllib
from pathlib import Path
from typing import Any

__all__ = ["load_table"]

_DATA = Path(__file__).parent / "data"


@functools.cache
def load_table(name: str) -> dict[str, Any]:
    """The table ``data/<name>.toml`` as plain dicts and lists."""
    with (_DATA / f"{name}.toml").open("rb") as file:
        return tomllib.load(file)
