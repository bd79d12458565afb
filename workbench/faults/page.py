"""What the Faults page is made of: what is said, the suspects, the next test, what was found."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import TypedDict

from django.utils.safestring import SafeString

from metrolex.errors import CircuitError
from metrolex.faults.catalogue import MOST_SEARCHED, catalogue
from metrolex.faults.complaints import WORDS, Complaint
from metrolex.faults.next_test import NextTest, Outcome, ranked_tests
from metrolex.faults.suspects import Suspect, Verdict, suspects
from metrolex.faults.written import probe_meant, probe_words, reading_of_probe, seen_of, unit_of
from metrolex.intake import dump
from metrolex.job import MeasuringChain
from metrolex.job.search import OwnersWord, Reading, Said, Search
from metrolex.proving import judge_all
from metrolex.tables import load_table
from metrolex.twin.build import Network
from workbench.faults.forms import FoundForm
from workbench.harness.wiring_drawing import probed_svg
from workbench.jobs.look import Look

__all__ = ["FaultsPage", "page_context"]

SHOWN, FEWEST = 8, 3  # suspects shown one by one: at most, and at least
LEAST_SHOWN = 0.01  # and from what share on
LEFT = 0.05  # share from which on a suspect is looked at where no test tells any more
SURE_PERCENT = 99.0  # nobody is ever quite certain


class SuspectRow(TypedDict):
    """A suspect as shown: how likely, and the outcome of the next test it predicts, a figure or a word."""

    suspect: Suspect
    percent: int
    said: str
    figure: float | None
    word: str


class ReadingRow(TypedDict):
    """What was found at a probe, in words."""

    reading: Reading
    words: str
    unit: str
    gone: bool
    does_not_fit: bool


class OutcomeRow(TypedDict):
    """One outcome of the next test and whom it would point to."""

    figure: float | None
    word: str
    who: list[str]
    more: int
    percent: int


class NextRow(TypedDict):
    """The next test in words."""

    words: str
    state: object
    turns: bool
    minutes: float
    again: bool
    unit: str
    outcomes: list[OutcomeRow]
    form: FoundForm
    caution: str
    drawing: SafeString | None


class FaultsPage(TypedDict):
    """All of the page inside its frame."""

    search: Search | None
    ended: list[Search]
    others: list[Search]
    channels: Sequence[MeasuringChain]
    owners_words: list[tuple[OwnersWord, str]]
    said: list[tuple[Said, str, str]]
    suspects: list[SuspectRow]
    rest: int
    rest_percent: int
    settled: Suspect | None
    found: list[ReadingRow]
    next: NextRow | None
    other: int
    off: int
    left: list[str]
    problem: str


def page_context(
    look: Look,
    history: Mapping[str, int],
    search: str = "",
    other: str = "",
    form: FoundForm | None = None,
) -> FaultsPage:
    """The page at a search under way, the latest where none is named; ``other``: so many tests passed over; ``history``: what the workshop found before."""
    job = look.job
    under_way = [one for one in job.searches if not one.ended]
    at = next((one for one in under_way if one.id == search), under_way[-1] if under_way else None)
    skipped = int(other) if other.isascii() and other.isdigit() and len(other) < 3 else 0
    words = load_table("complaints")
    page: FaultsPage = {
        "search": at,
        "ended": [one for one in reversed(job.searches) if one.ended],
        "others": [one for one in under_way if one is not at],
        "channels": job.chains,
        "owners_words": [(word, words[word]["words"]) for word in WORDS],
        "said": [],
        "suspects": [],
        "rest": 0,
        "rest_percent": 0,
        "settled": None,
        "found": [],
        "next": None,
        "other": skipped,
        "off": sum(one.verdict == "off" for one in judge_all(look.network)),
        "left": [],
        "problem": "",
    }
    if at is None:
        return page
    page["said"] = [(one, words[one.word]["words"], _name(look, one.channel)) for one in at.said]
    if len(catalogue(look.network)) > MOST_SEARCHED:
        page["problem"] = "This job has more parts than can be looked through at once."
        return page
    seen, gone = seen_of(look.network, at.readings)
    try:
        verdict = suspects(look.network, seen, [Complaint(one.word, one.channel) for one in at.said], history)
        tests = ranked_tests(look.network, verdict, here=look.state, done=seen)
    except CircuitError as fault:
        page["problem"] = str(fault)
        return page
    nearest = tests[min(skipped, len(tests) - 1)] if tests else None
    page["settled"] = verdict.lead
    page["found"] = _found(look.network, at, gone, verdict)
    page["next"] = _next(look, nearest, verdict, form) if nearest else None
    fair = sum(one.probability >= LEAST_SHOWN for one in verdict.suspects)
    shown = min(max(fair, FEWEST), SHOWN)
    page["suspects"] = [_row(place, one, nearest) for place, one in enumerate(verdict.suspects[:shown])]
    page["left"] = list(
        dict.fromkeys(one.cure for one in verdict.suspects if one.probability >= LEFT and one.key)
    )
    page["rest"] = len(verdict.suspects) - shown
    page["rest_percent"] = round(100 * sum(one.probability for one in verdict.suspects[shown:]))
    return page


def _name(look: Look, channel: str) -> str:
    chain = look.job.chain(channel)
    return chain.name if chain else ""


def _row(place: int, suspect: Suspect, test: NextTest | None) -> SuspectRow:
    outcome = next((one for one in test.outcomes if place in one.suspects), None) if test else None
    percent = 100 * suspect.probability
    return {
        "suspect": suspect,
        "percent": round(percent),
        "said": ">99" if percent > SURE_PERCENT else "<1" if percent < 1 else f"{percent:.0f}",
        "figure": outcome.value if outcome else None,
        "word": outcome.word if outcome else "",
    }


def _found(network: Network, search: Search, gone: list[int], verdict: Verdict) -> list[ReadingRow]:
    rows, place = list[ReadingRow](), 0
    for i, reading in enumerate(search.readings):
        if i in gone:
            rows.append(
                {
                    "reading": reading,
                    "words": reading.red or reading.on,
                    "unit": "",
                    "gone": True,
                    "does_not_fit": False,
                }
            )
            continue
        probe = probe_meant(network, reading)
        rows.append(
            {
                "reading": reading,
                "words": probe_words(network, probe),
                "unit": unit_of(network.job, probe) if isinstance(reading.value, float) else "",
                "gone": False,
                "does_not_fit": place in verdict.does_not_fit,
            }
        )
        place += 1
    return rows


def _next(look: Look, test: NextTest, verdict: Verdict, form: FoundForm | None) -> NextRow:
    probe, network = test.probe, look.network
    plain = dump(reading_of_probe(network, test.state, probe, 0.0))
    written = json.dumps({k: v for k, v in plain.items() if k not in ("value", "seen")}, ensure_ascii=False)
    return {
        "words": probe_words(network, probe),
        "state": test.state,
        "turns": test.state != look.state,
        "minutes": test.minutes,
        "again": test.again,
        "unit": unit_of(look.job, probe),
        "outcomes": [_outcome(one, verdict) for one in test.outcomes[:4]],
        "form": form or FoundForm(initial={"probe": written}),
        "caution": load_table("complaints")["cautions"].get(
            probe.after.do if probe.after else probe.kind, ""
        ),
        "drawing": probed_svg(network, test.state, probe.red, probe.black) if probe.kind == "volts" else None,
    }


def _outcome(outcome: Outcome, verdict: Verdict) -> OutcomeRow:
    who = [verdict.suspects[place].words for place in outcome.suspects]
    share = sum(verdict.suspects[place].probability for place in outcome.suspects)
    return {
        "figure": outcome.value,
        "word": outcome.word,
        "who": who[:3],
        "more": max(0, len(who) - 3),
        "percent": round(100 * share),
    }
