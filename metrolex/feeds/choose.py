"""Which circuit to tap for each need, and for every other one why not."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from metrolex.feeds.classify import FeedClass, Verdict, classify_circuits
from metrolex.feeds.clearance import FREE, Clearance
from metrolex.feeds.fuses import tap_limit_a
from metrolex.feeds.proof import place_words, proof_of
from metrolex.feeds.safety import standing_of_circuit
from metrolex.findings import Finding
from metrolex.job import Circuit

__all__ = [
    "SERVES",
    "Candidate",
    "Choice",
    "Site",
    "candidates_for",
    "choose_taps",
    "late_reading_missing",
    "purpose_unknown",
]

#: Which classes serve a need, the plainest first.
SERVES: dict[str, tuple[FeedClass, ...]] = {
    "constant": ("constant",),
    "accessory": ("accessory", "ignition", "ignition_crank"),
    "ignition": ("ignition", "ignition_crank"),
    "ignition_crank": ("ignition_crank",),
    "lamps": ("lamps", "dimmed"),
}
_STANDING_RANK = {"fair": 0, "avoid": 1, "unknown": 2}


@dataclass(frozen=True, slots=True)
class Site:
    """Where a circuit lies: the way to the displays in metres, what a tap there runs into."""

    distance_m: float = 0.0
    clearance: Clearance = FREE


@dataclass(frozen=True, slots=True)
class Candidate:
    """A circuit held against a need: may it serve, and in a sentence why or why not; ``doubted`` where it is only the best of what there is, ``final`` where it is never tapped."""

    circuit: Circuit
    verdict: Verdict
    serves: bool
    reason: str
    rank: tuple[float, ...] = ()
    doubted: bool = False
    final: bool = False


@dataclass(frozen=True, slots=True)
class Choice:
    """The circuit taken for each need (None where none serves) with everything that was weighed."""

    taken: dict[str, str | None]
    candidates: dict[str, tuple[Candidate, ...]]
    findings: tuple[Finding, ...]


def choose_taps(
    circuits: Sequence[Circuit],
    loads_a: Mapping[str, float],
    limits_a: Mapping[str, float] | None = None,
    sites: Mapping[str, Site] | None = None,
    *,
    cluster_out: bool = False,
) -> Choice:
    """Take the best circuits for all needs together: as many needs met as can be, then the least risk in sum.

    Risk is, gravest first: nobody knows what it feeds, dimmed, unproved, standing, what the tap runs into, class, live in acc, then distance and
    headroom. ``loads_a`` is the load in ampere by need, peaks counted; ``limits_a`` the tap's limit by circuit id where it is
    not the usual one; ``sites`` where each circuit lies; ``cluster_out`` tells that the old cluster's feeds are free. One circuit may serve two needs while its tap carries both.
    """
    verdicts = classify_circuits(circuits)
    limits, places = limits_a or {}, sites or {}
    weighed = {
        need: candidates_for(need, load, circuits, verdicts, limits, {}, places, cluster_out=cluster_out)
        for need, load in loads_a.items()
    }
    taken = _best_together(weighed, loads_a, limits)
    placed: dict[str, float] = {}
    findings: list[Finding] = []
    for need, load_a in loads_a.items():
        found = candidates_for(
            need, load_a, circuits, verdicts, limits, placed, places, cluster_out=cluster_out
        )
        weighed[need] = found
        best = next((c for c in found if c.circuit.id == taken[need]), None)
        if best is None:
            findings.append(_no_feed(need, found))
            continue
        placed[best.circuit.id] = placed.get(best.circuit.id, 0.0) + load_a
        findings.extend(_reservations(need, best, cluster_out))
    return Choice(taken, weighed, tuple(findings))


def _best_together(
    weighed: Mapping[str, Sequence[Candidate]], loads_a: Mapping[str, float], limits: Mapping[str, float]
) -> dict[str, str | None]:
    """Branch and bound over the needs: the rank of a set is the sum of its members' ranks, element by element."""
    needs = list(weighed)
    serving = {need: [c for c in weighed[need] if c.serves] for need in needs}
    width = 1 + max((len(c.rank) for found in serving.values() for c in found), default=0)
    nothing = (0.0,) * width
    unmet = (1.0,) + (0.0,) * (width - 1)

    def plus(a: tuple[float, ...], b: tuple[float, ...]) -> tuple[float, ...]:
        return tuple(x + y for x, y in zip(a, b, strict=True))

    floors = [nothing]
    for need in reversed(needs):
        least = (0.0, *serving[need][0].rank) if serving[need] else unmet
        floors.append(plus(floors[-1], least))
    floors.reverse()
    best: tuple[tuple[float, ...], dict[str, str | None]] | None = None

    def descend(
        i: int, cost: tuple[float, ...], taken: dict[str, str | None], placed: dict[str, float]
    ) -> None:
        nonlocal best
        if best is not None and plus(cost, floors[i]) >= best[0]:
            return
        if i == len(needs):
            best = (cost, dict(taken))
            return
        need = needs[i]
        for candidate in serving[need]:
            key = candidate.circuit.id
            before = placed.get(key, 0.0)
            if before + loads_a[need] > limits.get(key, tap_limit_a()):
                continue
            descend(
                i + 1,
                plus(cost, (0.0, *candidate.rank)),
                {**taken, need: key},
                {**placed, key: before + loads_a[need]},
            )
        descend(i + 1, plus(cost, unmet), {**taken, need: None}, placed)

    descend(0, nothing, {}, {})
    assert best is not None, "leaving every need unmet is always possible"
    return best[1]


