"""Job data of earlier schema versions, brought up step by step. Plain data in, plain data out: what cannot be meant is left for the gate to refuse."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

__all__ = [
    "brought_up",
    "channels_parted",
    "parts_parted",
    "shelf_part_brought_up",
    "tests_typed",
    "vehicle_parted",
    "with_panels",
    "words_settled",
]

Data = dict[str, Any]


def brought_up(data: Data, version: int, upto: int | None = None) -> Data:
    """The data of a job as the present version writes it, or a version between."""
    for step in _STEPS[version - 1 : upto and upto - 1]:
        data = step(data)
    return data


def with_panels(data: Data) -> Data:
    """Data of schema version 1, where a circuit told its panel in words, with those words as panels."""
    circuits = data.get("circuits")
    if "panels" in data or not isinstance(circuits, list):
        return data
    moved, panels = [], {}
    for circuit in circuits:
        if not isinstance(circuit, dict) or not isinstance(circuit.get("panel"), str):
            moved.append(circuit)
            continue
        words = circuit["panel"].strip()
        rest = {name: value for name, value in circuit.items() if name != "panel"}
        if words:
            panels[words[:60]] = {"id": words[:60], "name": words}
            rest["panel"] = words[:60]
        moved.append(rest)
    return {**data, "circuits": moved} | ({"panels": list(panels.values())} if panels else {})


def tests_typed(data: Data) -> Data:
    """Data of schema version 2, where an observation named its test in words, with the part and what of it told apart."""
    observations = data.get("observations")
    if not isinstance(observations, list):
        return data
    moved = []
    for seen in observations:
        test = _test_meant(data, seen.get("test")) if isinstance(seen, dict) else None
        if not isinstance(seen, dict) or not isinstance(seen.get("test"), str):
            moved.append(seen)
        elif test is not None:
            moved.append({**seen, "test": test})
    return {**data, "observations": moved}


def _parts(data: Data, kind: str) -> list[Data]:
    """The parts of a list that are parts at all."""
    listed = data.get(kind)
    return [part for part in listed if isinstance(part, dict)] if isinstance(listed, list) else []


def _test_meant(data: Data, words: object) -> Data | None:
    """The test those words named; None where the part is gone: nobody could see such an observation any more."""
    if words == "battery":
        return {"kind": "battery", "id": "posts", "what": "volts"}
    for display in _parts(data, "displays"):
        for pin in _parts(display, "pins"):
            if words == f"{display.get('id')} pin {pin.get('id')}":
                return {"kind": "display", "id": display["id"], "what": "pin", "pin": pin["id"]}
    for kind, one, ending, what in (
        ("senders", "sender", "ohms", "ohms"),
        ("senders", "sender", "ground", "thread"),
        ("displays", "display", "ground", "ground"),
        ("channels", "readout", "shown", "shown"),
    ):
        for part in _parts(data, kind):
            if words == f"{part.get('id')} {ending}":
                return {"kind": one, "id": part["id"], "what": what}
    return None


#: Where each field of the flat vehicle and supply of schema version 2 stands since; (record, name there).
_VEHICLE = {
    "engine": ("engine", "described"),
    "fuel": ("fuel", "burns"),
    **{
        name: ("engine", name)
        for name in (
            "cylinders",
            "strokes",
            "layout",
            "cooling",
            "induction",
            "idle_rpm",
            "redline_rpm",
            "power_kw",
        )
    },
    **{name: ("fuel", name) for name in ("fuel_feed", "fuel_line_bar", "tank_l", "ethanol_ceiling_pct")},
    **{
        name: ("driveline", name) for name in ("gearbox", "axle_ratio", "gear_ratios", "tyre", "tyre_wear_mm")
    },
    **{
        name: ("identity", name)
        for name in ("name", "maker", "model", "year", "length_m", "mass_kg", "altitude_m", "notes")
    },
}
_SUPPLY = {
    "rest_v": ("state", "rest_v"),
    "alternator_v": ("state", "charging_v"),
    **{
        name: ("battery", name)
        for name in ("battery_ohm", "charge_ohm", "alternator_ohm", "rest_tolerance_v", "inner_tolerance_pct")
    },
    **{name: ("starting", name) for name in ("starter_a", "starter_tolerance_pct", "start_level")},
    **{
        name: ("straps", name)
        for name in (
            "negative_to_engine_ohm",
            "negative_to_body_ohm",
            "engine_to_body_ohm",
            "strap_tolerance_pct",
        )
    },
    **{name: ("loads", name) for name in ("run_load_a", "park_load_a", "head_load_a", "load_tolerance_pct")},
}


def vehicle_parted(data: Data) -> Data:
    """Data of schema version 2, with one flat vehicle, a supply beside it and volts in the survey too: parted by what they belong to.

    Where both say the volts, those the circuit was worked out with hold; the day is the survey's.
    """
    vehicle, supply, survey = (data.get(name) for name in ("vehicle", "supply", "survey"))
    if not isinstance(vehicle, dict):
        return data
    parted = _parted(vehicle, _VEHICLE)
    electrics = _parted(supply, _SUPPLY) if isinstance(supply, dict) else {}
    if isinstance(survey, dict):
        seen = {name: survey[name] for name in ("rest_v", "charging_v") if survey.get(name) is not None}
        if seen:
            dated = {"measured_on": survey["day"]} if survey.get("day") else {}
            electrics["state"] = {**seen, **dated, **electrics.get("state", {})}
        survey = {name: value for name, value in survey.items() if name not in ("rest_v", "charging_v")}
    if electrics:
        parted["electrics"] = electrics
    rest = {name: value for name, value in data.items() if name != "supply"}
    return {**rest, "vehicle": parted} | ({"survey": survey} if isinstance(survey, dict) else {})


def _parted(flat: Data, places: dict[str, tuple[str, str]]) -> Data:
    found: Data = {}
    for name, value in flat.items():
        record, there = places.get(name, ("", name))
        if record:
            found.setdefault(record, {})[there] = value
        else:
            found[name] = value
    return found


#: What of the flat channel of schema version 2 belongs to its source and to its readout; (record, name there).
_CHANNEL = {
    "source": ("source", "kind"),
    **{name: ("source", name) for name in ("sender", "port", "run", "signal")},
    **{name: ("readout", name) for name in ("display", "input", "scaling", "gears", "shift")},
    "warn_low": ("alarm", "low"),
    "warn_high": ("alarm", "high"),
    "manner": ("alarm", "behaviour"),
    **{
        name: ("channel", name)
        for name in ("id", "name", "measurand", "unit", "true_stopped", "true_running", "tank")
    },
}
#: Fields of its counts that tell how pulses arise; the others are what is set in the display.
_SENSED = {
    "road": ("sensed", "pulses_per_rev", "circumference_m", "cable_turns_per_km"),
    "engine": ("pickup", "pulses_per_rev"),
}


def channels_parted(data: Data) -> Data:
    """Data of schema version 2, with one flat channel, as channel, source and readout."""
    listed = data.get("channels")
    if not isinstance(listed, list):
        return data
    found: dict[str, list[object]] = {"channels": [], "sources": [], "readouts": []}
    for flat in listed:
        if not isinstance(flat, dict) or not isinstance(flat.get("id"), str):
            found["channels"].append(flat)
            continue
        parted = _parted({k: v for k, v in flat.items() if k not in _SENSED}, _CHANNEL)
        key = flat["id"]
        source, readout = parted.get("source", {}), parted.get("readout", {})
        for count, sensed in _SENSED.items():
            if isinstance(flat.get(count), dict):
                source[count] = {k: v for k, v in flat[count].items() if k in sensed}
                readout[count] = {k: v for k, v in flat[count].items() if k not in sensed}
        if "alarm" in parted:
            readout["alarm"] = parted["alarm"]
        unknown = {k: v for k, v in parted.items() if k not in ("channel", "source", "readout", "alarm")}
        found["channels"].append({**parted["channel"], "source": key, **unknown})
        found["sources"].append({"id": key, **source})
        found["readouts"].append({"id": key, "channel": key, **readout})
    return {**data, **found}


def words_settled(data: Data) -> Data:
    """Data of schema version 2, with a few words that are trade words since: practice, waiver, thermocouple type."""
    moved = {("waivers" if name == "overrides" else name): value for name, value in data.items()}
    brief = data.get("brief")
    if isinstance(brief, dict) and isinstance(brief.get("schools"), list):
        practices = [
            {("practice" if k == "school" else k): v for k, v in one.items()}
            for one in _parts(brief, "schools")
        ]
        moved["brief"] = {**{k: v for k, v in brief.items() if k != "schools"}, "practices": practices}
    if isinstance(data.get("displays"), list):
        moved["displays"] = [_with_words(display) for display in data["displays"]]
    if isinstance(data.get("runs"), list):
        moved["runs"] = [_renamed(run, "couple", "thermocouple_type") for run in data["runs"]]
    return moved


def shelf_part_brought_up(kind: str, part: Data) -> Data:
    """A sender or a display of schema version 2 or 3 that stands by itself, on a workshop's shelf, as the present version writes it."""
    said = _with_words(part) if kind == "display" else part
    fresh: Data = parts_parted({f"{kind}s": [said]})[f"{kind}s"][0]
    return fresh


