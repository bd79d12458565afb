"""Reading a CAN description file. The parser is cantools; what is kept is a plain list of signals."""

from __future__ import annotations

from typing import Any

from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import BusSignal

__all__ = ["MOST_SIGNALS", "read_description"]

MOST_SIGNALS = 4000


def read_description(text: str) -> tuple[BusSignal, ...]:
    """The signals of a CAN description, in the order of their frames. Raises BadInput (field ``description``)."""
    import cantools

    try:
        database: Any = cantools.database.load_string(text, "dbc")
    except Exception as fault:
        where = " ".join(str(fault).split())[:160]
        raise BadInput(
            "description",
            text[:40],
            "a CAN description file",
            f"This is not a CAN description we can read: {where}",
        ) from None
    found = [
        read(
            BusSignal,
            {
                "name": signal.name[:120],
                "message": message.name[:120],
                "frame": message.frame_id,
                "unit": (signal.unit or "")[:20],
                "low": _number(signal.minimum),
                "high": _number(signal.maximum),
                "cycle_ms": message.cycle_time or None,
            },
        )
        for message in sorted(database.messages, key=lambda m: m.frame_id)
        for signal in message.signals
    ]
    if not found:
        raise BadInput(
            "description", text[:40], "a description with signals", "The description lists no signal."
        )
    if len(found) > MOST_SIGNALS:
        raise BadInput("description", len(found), f"at most {MOST_SIGNALS} signals")
    return tuple(found)


def _number(value: Any) -> float | None:
    return None if value is None else float(value)
