"""A plate, block or tee with a mouth free is offered first to whoever can be read there."""

from __future__ import annotations

from dataclasses import replace

from metrolex.acts.ports import choose_place
from metrolex.brief.shopping import shopping_list
from metrolex.job import Job
from metrolex.ports.compare import candidates_for, why_first
from metrolex.ports.facts import mouths_of, senders_in
from tests.jobs import shipped

PLATE = "oil pressure sandwich plate"


def before_the_second() -> Job:
    """The single-seater before its oil temperature found the plate of its oil pressure."""
    job = shipped("single_seater")
    return job.with_chain(replace(job.chain("engine oil"), port=None))


def test_a_free_mouth_comes_first_and_says_beside_whom():
    job = before_the_second()
    found = candidates_for(job, job.chain("engine oil"))
    assert found[0].port.id == PLATE
    assert found[0].beside == "Oil pressure"
    assert "a mouth free beside Oil pressure" in why_first(found)
    assert not any(c.beside for c in candidates_for(job, job.chain("boost")))


def test_chosen_it_is_shared_and_the_plate_is_bought_once():
    job = before_the_second()
    plates = [i.need for i in shopping_list(job) if "plate" in i.name.lower()]
    shared = choose_place(job, "engine oil", PLATE)
    assert shared.chain("engine oil").port == PLATE
    assert [c.name for c in senders_in(shared, shared.port(PLATE))] == ["Oil pressure", "Engine oil"]
    assert [i.need for i in shopping_list(shared) if "plate" in i.name.lower()] == plates


def test_a_full_place_is_not_offered_to_one_more():
    job = before_the_second()
    port = job.port(PLATE)
    bare = replace(job, ports=tuple(replace(p, stack=()) if p.id == PLATE else p for p in job.ports))
    assert mouths_of(bare.port(PLATE)) == 1 < mouths_of(port)
    assert not any(c.beside for c in candidates_for(bare, bare.chain("engine oil")))