def _with_words(display: object) -> object:
    if not isinstance(display, dict) or not isinstance(display.get("inputs"), list):
        return display
    inputs = [_renamed(stage, "couple", "thermocouple_type") for stage in display["inputs"]]
    said = [
        {**s, "kind": "thermocouple"} if isinstance(s, dict) and s.get("kind") == "couple" else s
        for s in inputs
    ]
    return {**display, "inputs": said}


def _renamed(part: object, old: str, new: str) -> object:
    return {(new if k == old else k): v for k, v in part.items()} if isinstance(part, dict) else part


#: Where each field of the flat port and input of schema version 3 stands since; (record, name there).
_PORT = {
    **{
        name: ("spot", name)
        for name in (
            "path",
            "at_m",
            "entry",
            "access",
            "tip_angle_deg",
            "hangs_lowest",
            "moving_near",
        )
    },
    **{name: ("wall", name) for name in ("material", "wall_mm", "bore_mm", "straight_mm", "peak_degc")},
    **{name: ("ground", name) for name in ("grounded", "ground_at", "thread_ohm")},
    **{name: ("tread", name) for name in ("distance_mm", "target_mm")},
}
_SENDER = {
    **{name: ("output", name) for name in ("supply_v", "load_a", "output_ohm", "ratiometric")},
    **{
        name: ("body", name)
        for name in ("thread", "reach_mm", "probe_mm", "max_degc", "proof_bar", "dissipation_mw_per_k")
    },
}
_DISPLAY = {
    **{name: ("supply", name) for name in ("nominal_v", "min_v", "needs_crank", "rides_through_ms")},
    **{name: ("lamps", name) for name in ("lighting", "no_dimmer")},
    **{name: ("set_up", name) for name in ("firmware", "set_up_on")},
}
_CIRCUIT = {
    **{name: ("slot", name) for name in ("panel", "row", "column", "fed")},
    **{name: ("where", name) for name in ("found_at", "zone", "colour")},
}
_CONDUCTOR = {
    **{name: ("look", name) for name in ("colour", "stripe", "mark")},
    **{name: ("sheath", name) for name in ("twist", "shield", "insulation")},
}
_INPUT = {
    **{
        name: ("circuit", name)
        for name in (
            "pull_up_ohm",
            "reference_v",
            "input_ohm",
            "pull_up_tolerance_pct",
            "reference_tolerance_pct",
        )
    },
    **{name: ("converter", name) for name in ("adc_bits", "ratiometric", "adc_offset_lsb")},
    **{name: ("table", name) for name in ("rows", "x_step", "y_step", "first")},
}