def candidates_for(
    need: str,
    load_a: float,
    circuits: Sequence[Circuit],
    verdicts: Mapping[str, Verdict],
    limits_a: Mapping[str, float],
    placed_a: Mapping[str, float],
    sites: Mapping[str, Site] | None = None,
    *,
    cluster_out: bool = False,
) -> tuple[Candidate, ...]:
    """Every circuit held against one need, best first, those that do not serve last."""
    found = [
        _weigh(
            need,
            load_a + placed_a.get(c.id, 0.0),
            c,
            verdicts[c.id],
            limits_a.get(c.id, tap_limit_a()),
            (sites or {}).get(c.id, Site()),
            cluster_out,
        )
        for c in circuits
    ]
    return tuple(sorted(found, key=lambda candidate: (not candidate.serves, candidate.rank)))


def _weigh(
    need: str,
    load_a: float,
    circuit: Circuit,
    verdict: Verdict,
    limit_a: float,
    site: Site,
    cluster_out: bool,
) -> Candidate:
    standing = standing_of_circuit(circuit, verdict, cluster_out)
    if standing.grade == "never":
        return Candidate(circuit, verdict, False, f"Never tapped: {standing.system}.", final=standing.final)
    if verdict.feed not in SERVES[need]:
        return Candidate(circuit, verdict, False, _unfit(need, verdict))
    if load_a > limit_a:
        return Candidate(
            circuit, verdict, False, f"{load_a:g} A is more than its tap carries, {limit_a:g} A."
        )
    proof = proof_of(circuit)
    proved = circuit.fuse_pulled_dead is True or not proof.needed
    plainness = SERVES[need].index(verdict.feed)
    dimmed = verdict.feed == "dimmed"
    unknown = standing.grade == "unknown" and not circuit.straight
    sleepy = need == "constant" and verdict.may_sleep and not circuit.straight
    rank = (
        float(unknown),
        float(dimmed),
        float(not proved),
        float(sleepy),
        -1.0 if standing.freed else float(_STANDING_RANK[standing.grade]),
        float(not site.clearance.free),
        float(bool(circuit.taken_by)),
        float(plainness),
        float("acc" in verdict.live and need == "ignition_crank"),
        float(circuit.unfused),
        site.distance_m,
        -(circuit.rating_a or 0.0),
    )
    words = [
        verdict.reason,
        proof.done if proved else f"Not proved yet: {proof.remedy[0].lower()}{proof.remedy[1:]}",
    ]
    if standing.freed:
        words.append("It fed the old cluster, which is out.")
    if unknown:
        words.append(place_words(circuit)["ask"])
    if sleepy:
        words.append(verdict.next_step)
    if standing.grade == "avoid":
        words.append(f"Better left alone: {standing.system}.")
    if circuit.taken_by:
        words.append(f"Tapped already by {circuit.taken_by}, {circuit.taken_a:.3g} A: join that tap.")
    if not site.clearance.free:
        words.append(f"Tight: {site.clearance.words()}.")
    if site.distance_m:
        words.append(f"{site.distance_m:.1f} m to the displays.")
    words.append(f"{limit_a - load_a:.3g} A left on its tap.")
    reason = " ".join(word for word in words if word)
    return Candidate(circuit, verdict, True, reason, rank, unknown or standing.grade == "avoid")


