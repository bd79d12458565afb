"""The places a wire can end, one value for each."""

from __future__ import annotations

from metrolex.job import Display, End, Job, MeasuringChain, Pin, Port, Sender

__all__ = [
    "BATTERY_NEGATIVE",
    "BATTERY_POSITIVE",
    "PASSED",
    "at_pin",
    "at_port",
    "at_terminal",
    "comes_from",
    "plain",
    "returns_at",
]

BATTERY_POSITIVE = End("battery", "positive")
BATTERY_NEGATIVE = End("battery", "negative")

#: Kinds of end that belong to the job: wires that meet there are joined. All others are the vehicle's, and part nets.
PASSED = frozenset({"splice", "display", "sender", "plug", "switch"})
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


def comes_from(job: Job, chain: MeasuringChain) -> End | None:
    """Where what the display hears of a chain comes out: the signal of its sender, the pin of a plug where it joins the vehicle's wire, or the output pin of its box."""
    box = job.display(chain.box)
    if box is not None:
        output = box.output_called(chain.output)
        return at_pin(box, output.pin) if output else None
    if chain.plug is not None and chain.pin is not None:
        return End("plug", chain.plug, chain.pin)
    sender = job.sender(chain.sender)
    return at_terminal(sender, "signal") if sender and sender.terminals else None


def returns_at(job: Job, chain: MeasuringChain) -> End | None:
    """Where the current of what the display hears goes back: the sender's return or body, or the ground pin of its box."""
    box = job.display(chain.box)
    if box is not None:
        ground = box.pin_for("ground")
        return at_pin(box, ground) if ground else None
    sender = job.sender(chain.sender)
    back = {"body", "return"}.intersection(sender.terminals) if sender else set()
    return at_terminal(sender, back.pop()) if sender and back else None