def parts_parted(data: Data) -> Data:
    """Data of schema version 3, with flat ports, inputs, displays, senders, circuits and wires: parted by what belongs together."""
    moved = dict(data)
    for kind, part in _PARTING.items():
        if isinstance(data.get(kind), list):
            moved[kind] = [part(one) if isinstance(one, dict) else one for one in data[kind]]
    return moved


def _port_parted(port: Data) -> Data:
    parted = _parted(port, _PORT)
    wall = parted.pop("wall", None)
    if wall is not None:
        parted["spot"] = {**parted.get("spot", {}), "wall": wall}
    return parted


def _display_parted(display: Data) -> Data:
    parted = _parted(display, _DISPLAY)
    if isinstance(display.get("inputs"), list):
        inputs = [_parted(stage, _INPUT) if isinstance(stage, dict) else stage for stage in display["inputs"]]
        parted["inputs"] = inputs
    return parted


_PARTING: dict[str, Callable[[Data], Data]] = {
    "ports": _port_parted,
    "displays": _display_parted,
    "senders": lambda sender: _parted(sender, _SENDER),
    "circuits": lambda circuit: _parted(circuit, _CIRCUIT),
    "conductors": lambda wire: _parted(wire, _CONDUCTOR),
}


def _third(data: Data) -> Data:
    return words_settled(channels_parted(vehicle_parted(tests_typed(data))))


#: What brings each version up to the next, the first to the second at the head.
_STEPS: tuple[Callable[[Data], Data], ...] = (with_panels, _third, parts_parted)