def _unfit(need: str, verdict: Verdict) -> str:
    if verdict.feed == "accessory" and need in ("ignition", "ignition_crank"):
        return "Accessory: drops while cranking, and stays on with the key in acc."
    if verdict.feed == "ignition" and need == "ignition_crank":
        return "Ignition that drops while cranking: the display would restart at each start."
    if verdict.feed == "timed":
        return "Timed: it goes to sleep some minutes after key-off."
    if verdict.feed == "constant":
        return "Constant: it would never switch off and drain the battery."
    return verdict.reason


def _no_feed(need: str, found: Sequence[Candidate]) -> Finding:
    nearest = next((c for c in found if c.verdict.feed in SERVES[need]), None)
    reason = f"No circuit on the sheet serves as {need.replace('_', ' ')}."
    if nearest:
        reason += f" {nearest.circuit.id} would, but: {nearest.reason}"
    return Finding(
        "stop",
        "no_feed",
        need,
        reason,
        remedy="Probe more circuits, or look at the radio plug.",
        place="feeds",
    )


def purpose_unknown(circuit: Circuit) -> Finding:
    """A circuit nobody can tell the purpose of."""
    return Finding(
        "caution",
        "purpose_unknown",
        circuit.id,
        "Its name does not say what it feeds.",
        circuit.purpose,
        place_words(circuit)["ask"],
        "feeds",
    )


def late_reading_missing(circuit: Circuit, verdict: Verdict) -> Finding:
    """A memory feed that was only read with the key just turned off."""
    return Finding(
        "caution",
        "late_reading_missing",
        circuit.id,
        "Nobody has read it late: as a memory feed it may go to sleep and lose the settings.",
        remedy=verdict.next_step,
        place="feeds",
    )


def _reservations(need: str, best: Candidate, cluster_out: bool) -> list[Finding]:
    found = []
    name, proof = best.circuit.id, proof_of(best.circuit)
    standing = standing_of_circuit(best.circuit, best.verdict, cluster_out)
    if best.circuit.fuse_pulled_dead is not True and proof.needed:
        found.append(
            Finding("caution", "unproved_circuit", name, proof.missing, remedy=proof.remedy, place="feeds")
        )
    if standing.grade == "unknown" and not best.circuit.straight:
        found.append(purpose_unknown(best.circuit))
    if need == "constant" and best.verdict.may_sleep and not best.circuit.straight:
        found.append(late_reading_missing(best.circuit, best.verdict))
    if best.verdict.feed == "dimmed":
        found.append(
            Finding(
                "caution",
                "dimmed_lamp_feed",
                name,
                "The only lamp feed is a dimmed one; some displays must not see it.",
                f"{best.verdict.dim_ratio:.0%} of full",
                "Look for a plain parking-lamp circuit.",
                "feeds",
            )
        )
    if best.verdict.feed == "ignition_crank" and "acc" in best.verdict.live:
        found.append(
            Finding(
                "caution",
                "live_in_acc",
                name,
                "This circuit is live in acc too: the display wakes with the radio.",
                remedy="Take a circuit live in run and crank only, if there is one.",
                place="feeds",
            )
        )
    if standing.grade == "avoid":
        found.append(
            Finding(
                "caution",
                "better_left_alone",
                name,
                f"Better left alone: {standing.system}.",
                remedy="Take a comfort circuit if one serves.",
                place="feeds",
            )
        )
    return found
