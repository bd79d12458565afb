"""What a fault is: what it does to the circuit in each state, to what was entered, to the face; what it is called and what cures it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from metrolex.circuit import Element, Fault, Replaced
from metrolex.circuit.elements import Name, value_of
from metrolex.faults.sizes import Sizing
from metrolex.job import MeasuringChain, Sender
from metrolex.quantities import rounded
from metrolex.scaling.reading import Shown
from metrolex.scaling.table import rounded_text
from metrolex.senders import Curve
from metrolex.tables import load_table
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import is_live, sender_output
from metrolex.twin.run import Solved, reading_of, readings
from metrolex.twin.spread import giving

__all__ = ["Effect", "Entered", "Face", "LikelyFault", "OtherClass", "OtherLaw", "Scaled", "Shifted", "named"]


@dataclass(frozen=True, slots=True)
class Scaled:
    """An element gives so many times its value."""

    name: Name
    ratio: float

    def in_state(self, solved: Solved, elements: Mapping[Name, Element]) -> tuple[Replaced, ...]:
        return (Replaced(self.name, value_of(elements[self.name]) * self.ratio),)


@dataclass(frozen=True, slots=True)
class Shifted:
    """An element gives so much more."""

    name: Name
    by: float

    def in_state(self, solved: Solved, elements: Mapping[Name, Element]) -> tuple[Replaced, ...]:
        return (Replaced(self.name, value_of(elements[self.name]) + self.by),)


@dataclass(frozen=True, slots=True)
class OtherLaw:
    """A sender follows another curve than the one written down."""

    name: Name
    chain: str
    curve: Curve

    def in_state(self, solved: Solved, elements: Mapping[Name, Element]) -> tuple[Replaced, ...]:
        job = solved.network.job
        chain = job.chain(self.chain)
        sender = job.sender(chain.sender) if chain else None
        if chain is None or sender is None:
            return ()
        true = solved.true.get(chain.channel)
        nominal = sender_output(chain, sender, true)
        real = sender_output(chain, replace(sender, curve=self.curve), true)
        return (Replaced(self.name, giving(elements[self.name], real, nominal)),)


@dataclass(frozen=True, slots=True)
class OtherClass:
    """A circuit is live in other states than its readings say."""

    circuit: str
    live: frozenset[str]

    @property
    def name(self) -> Name:
        return addresses.feed_of(self.circuit)

    def in_state(self, solved: Solved, elements: Mapping[Name, Element]) -> tuple[Fault, ...]:
        network, state = solved.network, solved.state
        verdict = network.verdicts[self.circuit]
        really = is_live(replace(verdict, live=self.live), state)
        if really == is_live(verdict, state):
            return ()
        if not really:
            return (Fault(self.name, "open"),)
        # From its feed side straight to the battery, whatever contact its recorded class hangs on.
        return (
            Fault(addresses.circuit_part(self.circuit, "leakage"), "short", to=addresses.BATTERY_POSITIVE),
        )


Effect = Fault | Scaled | Shifted | OtherLaw | OtherClass


@dataclass(frozen=True, slots=True)
class Entered:
    """What really stands in a display for one channel: other rows, or the input of another channel."""

    chain: str
    rows: tuple[tuple[float, float], ...] = ()
    input: str = ""


@dataclass(frozen=True, slots=True)
class Face:
    """A face of its own mind: it stays dark, shows dashes, or so many times what it should, or so much more."""

    chain: str
    word: str = ""
    ratio: float = 1.0
    shift: float = 0.0


@dataclass(frozen=True, slots=True)
class LikelyFault:
    """One fault: the part, the kind as in faults.toml ('wire.broken'), in words, how often beside the others, what cures it.

    ``does`` is what it does to the circuit, ``entered`` what stands in displays instead, ``faces`` what shows it whatever the circuit says,
    all at its usual size; ``sizes`` the same fault smaller and larger.
    """

    part: Address
    kind: str
    words: str
    weight: float
    cure: str
    does: tuple[Effect, ...] = ()
    entered: tuple[Entered, ...] = ()
    faces: tuple[Face, ...] = ()
    sizes: tuple[Sizing, ...] = ()

    def in_state(self, solved: Solved, elements: Mapping[Name, Element]) -> tuple[Fault | Replaced, ...]:
        """What it does to the circuit as it stands in a state; nothing to parts the state has not."""
        found: list[Fault | Replaced] = []
        for effect in self.does:
            name = effect.element if isinstance(effect, Fault) else effect.name
            if name in elements:
                found += [effect] if isinstance(effect, Fault) else effect.in_state(solved, elements)
        return tuple(found)

    def seen(self, solved: Solved) -> dict[str, Shown]:
        """The faces as one sees them, of a state solved with what it does to the circuit."""
        return dict(readings(solved)) | self.seen_instead(solved)

    def seen_instead(self, solved: Solved, shown: Mapping[str, Shown] | None = None) -> dict[str, Shown]:
        """The faces of displays that were taught something else or are of their own mind; ``shown`` what they show otherwise."""
        job, changed = solved.network.job, dict(shown or {})
        for one in self.entered:
            chain = job.chain(one.chain)
            if chain is not None:
                changed[one.chain] = reading_of(solved, _entered(chain, one))
        for face in self.faces:
            chain = job.chain(face.chain)
            if chain is not None:
                now = changed.get(face.chain) or reading_of(solved, chain)
                changed[face.chain] = _of_its_own_mind(face, now, chain)
        return changed


def _entered(chain: MeasuringChain, one: Entered) -> MeasuringChain:
    if one.rows:
        chain = replace(chain, scaling=replace(chain.scaling, table=one.rows))
    return replace(chain, input=one.input) if one.input else chain


def _of_its_own_mind(face: Face, now: Shown, chain: MeasuringChain) -> Shown:
    if now.state in ("dark", "unfinished"):
        return now
    if face.word == "dark":
        return Shown("", None, "dark", "the display itself")
    if face.word:
        return Shown("--", None, "open", "the display itself")
    if now.value is None:
        return now
    value, digits = now.value * face.ratio + face.shift, chain.scaling.decimals
    low, high = chain.scaling.low, chain.scaling.high
    value = min(max(value, value if low is None else low), value if high is None else high)
    return replace(now, text=rounded_text(value, digits), value=rounded(value, digits))


def named(part: Address, kind: str, name: str, at: str = "", **what: Any) -> LikelyFault:
    """A fault with its words, weight and cure from faults.toml; ``name`` is what the part is called, ``at`` where on it."""
    row = row_of(kind)
    words, cure = (row[key].format(part=name, at=at) for key in ("words", "cure"))
    return LikelyFault(part, kind, words, float(row["weight"]), cure, **what)


def row_of(kind: str) -> dict[str, Any]:
    """The row of faults.toml of a kind."""
    group, _, which = kind.partition(".")
    row: dict[str, Any] = load_table("faults")[group][which]
    return row


def sender_parts(sender: Sender) -> dict[str, Address]:
    """The addresses of a sender's inner parts."""
    return {what: addresses.sender_part(sender.id, what) for what in ("element", "leads", "thread")}
