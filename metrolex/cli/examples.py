"""Inputs that work for the calculations on a whole job: made without loading the core."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

__all__ = ["EXAMPLES"]

_VAN = Path(__file__).parents[1] / "data" / "examples" / "van.json"


def _van() -> dict[str, Any]:
    data: dict[str, Any] = json.loads(_VAN.read_text(encoding="utf-8"))
    return data


def _looked_at() -> dict[str, Any]:
    return {"job": _van(), "state": {"key": "run", "lamps": "off", "engine": "running"}, "faults": []}


def _act() -> dict[str, Any]:
    return {"job": _van(), "act": "harness.set_wire", "with": {"key": "W3", "data": {"length_m": 2.4}}}


def _seen() -> dict[str, Any]:
    running = {"key": "run", "lamps": "off", "engine": "running"}
    return {
        "job": _van(),
        "observations": [
            {"state": running, "test": {"kind": "shown", "channel": "coolant"}, "value": "dashes"}
        ],
    }


def _whole() -> dict[str, Any]:
    return {"job": _van()}


def _steps() -> dict[str, Any]:
    return {
        "steps": [
            {"name": "find the feed", "minutes": 10, "needs": ["not battery off"]},
            {"name": "trim off", "minutes": 15, "makes": ["trim off"]},
            {"name": "glue the pod", "minutes": 5, "needs": ["trim off"], "wait_minutes": 60},
            {"name": "tap the feed", "minutes": 20, "needs": ["battery off", "find the feed"]},
            {"name": "lay the lead", "minutes": 25, "needs": ["trim off"]},
            {"name": "gauge in", "minutes": 10, "needs": ["glue the pod", "battery off", "lay the lead"]},
            {"name": "prove", "minutes": 15, "needs": ["not battery off", "gauge in", "tap the feed"]},
        ]
    }


EXAMPLES = {
    "twin": _looked_at,
    "check": _looked_at,
    "points": _looked_at,
    "estimate": _looked_at,
    "diagnose": _seen,
    "prove": _whole,
    "order": _steps,
    "act": _act,
}
