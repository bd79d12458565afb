"""What goes wrong inside displays and with what was entered in them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise
from typing import Any

from metrolex.errors import BadInput
from metrolex.faults.kinds import Entered, Face, LikelyFault, named, row_of
from metrolex.faults.of_feeds import simple
from metrolex.faults.sizes import WHOLE, Cell, Sizing, sized
from metrolex.job import Input, Job, MeasuringChain
from metrolex.quantities import in_unit, unit_words
from metrolex.topology import at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network

__all__ = ["display_faults"]

#: What a figure is taken for instead: the unit next to it in the menu.
OTHER_UNIT = {
    "degC": "degF",
    "degF": "degC",
    "bar": "psi",
    "psi": "bar",
    "kPa": "psi",
    "km/h": "mph",
    "mph": "km/h",
}


def display_faults(network: Network) -> Iterator[LikelyFault]:
    """Each channel whose display hears something, each display that is fed."""
    job, told = network.job, set[str]()
    heard: list[tuple[MeasuringChain, Input]] = []
    for chain in job.chains:
        display, stage = job.display(chain.display), job.input_of(chain)
        if display is None or stage is None:
            continue
        own = tuple(c.id for c in job.chains if c.display == display.id)
        if display.id not in told and _fed(job, display.id):
            told.add(display.id)
            yield named(
                Address("display", display.id, "itself"),
                "display.dead",
                display.id,
                faces=tuple(Face(key, "dark") for key in own),
            )
        if stage.pin is None or job.heard(chain) is None:
            continue
        if not topology_of(job).wired(at_pin(display, stage.pin), measured=True):
            continue
        heard.append((chain, stage))
        reader, first = job.sender_wired_to(chain)
        for owner, one in dict.fromkeys(((display, stage), (reader or display, first or stage))):
            yield from _input(owner.id, one, chain)
        if chain.scaling.table and not chain.gears:
            yield from _rows(chain)
    yield from _exchanged(heard)


def _fed(job: Job, key: str) -> bool:
    display = job.display(key)
    pin = display.pin_for("ignition") if display else None
    return display is not None and pin is not None and topology_of(job).fed(display, pin)


def _input(display: str, stage: Input, chain: MeasuringChain) -> Iterator[LikelyFault]:
    what = f"{display} input {stage.id}"
    if stage.kind == "pull_up" and stage.circuit.pull_up_ohm:
        yield simple(addresses.pull_up(display, stage.id), "input.other", what)
    if stage.circuit.reference_v and not stage.converter.ratiometric:
        yield simple(addresses.reference_node(display, stage.id), "display.reference", what)
    if stage.kind == "thermocouple":
        yield _cold(display, stage, chain, what)
    dead = Address("display", display, "input itself", stage.id)
    yield named(dead, "display.input_dead", what, faces=(Face(chain.id, "dashes"),))


def _cold(display: str, stage: Input, chain: MeasuringChain, what: str) -> LikelyFault:
    row = row_of("input.cold")

    def at(size: float) -> dict[str, Any]:
        kelvin = size if size > 1 else -1 / size  # the other way round is so much less, not so many times
        shift = in_unit(kelvin, "degC", chain.unit) - in_unit(0.0, "degC", chain.unit)
        return {"faces": (Face(chain.id, shift=shift),)}

    part = Address("display", display, "cold junction", stage.id)
    return sized(named(part, "input.cold", what, **at(float(row["shift_k"]))), row, at)


def _rows(chain: MeasuringChain) -> Iterator[LikelyFault]:
    table = chain.scaling.table
    xs, ys = [x for x, _ in table], [y for _, y in table]
    usual, slip = (float(row_of(kind)["ratio"]) for kind in ("table.other", "table.decimal"))
    middle = len(xs) // 2
    slipped = [
        [(x, y * (times if i == place else 1.0)) for i, (x, y) in enumerate(table)]
        for place in (middle, *(i for i in range(len(xs)) if i != middle))
        for times in (slip, 1 / slip)
    ]

    def other_sender(ratio: float) -> dict[str, Any]:
        return {"entered": (Entered(chain.id, tuple((x * ratio, y) for x, y in table)),)}

    other = named(_of_table(chain, "other"), "table.other", chain.name, **other_sender(usual))
    yield sized(other, row_of("table.other"), other_sender)
    by_kind = {
        "table.reversed": [list(zip(xs, reversed(ys), strict=True))],
        "table.row_off": [list(zip(xs, one, strict=True)) for one in ([ys[0], *ys[:-1]], [*ys[1:], ys[-1]])],
        "table.decimal": slipped,
    }
    for kind, tried in by_kind.items():
        allowed = [tuple(rows) for rows in tried if rows != list(table) and _may_stand(chain, rows)]
        faults = [
            named(
                _of_table(chain, kind.partition(".")[2]), kind, chain.name, entered=(Entered(chain.id, rows),)
            )
            for rows in allowed
        ]
        if faults:
            cells = [Cell(WHOLE, 1 / len(faults)) for _ in faults]
            yield replace(faults[0], sizes=tuple(map(Sizing, cells, faults)) if len(faults) > 1 else ())
    unit = OTHER_UNIT.get(chain.unit)
    if unit is not None:
        rows = [(x, in_unit(y, chain.unit, unit)) for x, y in table]
        yield named(
            _of_table(chain, "unit"),
            "table.unit",
            chain.name,
            unit_words(unit),
            entered=(Entered(chain.id, tuple(rows)),),
        )


def _of_table(chain: MeasuringChain, what: str) -> Address:
    return Address("channel", chain.id, "table", what)


def _may_stand(chain: MeasuringChain, rows: list[tuple[float, float]]) -> bool:
    try:
        replace(chain.scaling, table=tuple(rows))
    except BadInput:
        return False
    return True


def _exchanged(heard: list[tuple[MeasuringChain, Input]]) -> Iterator[LikelyFault]:
    """Two channels of one display, each set to the input of the other."""
    by_display: dict[tuple[str | None, str], list[tuple[MeasuringChain, Input]]] = {}
    for chain, stage in heard:
        by_display.setdefault((chain.display, stage.kind), []).append((chain, stage))
    for pairs in by_display.values():
        for (one, own), (other, its) in pairwise(pairs):
            if own.id != its.id:
                yield named(
                    Address("channel", one.id, "exchanged with", other.id),
                    "input.exchanged",
                    one.name,
                    other.name,
                    entered=(Entered(one.id, input=its.id), Entered(other.id, input=own.id)),
                )
