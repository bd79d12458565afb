"""Reading a CAN description file. The parser is cantools; what is kept is a plain list of signals."""

from __future__ import annotations

import re
from typing import Any

from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import BusSignal
from metrolex.limits import limit, most_of

__all__ = ["read_description"]

#: A frame of the description: its number, name, length in bytes.
_FRAME = re.compile(r"\bBO_\s+(\d+)\s+(\w+)\s*:\s*(\d+)")
#: What says nothing we keep, and is most of a large file: remarks, names of values, attributes other than how often a frame is sent. A statement of one line.
_ASIDE = re.compile(
    r'^(?:CM_|VAL_|BA_(?! "GenMsgCycleTime"))[ \t][^\n"]*(?:"[^"\n]*"[^\n"]*)*;[ \t\r]*$\n?', re.MULTILINE
)
#: A signal: its first bit and how many it has.
_SIGNAL = re.compile(r"\bSG_\s[^:]{1,200}:\s*(\d+)\s*\|\s*(\d+)\s*@")


def read_description(text: str) -> tuple[BusSignal, ...]:
    """The signals of a CAN description, in the order of their frames. Raises BadInput (field ``description``)."""
    import cantools

    if len(text) > int(limit("bus", "description_bytes")):
        raise BadInput(
            "description",
            len(text),
            f"a description of at most {limit('bus', 'description_bytes') / 1e6:g} MB",
        )
    text = _ASIDE.sub("", text)
    _refuse_giants(text)
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
                "name": signal.name,
                "message": message.name,
                "frame": message.frame_id,
                "unit": signal.unit or "",
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
    return tuple(found)


def _refuse_giants(text: str) -> None:
    """What the parser would make room for without asking: frames and signals of any length, signals without end. Raises BadInput."""
    longest, most = int(limit("bus", "read_bytes")), most_of("signals") or 0
    if len(text) > longest:
        raise BadInput(
            "description",
            len(text),
            f"frames and signals of at most {longest / 1e6:g} MB",
            f"Its frames and signals alone are {len(text) / 1e6:.1f} MB, and more than {longest / 1e6:g} MB cannot be read: keep the frames of this vehicle.",
        )
    most_bytes = int(limit("bus", "frame_bytes"))
    for number, name, length in _FRAME.findall(text):
        if len(length) > 9 or int(length) > most_bytes:
            raise BadInput(
                "description",
                length[:40],
                f"frames of at most {most_bytes} bytes",
                f"The frame {name:.40} ({number:.12}) says it is {length:.12} bytes long; no frame has more than {most_bytes}.",
            )
    count = 0
    for start, bits in _SIGNAL.findall(text):
        count += 1
        if max(len(start), len(bits)) > 9 or int(start) >= 8 * most_bytes or int(bits) > 8 * most_bytes:
            raise BadInput(
                "description", f"{start:.12}|{bits:.12}", f"signals within {8 * most_bytes} bits of a frame"
            )
    if count > most:
        raise BadInput("description", count, f"at most {most} signals")


def _number(value: Any) -> float | None:
    return None if value is None else float(value)
