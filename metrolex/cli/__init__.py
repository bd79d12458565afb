"""The command line: every calculation, JSON in, JSON out. See docs/command-line.md."""

from __future__ import annotations

import importlib
import json
import sys
from collections.abc import Sequence
from difflib import get_close_matches

from metrolex.cli.calculation import Calculation
from metrolex.cli.examples import EXAMPLES
from metrolex.errors import BadInput, CircuitError
from metrolex.intake import parse_json, read

__all__ = ["CALCULATIONS", "main"]

#: Name -> (module that holds it, a line of help). Modules are imported only when asked for.
CALCULATIONS = {
    "sender": ("senders", "what a sender gives at a reading, or reads at an output"),
    "fit": ("scaling", "a sender's law from measured points"),
    "table": ("scaling", "the best rows for a display's table, beside equally spaced ones"),
    "display": ("senders", "what a display shows at true values, through input, wire and table"),
    "budget": ("scaling", "where the error of a reading comes from, part by part"),
    "match": ("scaling", "series and parallel resistors that make a sender suit a gauge"),
    "speed": ("speed", "pulses for a distance from tyre, driveline and pulses a turn"),
    "gps": ("speed", "a speedometer's setting from runs against GPS, and the legal band"),
    "tach": ("speed", "pulses a turn from cylinders and pick-up, and what a wrong reading says"),
    "blend": ("fuel", "how much fuel to add for an ethanol content"),
    "lambda": ("fuel", "lambda, shown and true ratio for a fuel"),
    "consumption": ("fuel", "litres an hour and over 100 km, by how long injectors stand open"),
    "boost": ("fuel", "boost from absolute pressure and barometer or altitude"),
    "wire": ("wiring", "the smallest wire for a load over a length"),
    "fuse": ("wiring", "the fuse for a load, a wire and a tap"),
    "run": ("wiring", "how long a lead must be, and whether the supplied one reaches"),
    "bundle": ("wiring", "wires packed into a bundle, and whether it passes a hole with its connectors"),
    "stack": ("fittings", "the fittings from a port to a sender, and how each joint seals"),
    "drill": ("fittings", "drill steps, tap drill and threads that hold in a wall"),
    "wideband": ("fittings", "whether a place along the exhaust will do for a lambda sensor"),
    "spot": ("fittings", "what an infrared tyre sensor sees at a distance"),
    "circuits": ("feeds", "what kind of feed each circuit is, and which to tap"),
    "twin": ("jobs", "volts and currents of a whole job in one state, and what is shown (--spice: the deck)"),
    "points": (
        "jobs",
        "what stands on the faces from the cold start to the hot stop, and the cold start by the minute",
    ),
    "estimate": ("jobs", "parts, hours and ways of a job side by side"),
    "reader": (
        "second_reader",
        "what a display beside somebody who reads a sender already does to the first",
    ),
    "diagnose": ("faults", "who is to blame for what was seen, and what to measure next"),
    "prove": ("faults", "the fewest minutes of tests that notice every likely fault"),
    "order": (
        "workorder",
        "the order of the work: a job's own steps, or those given, the vehicle taken apart once",
    ),
    "mount": ("mounting", "whether a display fits its hole, its depth and its panel"),
    "sight": ("mounting", "how large a character is seen, and what the rim hides of a display"),
    "act": ("acts", "a change made to a job, by name (--list: the names and what each takes)"),
    "check": ("jobs", "findings, open links and the chain board of a job"),
}


def main(argv: Sequence[str] | None = None) -> int:
    """Run one calculation from standard input to standard output; 0 done, 2 bad input."""
    arguments = list(sys.argv[1:] if argv is None else argv)
    if not arguments or arguments[0] in ("-h", "--help"):
        print("Usage: metrolex NAME < in.json      metrolex NAME --example\n")
        print("\n".join(f"  {name:<10} {line}" for name, (_, line) in CALCULATIONS.items()))
        return 0
    try:
        flags = arguments[1:]
        if flags == ["--example"] and arguments[0] in EXAMPLES:
            print(json.dumps(EXAMPLES[arguments[0]](), indent=1, ensure_ascii=False))
            return 0
        calculation = _find(arguments[0])
        for flag in flags:
            if flag != "--example" and flag not in calculation.flags:
                raise BadInput(
                    "input", flag, ", ".join(["--example", *calculation.flags]), f"Unknown option '{flag}'."
                )
        if "--example" in flags:
            print(json.dumps(calculation.example, indent=1, ensure_ascii=False))
            return 0
        answer = calculation.run(read(calculation.reads, parse_json(_stdin())), flags)
        print(
            answer
            if isinstance(answer, str)
            else json.dumps(answer, indent=1, ensure_ascii=False, allow_nan=False)
        )
    except BadInput as fault:
        print(json.dumps({"error": fault.as_dict()}, indent=1, ensure_ascii=False, allow_nan=False))
        return 2
    except CircuitError as fault:
        error = BadInput("job", None, "a circuit with one answer", str(fault))
        print(json.dumps({"error": error.as_dict()}, indent=1, ensure_ascii=False))
        return 2
    return 0


def _find(name: str) -> Calculation:
    if name not in CALCULATIONS:
        near = get_close_matches(name, list(CALCULATIONS), 1)
        hint = f" Did you mean '{near[0]}'?" if near else ""
        raise BadInput("name", name, " | ".join(CALCULATIONS), f"There is no calculation '{name:.40}'.{hint}")
    module = importlib.import_module(f"metrolex.cli.{CALCULATIONS[name][0]}")
    found: Calculation = module.CALCULATIONS[name]
    return found


def _stdin() -> str:
    try:
        return sys.stdin.buffer.read().decode("utf-8")
    except UnicodeDecodeError:
        raise BadInput("input", None, "UTF-8 text", "The input is not UTF-8 text.") from None
