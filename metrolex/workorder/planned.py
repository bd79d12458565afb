"""A step of a job as its recipe makes it, and the states of the vehicle."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from metrolex.job.work import StepPlace
from metrolex.ports.card_bench import Step as Doing
from metrolex.tables import load_table
from metrolex.workorder.step import Step

__all__ = [
    "Doing",
    "Planned",
    "Recipes",
    "State",
    "kind_in_words",
    "kind_words",
    "recipes_by",
    "states_at_work",
    "states_said",
]


@dataclass(frozen=True, slots=True)
class State:
    """A state of the vehicle that is entered by hand: minutes to enter and leave it, with what, what to heed."""

    name: str
    words: str
    minutes: float
    tools: tuple[str, ...]
    caution: str


@dataclass(frozen=True, slots=True)
class Planned:
    """A step with the kind of its recipe, the part it belongs to, where it is done, its tools, what it uses up, its caution.

    ``doing`` is what one does in it, each with the figure to have in hand; ``low`` and ``high`` how little and how much of its minutes it may take,
    ``hazards`` what can hurt in it, by the names of hazards.toml.
    """

    step: Step
    kind: str
    part: str
    tools: tuple[str, ...] = ()
    caution: str = ""
    detail: str = ""
    place: StepPlace = ""
    goods: tuple[str, ...] = ()
    doing: tuple[Doing, ...] = ()
    low: float = 1.0
    high: float = 1.0
    own: bool = field(default=False)
    hazards: tuple[str, ...] = ()

    @property
    def key(self) -> str:
        """What it is called in the job's record of the work."""
        return f"{self.kind} {self.part}"


def states_said(names: Iterable[str]) -> str:
    """Some states in words: 'battery negative off, trim and covers out'."""
    known = states_at_work()
    return ", ".join(known[name].words for name in names if name in known)


def states_at_work() -> dict[str, State]:
    """The states by their names."""
    return {
        name: State(name, row["words"], float(row["minutes"]), tuple(row["tools"]), row["caution"])
        for name, row in load_table("recipes")["states"].items()
    }


@dataclass(frozen=True, slots=True)
class Recipes:
    """The recipes by their kinds, as the ways chosen have them; ``asked`` are kinds only there by one of those ways."""

    rows: Mapping[str, Mapping[str, Any]]
    asked: frozenset[str]

    def made(
        self,
        kind: str,
        part: str,
        on: str,
        with_: str = "",
        *,
        count: int = 0,
        minutes: float | None = None,
        **more: Any,
    ) -> Planned:
        """A step by its recipe; ``count`` times its minutes for each, ``minutes`` in place of its own.

        ``more``: ``needs`` beside its own, ``wait``, ``tools`` and ``goods`` besides, ``hands``, ``detail``, ``doing``, ``place``, ``hazards``.
        """
        row = self.rows[kind]
        takes = float(row.get("minutes", 0.0)) if minutes is None else minutes
        takes = (takes + count * float(row.get("each_minutes", 0.0))) * float(row.get("share", 1.0))
        step = Step(
            row["do"].format(on=on, **{"with": with_})[:120],
            round(takes, 1),
            (*row["needs"], *row.get("also", ()), *more.get("needs", ())),
            wait_minutes=more.get("wait", 0.0),
            hands=more.get("hands", row.get("hands", 1)),
        )
        low, high = row.get("spread", load_table("recipes")["spread"])
        return Planned(
            step,
            kind,
            part,
            tuple(dict.fromkeys((*row.get("tools", ()), *more.get("tools", ())))),
            more.get("caution", row.get("caution", "")),
            more.get("detail", ""),
            more.get("place", row.get("place", "")),
            tuple(dict.fromkeys((*row.get("goods", ()), *more.get("goods", ())))),
            tuple(more.get("doing", ())),
            float(low),
            float(high),
            hazards=tuple(more.get("hazards", ())),
        )


@functools.cache
def recipes_by(ways: tuple[tuple[str, str], ...]) -> Recipes:
    """The recipes as some schools' ways have them: (school, way) each."""
    table = load_table("recipes")
    rows = {kind: row for kind, row in table.items() if isinstance(row, Mapping) and "do" in row}
    asked: set[str] = set()
    for school, way in ways:
        turned = table["schools"][school][way]
        asked |= set(turned.get("asks", ()))
        for kind, changes in turned.get("kinds", {}).items():
            rows[kind] = {**rows[kind], **changes}
    return Recipes(rows, frozenset(asked))


def kind_words(kind: str) -> str:
    """What the steps of one kind are called together, in a quote."""
    return _KINDS.get(kind.partition("_")[0] if kind.startswith("prove_") else kind, "Other steps")


_KINDS = {
    "find_feeds": "Feeds found and tapped",
    "tap": "Feeds found and tapped",
    "other_feed": "Feeds found and tapped",
    "fuses": "Feeds found and tapped",
    "ground": "Grounds",
    "hole": "Holes",
    "open": "Senders fitted, fluids refilled",
    "fit": "Senders fitted, fluids refilled",
    "refill": "Senders fitted, fluids refilled",
    "let_down": "Senders fitted, fluids refilled",
    "prime": "Senders fitted, fluids refilled",
    "plug_sender": "Senders fitted, fluids refilled",
    "lay": "Leads laid",
    "try_in": "Displays mounted and joined",
    "mount": "Displays mounted and joined",
    "join": "Displays mounted and joined",
    "plug_in": "Displays mounted and joined",
    "set_up": "Set up",
    "prove": "Proved",
    "trim_back": "Trim and covers",
    "own": "What else was agreed",
}


def kind_in_words(kind: str) -> str:
    """One kind of step, in few words: 'laying leads'."""
    return _DOING.get(kind, kind.replace("prove_", "proving, ").replace("_", " "))


_DOING = {
    "let_down": "letting fuel pressure down",
    "prime": "priming, looking for leaks dry",
    "find_feeds": "finding feeds",
    "hole": "making holes",
    "open": "opening places",
    "fit": "fitting senders",
    "refill": "refilling",
    "lay": "laying leads",
    "tap": "tapping feeds",
    "ground": "making grounds",
    "mount": "mounting displays",
    "join": "making joints",
    "plug_in": "plugging in displays",
    "plug_sender": "plugging in senders",
    "fuses": "putting fuses in",
    "set_up": "setting up",
    "trim_back": "putting trim back",
}
