"""The one table of places: what reads it needs nothing else to take a place more."""

from __future__ import annotations

import pytest

from metrolex.check import chain_board, find_all
from metrolex.check.stages import next_action, stages_of
from metrolex.findings import Finding
from metrolex.job import State
from metrolex.places import LINKS, PLACES, Place
from metrolex.twin import build, solve
from tests.jobs import van


def test_letters_and_links_are_each_others_own():
    letters = [place.letter for place in PLACES]
    assert len(set(letters)) == len(letters)
    assert "c" not in letters  # the chain board's
    assert [link.position for link, _ in LINKS] == list(range(len(LINKS)))


def test_the_board_has_a_cell_for_every_link_and_the_spine_a_stage_for_every_place():
    network = build(van())
    solved = solve(network, State("run", "off", "running"))
    findings = find_all(network, solved)
    rows = chain_board(network, solved, findings)
    assert all([cell.link for cell in row.cells] == [link.key for link, _ in LINKS] for row in rows)
    assert [stage.key for stage in stages_of(van(), rows, findings)] == [place.key for place in PLACES]
    assert next_action(van(), rows, findings)[1] in {place.key for place in PLACES}


def test_a_finding_names_a_place_there_is():
    with pytest.raises(ValueError, match="moon"):
        Finding("note", "x", "x", "x", place="moon")


def test_a_new_place_is_a_new_row(monkeypatch):
    from metrolex.check import stages

    monkeypatch.setattr(stages, "PLACES", (*PLACES, Place("sundry", "Sundry", "y")))
    network = build(van())
    solved = solve(network, State("off"))
    rows = chain_board(network, solved, ())
    found = stages_of(van(), rows, ())[-1]
    assert (found.key, found.name, found.letter, found.words) == ("sundry", "Sundry", "y", "settled")
