"""The wires as the pages show them: where each can end, what each carries now."""

from __future__ import annotations

from typing import TypedDict

from metrolex.circuit import Resistor
from metrolex.harness.conductors import max_fuse_a
from metrolex.harness.cut_list import Cut, end_words
from metrolex.harness.cut_list import cut_list as cuts_of
from metrolex.harness.heat import guarded_where_it_lies
from metrolex.harness.loads import Load, load_of_wire
from metrolex.job import Conductor, End, Job
from metrolex.twin import Solved, addresses

__all__ = ["cut_list", "end_choices"]


def end_choices(job: Job) -> list[tuple[str, str, End]]:
    """Every place a wire can end: value for a form, words, end."""
    found = [End("tap", tap.id) for tap in job.taps]
    found += [End("ground", point.id) for point in job.grounds]
    found += [End("splice", splice.id) for splice in job.splices]
    found += [End("display", d.id, pin.id) for d in job.displays for pin in d.pins]
    found += [End("switch", s.id, terminal) for s in job.switches for terminal in s.terminals]
    found += [End("sender", s.id, terminal) for s in job.senders for terminal in s.terminals]
    found += [End("plug", plug.id, cavity.pin) for plug in job.connectors for cavity in plug.cavities]
    found += [End("port", port.id) for port in job.ports if not port.ground.grounded]
    found += [End("battery", "positive"), End("battery", "negative")]
    return [(f"{e.kind}|{e.id}|{e.terminal}", end_words(job, e), e) for e in found]


WireRow = TypedDict(
    "WireRow",
    {
        "wire": Conductor,
        "from": str,
        "to": str,
        "cut": Cut,
        "length": float | None,
        "amps": float | None,
        "drop": float | None,
        "load": Load,
        "guard_a": float | None,
    },
)


def cut_list(solved: Solved) -> list[WireRow]:
    """Every wire with its ends in words, its length, its current and drop in a state."""
    rows: list[WireRow] = []
    job = solved.network.job
    ohm = {e.name: e.ohm for e in solved.elements if isinstance(e, Resistor)}
    for cut in cuts_of(job):
        name = addresses.wire(cut.wire.id)
        amps = solved.solution.currents.get(name)
        drop = abs(amps) * ohm[name] if amps is not None else None
        load, guard_a = load_of_wire(job, cut.wire), guarded_where_it_lies(job, cut.wire)
        rows.append(
            {
                "wire": cut.wire,
                "from": cut.a,
                "to": cut.b,
                "cut": cut,
                "length": cut.length_m,
                "amps": abs(amps) if amps is not None else None,
                "drop": drop,
                "load": load,
                "guard_a": guard_a
                if load.steady_a and guard_a < max_fuse_a(cut.wire.size, cut.wire.system)
                else None,
            }
        )
    return rows
