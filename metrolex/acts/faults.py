"""A fault looked for: begun, what is said and measured, what it was in the end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from metrolex.acts.edit import free_id, replaced
from metrolex.errors import BadInput
from metrolex.faults.history import kinds_of
from metrolex.faults.probes import probe_of
from metrolex.faults.written import probe_meant, reading_of_probe, said_of, unit_of
from metrolex.intake import dump, read
from metrolex.job import Job
from metrolex.job.search import Reading, Said, Search
from metrolex.job.words import SeenWord
from metrolex.proving.proof import judge_all
from metrolex.quantities import RESISTANCE, VOLTAGE, parse, parse_in
from metrolex.scaling.face_words import word_meant
from metrolex.twin import build

__all__ = [
    "begin_search",
    "end_search",
    "forget_reading",
    "forget_search",
    "open_again",
    "read_found",
    "say",
    "see",
]


def begin_search(job: Job, day: str, word: str = "", channel: str = "") -> Job:
    """A search, with what somebody says if he does, and with what proving found to be off."""
    network = build(job)
    off = [one for one in judge_all(network) if one.verdict == "off"]
    readings = tuple(
        reading_of_probe(network, one.observation.state, probe, one.observation.value, one.observation.seen)
        for one in off
        if (probe := probe_of(one.expectation.point)) is not None
    )
    said = (_said(job, word, channel),) if word else ()
    key = free_id("search 1", (search.id for search in job.searches))
    return replace(job, searches=(*job.searches, Search(key, said, readings, begun=day)))


def say(job: Job, search: str, word: str, channel: str = "") -> Job:
    """Write down a word somebody says of a readout, or of any; said again it is taken back. Raises BadInput."""
    one, said = _under_way(job, search), _said(job, word, channel)
    rest = tuple(other for other in one.said if other != said)
    return _with(job, replace(one, said=rest if said in one.said else (*rest, said)))


def see(job: Job, search: str, reading: Reading, text: str, day: str, *, again: bool = False) -> Job:
    """Write down what was found at a probe: ``reading`` says which, whatever its value. Raises BadInput (field ``found``).

    It takes the place of what was found there before, unless it was read once more to make sure (``again``): then both stand.
    """
    one = _under_way(job, search)
    probe = probe_meant(build(job), reading)
    value = read_found(text, unit_of(job, probe), probe.kind, said_of(job, probe))
    found = replace(reading, value=value, seen=day)
    rest = tuple(
        other for other in one.readings if again or replace(other, value=value, seen=found.seen) != found
    )
    return _with(job, replace(one, readings=(*rest, found)))


def read_found(text: str, unit: str, kind: str, said: Sequence[str]) -> float | SeenWord:
    """What was typed as found at a probe: a figure, or a word of those it can be ``said`` by. Raises BadInput (field ``found``)."""
    plain = text.strip()
    word = word_meant(plain, said)
    if word:
        return word
    words = ", ".join(said)
    try:
        if kind == "volts":
            value = parse(plain, VOLTAGE, "V")
            if abs(value) > 60:
                raise BadInput("found", plain, "volts from -60 to 60")
            return value
        if kind == "ohms":
            value = parse(plain, RESISTANCE, "ohm")
            if value < 0:
                raise BadInput("found", plain, "ohms of 0 or more")
            return value
        return parse_in(plain, unit)
    except BadInput as fault:
        raise BadInput("found", text[:40], fault.allowed, f"{fault.message} Or one of {words}.") from None


def forget_reading(job: Job, search: str, place: int) -> Job:
    """Take a reading back, by its place. Raises BadInput."""
    one = _under_way(job, search)
    if not 0 <= place < len(one.readings):
        raise BadInput("place", place, f"0 to {len(one.readings) - 1}")
    return _with(job, replace(one, readings=one.readings[:place] + one.readings[place + 1 :]))


def end_search(job: Job, search: str, cause: str, cure: str, day: str, note: str = "") -> Job:
    """Write down what it was and what cured it; what was seen off at a test is asked for again. Raises BadInput."""
    one = _under_way(job, search)
    if not cause.strip():
        raise BadInput("cause", cause, "what it was, in words")
    kinds = kinds_of(build(job), cause)
    fields = {
        "cause": cause.strip(),
        "cure": cure.strip(),
        "note": note.strip(),
        "ended": day,
        "kinds": kinds,
    }
    ended = _with(job, read(Search, dump(one) | fields))
    off = {one.observation.id for one in judge_all(build(job)) if one.verdict == "off"}
    return replace(ended, observations=tuple(seen for seen in ended.observations if seen.id not in off))


def open_again(job: Job, search: str) -> Job:
    """A search that was ended goes on: it was something else. Raises BadInput."""
    one = _called(job, search)
    return _with(job, replace(one, ended="", cause="", cure="", kinds=()))


def forget_search(job: Job, search: str) -> Job:
    """Take a search out of the job. Raises BadInput."""
    one = _called(job, search)
    return replace(job, searches=tuple(other for other in job.searches if other is not one))


def _said(job: Job, word: str, channel: str) -> Said:
    if channel and job.chain(channel) is None:
        raise BadInput("channel", channel, ", ".join(c.id for c in job.chains))
    return read(Said, {"word": word, "channel": channel})


def _called(job: Job, key: str) -> Search:
    found = next((one for one in job.searches if one.id == key), None)
    if found is None:
        raise BadInput("search", key, ", ".join(one.id for one in job.searches) or "none yet")
    return found


def _under_way(job: Job, key: str) -> Search:
    one = _called(job, key)
    if one.ended:
        raise BadInput("search", key, "one that is under way", "This search is ended: open it again first.")
    return one


def _with(job: Job, search: Search) -> Job:
    return replace(job, searches=replaced(job.searches, search))
