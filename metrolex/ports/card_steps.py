"""What is done at a place that is opened, kind by kind: the steps of a work card up to the joints.

Sizes come from the fittings, the section and ``data/cards.toml``; order and words are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from metrolex.errors import BadInput
from metrolex.fittings.connections import connection_called
from metrolex.fittings.drills import MATERIALS, DrillPlan, plan_hole
from metrolex.fittings.joints import size_words
from metrolex.ports.card_bench import Bench, Step
from metrolex.ports.facts import Facts, spare_mouths
from metrolex.ports.practices import practice_of
from metrolex.ports.rules import lambda_practice, straight_needed_mm, tap_practice
from metrolex.ports.spot import CONE_DEG, distance_for_spot_mm, spot_mm
from metrolex.ports.wideband import LEAST_TIP_DEG, PRACTICES
from metrolex.ports.zones import lambda_start_m
from metrolex.tables import load_table

__all__ = ["KINDS", "TITLES", "drill_plan"]


TITLES = {
    "plug": "plug out, sender in",
    "plate": "sandwich plate",
    "drill": "drill and tap",
    "weld": "weld a bung",
    "tee": "tee in a line",
    "hose": "adapter in a hose",
    "hose_tee": "tee in a small hose",
    "lambda": "lambda sensor",
    "spot": "tyre sensor",
    "banjo": "drilled banjo bolt",
    "through": "fitting through the wall",
    "fuel_port": "fuel port",
    "fuel_line": "fuel line",
    "ring": "ring under the plug",
    "bond": "bonded sender",
    "clip": "sender held in a clip",
}


def drill_plan(bench: Bench) -> DrillPlan | None:
    """The hole to drill at a place; None while its wall or thread is not known, or for a thread nobody taps."""
    if bench.facts.wall_mm is None or not bench.port.thread:
        return None
    material = bench.facts.material if bench.facts.material in MATERIALS else "steel"
    try:
        return plan_hole(
            connection_called(bench.port.thread),
            bench.facts.wall_mm,
            material,
            practice=tap_practice(bench.job),
        )
    except BadInput:
        return None


def _plug(bench: Bench) -> Iterator[Step]:
    what = "the new fitting" if bench.port.stack else "the sender"
    yield Step(
        f"Clean round the plug; {what} beside the old one: the same thread, no longer. Then take the plug out.",
        bench.port.thread,
    )
    if bench.place and bench.place.loss_l:
        yield Step("Sender ready in the other hand: in with it as soon as the plug is out.")


def _plate(bench: Bench) -> Iterator[Step]:
    yield Step("Filter off, seat wiped clean, old seal not left on the block.", bench.port.thread)
    yield Step(
        "Plate's seal oiled and facing the engine; mouths turned up or sideways before it is pulled tight."
    )
    spare = spare_mouths(bench.job, bench.port)
    if spare:
        yield Step(
            "Plug every mouth that is not used, on the bench.", f"{spare} plug{'s' if spare != 1 else ''}"
        )
    yield Step(
        "Stud or centre screw by the plate maker's figure, new filter hand-tight and three quarters of a turn.",
        "3/4 turn",
    )


def _drill(bench: Bench) -> Iterator[Step]:
    plan = drill_plan(bench)
    if plan is None:
        yield Step("Measure the wall first: no thread is planned without it.", "wall ?")
        return
    yield Step(
        "Is there room for drill and tap? Try the drill in place with the chuck on it. Flat, centre-punched."
    )
    yield Step(
        "Pilot square to the wall, then up in steps.",
        "  ".join(f"{size:g}" for size in plan.steps_mm) + " mm",
    )
    yield Step("Tap drill.", f"{plan.tap_drill.name} ({plan.tap_drill.size_mm:.2f} mm)")
    yield Step(plan.lubricant)
    if plan.thread.tapered:
        yield Step(
            "Tap a little, clean, try the fitting; stop when it goes in by hand this far. Tapped right through it never gets tight.",
            f"{size_words(plan.enters_by_hand_mm)}, {plan.enters_by_hand_mm / plan.thread.pitch_mm:.1f} turns",
        )
    else:
        yield Step("Tap through, square; chamfer the mouth for the washer.")
    yield Step("Threads that hold in this wall.", f"{plan.threads_engaged:.1f}")
    yield Step(f"Chips: {_swarf(bench.facts)}")
    if bench.facts.path is not None and bench.facts.path.kind == "exhaust":
        size = load_table("cards")["heat_shield"]["hole_mm"]
        yield Step("Heat shield: press it on the fitting to mark it, then cut it clear.", size_words(size))


def _swarf(facts: Facts) -> str:
    words = load_table("cards")["swarf"]
    kind = facts.path.kind if facts.path else ""
    if kind == "exhaust":
        turbine = facts.path.first("turbine") if facts.path else None
        upstream = turbine is not None and facts.at_m is not None and facts.at_m < turbine.at_m
        return str(words["turbine" if upstream else "exhaust"])
    return str(words.get({"engine_oil": "oil", "gearbox_oil": "oil"}.get(kind, kind), words["other"]))


def _weld(bench: Bench) -> Iterator[Step]:
    yield Step(
        "Mark the place with everything fitted: spanner, lead and heat shield need room.", _along(bench)
    )
    yield Step(
        "Battery off, electronics near by unplugged, no fuel or fluid in the part; welded all round by someone who does it for a living."
    )
    yield Step("Run the tap through the cold bung before anything goes in.", bench.port.thread)


def _tee(bench: Bench) -> Iterator[Step]:
    cut = next((fitting.cut_mm for fitting in bench.port.stack if fitting.cut_mm), None)
    yield Step(
        "Hold the tee against the line in its place and mark both ends; check that nothing touches it when the line is back.",
        _along(bench),
    )
    yield Step(
        "Line off, cut on the bench, square, with a pipe cutter.",
        f"cut out {size_words(cut)}"
        if cut
        else "the tee in hand, stop to stop: its length less what the line goes in at both ends",
    )
    yield Step("Deburr inside and out, blow through.")
    yield Step(
        "Nut, then ring, the ring's taper toward the tee at both ends; push the line home before tightening."
    )
    yield Step("Line back, its clip too: a line without its clip comes off.")


def _hose(bench: Bench) -> Iterator[Step]:
    yield Step("Engine cold, cap off slowly, coolant drained below the hose.")
    adapter = next((f for f in bench.port.stack if f.sort == "hose adapter"), None)
    bore, length = bench.facts.bore_mm, adapter.length_mm if adapter else 20.0
    size = _size(adapter.male if adapter else bench.port.thread)
    fits = (
        ""
        if bore is None or size is None
        else (" fits" if abs(bore - size) <= load_table("cards")["hose"]["fit_mm"] else " does NOT fit")
    )
    yield Step(
        "Hose bore against the adapter.",
        f"{bore:g} and {size:g} mm:{fits}" if bore is not None and size is not None else "measure both",
    )
    yield Step(
        "Straight hose for the adapter and both clamps; a bend does not seal.",
        f"{straight_needed_mm(length):.0f} mm straight",
    )
    yield Step(
        "Cut a ring out of the hose about as long as the adapter shows between its barbs, square, with a sharp knife.",
        size_words(length),
    )
    yield Step(
        "Water on the barbs, no grease; clamps behind the barb, screws where a driver reaches them later.",
        "2 clamps",
    )
    if bench.sender is not None and bench.sender.wires == 1:
        yield Step(
            "Ground lead from the adapter to the engine: rubber joins no metal, and stray current eats the radiator.",
            "under 1 ohm",
        )


def _hose_tee(bench: Bench) -> Iterator[Step]:
    yield Step("Note the factory sensor's value at idle before, to compare it after.")
    yield Step("Cut the hose close to the factory sensor, tee in, clamps on all three.", bench.port.thread)
    yield Step("Sender higher than the hose so that oil and water drain back; away from engine heat.")
    yield Step("Same factory value as before at idle and on a rev? If not, move the tee further away.")


def _lambda(bench: Bench) -> Iterator[Step]:
    low, high = PRACTICES[lambda_practice(bench.job)]
    path, at = bench.facts.path, bench.facts.at_m
    if path is not None and at is not None:
        distance = 1000 * (at - lambda_start_m(path, bench.job.paths))
        yield Step(f"Distance along the pipe, allowed {low:.0f} to {high:.0f} mm.", size_words(distance))
        yield Step(_catalyst_words(bench))
    else:
        yield Step(
            "Distance along the pipe from the head port, or from the turbine's outlet.",
            f"{low:.0f} to {high:.0f} mm",
        )
    angle = bench.port.spot.tip_angle_deg
    yield Step(
        "Tip above level so that condensate drains away from it.",
        f"{angle:g}°" if angle is not None else f"at least {LEAST_TIP_DEG:g}°",
    )
    facts = load_table("cards")["lambda"]
    turns = facts["thread_mm"] / 1.5
    yield Step(
        "Turn the lead back against the thread before screwing in, by as many turns as it will be screwed in.",
        f"{turns:.0f} turns",
    )
    yield Step(
        "Nothing on the tip. Snug as a spark plug.",
        f"{facts['socket_mm']:.0f} mm slotted socket",
    )
    yield Step(
        "After fitting, or before where the sensor hangs free: key on, engine off, until it is warm. In free air it stands at the lean end; what else it shows, its maker says.",
        "free-air check",
    )
    yield Step(
        "Heater and engine start together: a heated sensor in a wet pipe cracks, an unheated one soots up."
    )


def _catalyst_words(bench: Bench) -> str:
    path, at = bench.facts.path, bench.facts.at_m or 0.0
    catalyst = path.first("catalyst") if path else None
    if catalyst is None:
        return "No catalyst on this path."
    return (
        "Before the catalyst, as it should be."
        if at < catalyst.at_m
        else "Behind the catalyst: not a mixture any more."
    )


def _spot(bench: Bench) -> Iterator[Step]:
    width, distance = bench.port.tread.target_mm, bench.port.tread.distance_mm
    if width is not None:
        yield Step("Distance that covers the tread.", size_words(distance_for_spot_mm(width, CONE_DEG)))
    if distance is not None:
        seen = spot_mm(distance, CONE_DEG)
        words = (
            ""
            if width is None
            else (
                ", wider than the tread: it sees the arch too" if seen > width else f" of {width:g} mm tread"
            )
        )
        yield Step("What it sees from its bracket.", f"{seen:.0f} mm{words}")
    yield Step("Ahead of the tyre, behind the liner's edge: behind the tyre rubber, water and stones hit it.")
    yield Step(
        "Turn the wheel lock to lock and load the corner: nothing may touch, by hand and with the engine off."
    )


def _let_down(bench: Bench) -> Step:
    """The pressure is let down in a step of its own: with battery on and oil in, where the engine has to run for it."""
    how = practice_of(bench.job, "fuel_opening").name
    return Step(f"The pressure is off since its own step ({how}); the pump fuse is still out.", "0 bar")


def _fuel_port(bench: Bench) -> Iterator[Step]:
    yield _let_down(bench)
    yield Step("Rag round the port, cap off slowly, eyes covered.")


def _fuel_line(bench: Bench) -> Iterator[Step]:
    yield _let_down(bench)
    yield Step(
        "Prove the supply line by its markings, and follow it to pump and filter: the return goes back to the tank."
    )
    yield Step(
        "Hold the fitting against the line, mark both cuts, leave it long, cut square: a hose does not grow back."
    )
    yield Step(
        "Clamps past the barb; quick connectors pushed until they click, then pulled back once to prove it."
    )


def _ring(bench: Bench) -> Iterator[Step]:
    yield Step(
        "Plug out cold; ring in place of its washer, lead where no spanner squeezes it.", bench.port.thread
    )
    yield Step("Plug back by its maker's torque; cut the plug lead end fresh before the cap goes on.")


def _banjo(bench: Bench) -> Iterator[Step]:
    yield Step(
        "Only a made bolt with its hole drilled by its maker: one drilled at home breaks at the cross hole.",
        bench.port.thread,
    )
    yield Step(
        "Line and hose held with a second spanner while the old bolt is undone; it must not turn with it."
    )
    yield Step(
        "Faces of the banjo and of the port wiped clean, no scratch across them; new washers on both sides.",
        "2 washers",
    )
    yield Step(
        "The bolt in by hand all the way first: banjo free to turn, then set to its old angle and pulled tight."
    )
    yield Step(
        "Pressure-tested before the cover goes back: engine at idle, then at working pressure, both washers dry."
    )


def _through(bench: Bench) -> Iterator[Step]:
    hole = _size(bench.port.thread)
    yield Step(
        "Above the lowest point, clear of filter and dip tube inside: lay the part open or look through the drain first."
    )
    yield Step(
        "Hole, square to the wall, deburred on both sides.", f"{hole:g} mm" if hole else "by the fitting"
    )
    if bench.facts.wall_mm is not None:
        yield Step("Wall that is clamped between its two faces.", size_words(bench.facts.wall_mm))
    yield Step(
        "A washer under the head outside and one under the nut inside; the flat of the wall wide enough for both.",
        "2 washers",
    )
    yield Step("Nut held, body not turned, when the sender is tightened: it is the nut that seals.")
    yield Step("Filled and left overnight on clean paper before the vehicle goes out.")


def _bond(bench: Bench) -> Iterator[Step]:
    yield Step(
        "Paint off, degreased, structural epoxy, held while it cures; foam over it: bare it reads low.",
        "cure by its maker",
    )


def _clip(bench: Bench) -> Iterator[Step]:
    yield Step("Hold it there with tape for a day first: sun, vents, coolers and warm glass show themselves.")
    yield Step(
        "Tip in free air all round, plug pointing down so that water runs off it.",
        size_words(10.0) + " clear",
    )
    yield Step("Lead on with what is there, a loop at the plug; sealed where it comes through.")
    yield Step("Beside a thermometer in the shade, vehicle stood cold for an hour.", "within 2 °C")


def _along(bench: Bench) -> str:
    if bench.facts.path is None or bench.facts.at_m is None:
        return ""
    return f"{1000 * bench.facts.at_m:.0f} mm along {bench.facts.path.name.lower()}"


def _size(name: str) -> float | None:
    try:
        found = connection_called(name)
    except BadInput:
        return None
    return found.major_mm


#: The steps of each kind of card.
KINDS: dict[str, Callable[[Bench], Iterator[Step]]] = {
    "plug": _plug,
    "plate": _plate,
    "drill": _drill,
    "weld": _weld,
    "tee": _tee,
    "hose": _hose,
    "hose_tee": _hose_tee,
    "lambda": _lambda,
    "spot": _spot,
    "fuel_port": _fuel_port,
    "fuel_line": _fuel_line,
    "ring": _ring,
    "banjo": _banjo,
    "through": _through,
    "bond": _bond,
    "clip": _clip,
}
