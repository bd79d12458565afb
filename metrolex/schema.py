"""Job data of earlier schema versions, brought up step by step. Plain data in, plain data out: what cannot be meant is left for the gate to refuse."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

__all__ = ["brought_up", "tests_typed", "with_panels"]

Data = dict[str, Any]


def brought_up(data: Data, version: int) -> Data:
    """The data of a job as the present version writes it."""
    for step in _STEPS[version - 1 :]:
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


def _test_meant(data: Data, words: object) -> Data | None:
    """The test those words named; None where the part is gone: nobody could see such an observation any more."""
    if words == "battery":
        return {"kind": "battery", "id": "posts", "what": "volts"}
    ids = {
        kind: [part.get("id") for part in data.get(kind, []) if isinstance(part, dict)]
        for kind in ("displays", "senders", "channels")
    }
    for display in data.get("displays", []):
        for pin in display.get("pins", []):
            if words == f"{display.get('id')} pin {pin.get('id')}":
                return {"kind": "display", "id": display["id"], "what": "pin", "pin": pin["id"]}
    for kind, one, ending, what in (
        ("senders", "sender", "ohms", "ohms"),
        ("senders", "sender", "ground", "thread"),
        ("displays", "display", "ground", "ground"),
        ("channels", "channel", "shown", "shown"),
    ):
        for key in ids[kind]:
            if words == f"{key} {ending}":
                return {"kind": one, "id": key, "what": what}
    return None


_STEPS: tuple[Callable[[Data], Data], ...] = (with_panels, tests_typed)
