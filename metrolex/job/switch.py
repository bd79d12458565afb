"""Switches and relays of the job: what their contacts join, at rest and thrown."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import Key, Limits, Positive, Title
from metrolex.job.words import Word

__all__ = ["Contact", "Switch"]


@dataclass(frozen=True, slots=True)
class Contact:
    """Two terminals a switch joins: while it is ``thrown``, or at rest."""

    a: str
    b: str
    thrown: bool


@dataclass(frozen=True, slots=True)
class Switch:
    """A switch or relay with its contacts.

    on_off      joins 'common' and 'on' while thrown
    momentary   the same, and springs back
    changeover  joins 'common' and 'A' at rest, 'common' and 'B' thrown
    relay       joins 30 and 87a at rest, 30 and 87 while its coil between 86 and 85 pulls (terminal numbers of DIN 72552)

    A switch of several ``poles`` has each terminal once for each: '2 common'. ``positions`` is what is written beside it, at rest
    and thrown. ``channels`` are shown by turns, by the sender joined at rest and the one joined when thrown. ``contact_ohm`` and
    ``limit_a`` hold for each contact, ``coil_ohm`` for a relay's coil, which pulls from ``pulls_v`` on.
    """

    id: Key
    name: Title
    kind: Literal["on_off", "changeover", "momentary", "relay"] = "on_off"
    poles: Annotated[int, Limits(low=1, high=4)] = 1
    positions: tuple[Word, ...] = ()
    channels: tuple[Key, ...] = ()
    contact_ohm: Positive = 0.02
    limit_a: Positive = 10.0
    coil_ohm: Positive = 90.0
    pulls_v: Positive = 7.2
    place: Word = ""

    def __post_init__(self) -> None:
        if len(self.positions) > len(_STANDS):
            raise BadInput("positions", len(self.positions), "two positions: at rest and thrown")
        if self.channels and (self.kind != "changeover" or len(self.channels) != len(_STANDS)):
            raise BadInput("channels", len(self.channels), "two channels of a changeover switch, or none")
        if self.kind == "relay" and self.poles != 1:
            raise BadInput("poles", self.poles, "1 for a relay")

    @property
    def terminals(self) -> tuple[str, ...]:
        """What a wire can end at, in the order it is written on it."""
        found = dict.fromkeys(end for contact in self.contacts for end in (contact.a, contact.b))
        return (*found, "86", "85") if self.kind == "relay" else tuple(found)

    @property
    def contacts(self) -> tuple[Contact, ...]:
        if self.kind == "relay":
            return (Contact("30", "87", True), Contact("30", "87a", False))
        prefixes = [""] if self.poles == 1 else [f"{pole} " for pole in range(1, self.poles + 1)]
        if self.kind == "changeover":
            return tuple(
                Contact(f"{prefix}common", f"{prefix}{end}", thrown)
                for prefix in prefixes
                for end, thrown in (("A", False), ("B", True))
            )
        return tuple(Contact(f"{prefix}common", f"{prefix}on", True) for prefix in prefixes)

    def position(self, *, thrown: bool) -> str:
        """The position as one says it."""
        if len(self.positions) > int(thrown) and self.positions[int(thrown)]:
            return self.positions[int(thrown)]
        return {"changeover": _ENDS, "relay": _COILS}.get(self.kind, _STANDS)[int(thrown)]


_STANDS, _ENDS, _COILS = ("off", "on"), ("A", "B"), ("at rest", "pulled")
