"""From the mouth of a port to a sender through a library of fittings: the way with the fewest joints.

Among those the shortest, then the one with most of its parts in stock. A shortest path over open ends: each step
screws a fitting on and leaves its other end open.
"""

from __future__ import annotations

import functools
import heapq
from collections import defaultdict
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.fittings.connections import Connection, alike, family_words, split_gender
from metrolex.fittings.fitting import End, Fitting
from metrolex.fittings.joints import Gender, Joint, join, partners

__all__ = ["Stack", "end_called", "goes_on", "joints_of", "make_up", "open_end_of", "solve_stack"]


@dataclass(frozen=True, slots=True)
class Stack:
    """Fittings from the port outward and the joints between, port first, the sender's last.

    ``found`` is False where no way through the library exists; then both are empty.
    """

    found: bool
    chain: tuple[Fitting, ...] = ()
    joints: tuple[Joint, ...] = ()
    findings: tuple[Finding, ...] = ()

    @property
    def length_mm(self) -> float:
        return sum(fitting.length_mm for fitting in self.chain)


def solve_stack(
    port: End,
    sender: End,
    library: Sequence[Fitting],
    stock: Collection[str] = (),
    must: Sequence[Collection[str]] = (),
) -> Stack:
    """The best chain of fittings between an open port and a sender.

    ``stock`` names the fittings at hand; ``must`` are sorts of fitting, one of each of which the chain has to hold. Fewest
    fittings, then least length, then fewest to buy. An answer without a way carries a stop.
    """
    goal = {(name, _other(sender.gender)) for name in partners(sender.connection, sender.gender)}
    takes = _by_end(tuple(library))
    everything = frozenset(range(len(must)))
    nothing: frozenset[int] = frozenset()
    start = (port.connection.name, port.gender, nothing)
    heap: list[tuple[tuple[int, float, int], int, End, frozenset[int], tuple[Fitting, ...]]] = [
        ((0, 0.0, 0), 0, port, nothing, ())
    ]
    best: dict[tuple[str, str, frozenset[int]], tuple[int, float, int]] = {start: (0, 0.0, 0)}
    serial = 0
    while heap:
        cost, _, open_end, held, chain = heapq.heappop(heap)
        here = (open_end.connection.name, open_end.gender, held)
        if cost > best[here]:
            continue
        if here[:2] in goal and held == everything:
            return make_up(port, chain, sender)
        for name in partners(open_end.connection, open_end.gender):
            for fitting, other, there in takes.get((name, _other(open_end.gender)), ()):
                total = (cost[0] + 1, cost[1] + fitting.length_mm, cost[2] + (fitting.name not in stock))
                now = held | {i for i, sorts in enumerate(must) if fitting.sort in sorts} if must else held
                if (*there, now) not in best or total < best[*there, now]:
                    best[*there, now] = total
                    serial += 1
                    heapq.heappush(heap, (total, serial, other, now, (*chain, fitting)))
    return Stack(False, findings=(*_look_alike(port, sender, joined=False), _no_way(port, sender, library)))


@functools.lru_cache(maxsize=32)  # a workshop's library is asked far more often than it changes
def _by_end(
    library: tuple[Fitting, ...],
) -> dict[tuple[str, str], list[tuple[Fitting, End, tuple[str, str]]]]:
    takes: dict[tuple[str, str], list[tuple[Fitting, End, tuple[str, str]]]] = defaultdict(list)
    for fitting in library:
        for entering, leaving in (fitting.ends, fitting.ends[::-1]):
            key = (leaving.connection.name, leaving.gender)
            takes[entering.connection.name, entering.gender].append((fitting, leaving, key))
    return takes


def make_up(port: End, chain: Sequence[Fitting], sender: End) -> Stack:
    """A chain that was chosen, with its joints; ``found`` is False where it does not go together."""
    ends = list(_open_ends(port, chain))
    try:
        joints = joints_of(port, chain, sender)
    except BadInput as fault:
        return Stack(
            False,
            tuple(chain),
            findings=(
                *_look_alike(ends[-1], sender, joined=False),
                Finding(
                    "stop",
                    "threads_do_not_join",
                    port.words(),
                    fault.message,
                    fault.allowed,
                    _way_out(ends[-1]),
                    "ports",
                ),
            ),
        )
    # Every mouth the sender passes on the bench tempts: those that take its first turns are named.
    tempting = [finding for end in ends[:-1] for finding in _look_alike(end, sender, joined=True)]
    return Stack(True, tuple(chain), joints, (*dict.fromkeys(tempting), *_tapers(joints), *_spares(chain)))


def _way_out(open_end: End) -> str:
    return (
        "Take an adapter that joins the two."
        if open_end.connection.threaded
        else "Take a sender or a fitting of that size."
    )


def _open_ends(port: End, chain: Sequence[Fitting]) -> Iterable[End]:
    """The port, then the end each fitting leaves open, as far as the chain goes together."""
    yield port
    for i in range(len(chain)):
        try:
            yield open_end_of(port, chain[: i + 1])
        except BadInput:
            return


