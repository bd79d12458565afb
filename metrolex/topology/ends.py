"""The places a wire can end, one value for each."""

from __future__ import annotations

from metrolex.job import Display, End, Pin, Port, Sender

__all__ = ["BATTERY_NEGATIVE", "BATTERY_POSITIVE", "PASSED", "at_pin", "at_port", "at_terminal", "plain"]

BATTERY_POSITIVE = End("battery", "positive")
BATTERY_NEGATIVE = End("battery", "negative")

#: Kinds of end that belong to the job: wires that meet there are joined. All others are the vehicle's, and part nets.
PASSED = frozenset({"splice", "display", "sender", "plug"})
_WITHOUT_TERMINAL = frozenset({"tap", "ground", "splice", "battery", "port"})


def plain(end: End) -> End:
    """The end as the place it is: kinds that have no terminals lose whatever was written as one."""
    return End(end.kind, end.id) if end.terminal and end.kind in _WITHOUT_TERMINAL else end


def at_pin(display: Display, pin: Pin | str) -> End:
    """A pin of a display."""
    return End("display", display.id, pin if isinstance(pin, str) else pin.id)


def at_terminal(sender: Sender, terminal: str) -> End:
    """A terminal of a sender."""
    return End("sender", sender.id, terminal)


def at_port(port: Port) -> End:
    """The metal of a place."""
    return End("port", port.id)