def joints_of(port: End, chain: Sequence[Fitting], sender: End) -> tuple[Joint, ...]:
    """The joints of a chain, port first, each fitting turned the way round that lets the sender on.

    Raises BadInput (``fittings`` or ``sender``) at the first two ends that do not join.
    """
    ways = _ways(port, chain)
    for joints, open_end in ways:
        last = _join_ends(open_end, sender)
        if last is not None:
            return (*joints, last)
    open_end = ways[0][1]
    raise BadInput(
        "sender",
        sender.words(),
        open_end.words(),
        f"The sender, {sender.words()}, does not go on {open_end.words()}.",
    )


def open_end_of(port: End, chain: Sequence[Fitting]) -> End:
    """The end a chain leaves open. Raises BadInput (``fittings``) where the chain itself does not join."""
    return _ways(port, chain)[0][1]


def goes_on(open_end: End, fitting: Fitting) -> bool:
    """Whether a fitting can be screwed on an open end, one way round or the other."""
    return any(_join_ends(open_end, end) is not None for end in fitting.ends)


Way = tuple[tuple[Joint, ...], End]


def _ways(port: End, chain: Sequence[Fitting]) -> list[Way]:
    """Every way a chain goes together, one for each end it can leave open: its joints and that end. At least one.

    Raises BadInput (``fittings``) at the first fitting that goes on neither way round.
    """
    ways: list[Way] = [((), port)]
    for fitting in chain:
        after: dict[tuple[str, str], Way] = {}
        for joints, open_end in ways:
            for entering, leaving in (fitting.ends, fitting.ends[::-1]):
                joint = _join_ends(open_end, entering)
                if joint is not None:
                    after.setdefault((leaving.connection.name, leaving.gender), ((*joints, joint), leaving))
        if not after:
            open_end = ways[0][1]
            raise BadInput(
                "fittings",
                fitting.name,
                open_end.words(),
                f"'{fitting.name}' does not go on {open_end.words()}.",
            )
        ways = list(after.values())
    return ways


def _join_ends(one: End, other: End) -> Joint | None:
    if one.gender == other.gender:
        return None
    male, female = (one, other) if one.gender == "male" else (other, one)
    return join(male.connection, female.connection)


def _other(gender: Gender) -> Gender:
    return "female" if gender == "male" else "male"


def _no_way(port: End, sender: End, library: Sequence[Fitting]) -> Finding:
    if not library:
        return Finding(
            "stop",
            "no_fittings",
            port.words(),
            "There is no fitting in the library.",
            "0 fittings",
            "Take the generic ones back in, or enter your own.",
            "ports",
        )
    return Finding(
        "stop",
        "no_way_in",
        port.words(),
        f"No chain of fittings leads from {port.words()} to {sender.words()}.",
        f"{len(library)} fittings tried",
        f"Enter an adapter, or take a sender for {family_words(port.connection.family)}.",
        "ports",
    )


def _look_alike(port: End, sender: End, *, joined: bool) -> Iterable[Finding]:
    """Port and sender that start into each other and do not belong together."""
    male, female = sender.connection, port.connection
    if port.gender == sender.gender or not _mistakable(male, female):
        return
    if male.flank_deg != female.flank_deg:
        figure = f"{male.flank_deg}° against {female.flank_deg}°"
    else:
        figure = f"pitch {male.pitch_mm:.2f} against {female.pitch_mm:.2f} mm"
    yield Finding(
        "caution" if joined else "stop",
        "look_alike_thread",
        f"{male.name} in {female.name}",
        f"{male.name} starts in {female.name}, tightens and leaks: pitch, angle or seat differ.",
        figure,
        "Never straight in: the adapter between them comes first."
        if joined
        else "Take an adapter between the two.",
        "ports",
    )


def _mistakable(male: Connection, female: Connection) -> bool:
    return join(male, female) is None and alike(male, female)


def _tapers(joints: Iterable[Joint]) -> Iterable[Finding]:
    for joint in joints:
        if joint.taper_in_parallel:
            yield Finding(
                "caution",
                "taper_in_parallel",
                f"{joint.male.name} in {joint.female.name}",
                "A taper in a parallel thread bears on two or three threads and wedges the boss apart, alloy first.",
                joint.seal,
                "Sealant, not force; better a parallel adapter on a washer.",
                "ports",
            )


def _spares(chain: Iterable[Fitting]) -> Iterable[Finding]:
    for fitting in chain:
        if fitting.spare_ports:
            yield Finding(
                "note",
                "plug_spare_ports",
                fitting.name,
                "Mouths nobody uses pump the fluid out.",
                f"{fitting.spare_ports} to plug",
                "Plug them on the bench.",
                "ports",
            )


def end_called(text: str, field: str, default: Gender) -> End:
    """An open end from words ('1/8-27 NPT female'). Raises BadInput."""
    connection, gender = split_gender(text, field, default)
    return End(connection, gender)
