"""Faults: a search from a word to what it was, in the pages."""

from __future__ import annotations

import json

import pytest

from metrolex.acts import faults as acts
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import State
from metrolex.job.search import Reading, Said
from metrolex.twin import build, expect
from tests.jobs import van
from tests.web.forms_of import read_page

RUN = State("run", "off", "running")
DAY = "2026-11-29"


def probe_on(answer) -> dict:
    """The test the page asks for, as its form sends it."""
    (fields,) = [f.fields for f in read_page(answer.content.decode())[0] if "probe" in f.fields]
    return json.loads(fields["probe"][0])


def test_from_a_word_to_what_it_was(bay, text):
    """The signal wire of the coolant sender is broken: dashes said, readings answered as the twin with the fault has them."""
    page = text(bay.get("faults/"))
    assert "It shows dashes" in page
    bay.post("faults/begin/", word="dashes", of="coolant")
    search = bay.job.searches[-1]
    assert search.said == (Said("dashes", "coolant"),)
    from metrolex.faults import catalogue
    from metrolex.faults.cases import NONE
    from metrolex.faults.lineup import lineup_of
    from metrolex.faults.written import probe_meant

    network = build(bay.job)
    broken = next(i for i, fault in enumerate(catalogue(network)) if fault.words == "wire W19 broken")
    for _ in range(12):
        answer = bay.get("faults/")
        page = text(answer)
        if 'id="settled"' in page:
            break
        asked = probe_on(answer)
        reading = read(Reading, asked | {"value": 0.0})
        probe = probe_meant(network, reading)
        shows = lineup_of(network, ((broken, NONE),)).shows(reading.state, probe)
        found = shows.said(0) or f"{shows.value[0]:.2f}".replace(".", ",")
        again = {"again": "yes"} if "All hangs on one reading" in page else {}
        answer = bay.post("faults/see/", search=search.id, probe=json.dumps(asked), found=found, **again)
        assert answer.status_code == 302, text(answer)
    assert "Mend wire W19".lower() in page.lower()
    answer = bay.post("faults/end/", search=search.id, picked="wire W19 broken|mend wire W19")
    assert answer.status_code == 302
    ended = bay.job.searches[-1]
    assert (ended.cause, ended.cure, bool(ended.ended)) == ("wire W19 broken", "mend wire W19", True)
    page = text(bay.get("faults/"))
    assert "Wire W19 broken" in page
    bay.post("faults/again/", search=search.id)
    assert not bay.job.searches[-1].ended


def test_what_is_found_wrong_is_told_at_the_field_and_kept(bay, text):
    bay.post("faults/begin/", word="dark", of="")
    before = bay.job
    asked = (probe_on(bay.get(f"faults/?other={place}")) for place in range(20))
    probe = json.dumps(next(one for one in asked if one["kind"] == "volts"))
    for typed in ("900 V", "much", ""):
        answer = bay.post("faults/see/", search="search 2", probe=probe, found=typed)
        assert answer.status_code == 422
        fields = next(f.fields for f in read_page(answer.content.decode())[0] if "found" in f.fields)
        assert fields["found"] == [typed]
    assert bay.post("faults/see/", search="search 2", probe="[1]", found="1").status_code == 422
    assert bay.job == before
    assert bay.post("faults/see/", search="search 2", probe=probe, found="dead").status_code == 302


@pytest.mark.parametrize(
    ("tail", "data"),
    [
        ("begin/", {"word": "explodes"}),
        ("begin/", {"word": "dark", "of": "no such"}),
        ("say/", {"search": "search 2", "word": "sings"}),
        ("say/", {"search": "search 9", "word": "dark"}),
        ("forget/", {"search": "search 2", "place": "7"}),
        ("forget/", {"search": "search 2", "place": "-1"}),
        ("end/", {"search": "search 2", "cause": " "}),
        ("again/", {"search": "search 9"}),
        ("remove/", {"search": ""}),
    ],
)
def test_what_cannot_be_meant_changes_nothing(tail, data, bay):
    bay.post("faults/begin/", word="dark")
    before = bay.job
    assert bay.post(f"faults/{tail}", **data).status_code == 302
    assert bay.job == before


def test_proving_hands_on_what_was_off_and_asks_for_it_again(bay):
    network = build(bay.job)
    one = next(e for e in expect(network, RUN) if e.point.kind == "volts" and e.value and e.value > 5)
    bay.post("proving/seen/", test=one.point.test.key, found="1.0", key="run", lamps="off", engine="running")
    seen = len(bay.job.observations)
    bay.post("faults/begin/", word="")
    search = bay.job.searches[-1]
    assert [reading.value for reading in search.readings] == [1.0]
    bay.post("faults/end/", search=search.id, cause="tap loose", cure="seated")
    assert len(bay.job.observations) == seen - 1


def test_a_point_that_is_gone_is_said_and_left_out(bay, text):
    bay.post("faults/begin/", word="dark")
    reading = Reading(RUN, "volts", 0.0, red="tap T1 output", black="battery negative")
    from workbench.jobs.door import change

    change(bay.record, lambda job: acts.see(job, "search 2", reading, "12,1", DAY), by=bay.member)
    assert bay.job.searches[-1].readings[0].value == 12.1
    bay.post("feeds/tap/remove/", tap="T1")
    page = text(bay.get("faults/"))
    assert "Not in this job any more" in page
    bay.post("faults/forget/", search="search 2", place="0")
    assert bay.job.searches[-1].readings == ()


def test_a_word_said_twice_is_taken_back_and_one_reading_stands_once():
    job = acts.begin_search(van(), DAY, "dark", "coolant")
    job = acts.say(job, "search 2", "dark", "coolant")
    assert job.searches[-1].said == ()
    reading = Reading(RUN, "shown", 0.0, on="coolant")
    job = acts.see(acts.see(job, "search 2", reading, "90", DAY), "search 2", reading, "dashes", DAY)
    assert [one.value for one in job.searches[-1].readings] == ["dashes"]
    ended = acts.end_search(job, "search 2", "chafed", "", DAY)
    with pytest.raises(BadInput):
        acts.see(ended, "search 2", reading, "90", DAY)
    assert acts.forget_search(ended, "search 2").searches == van().searches


def test_a_quick_look_becomes_a_small_job_with_its_search(bay, text):
    from workbench.jobs.models import JobRecord

    page = text(bay.client.get("/quick/"))
    assert "What to measure first" in page
    said = {"measurand": "coolant_temperature", "word": "dashes", "lit": "on", "sender": "", "rest_v": "12,4"}
    answer = bay.client.post("/quick/", said)
    assert answer.status_code == 302
    page = text(bay.client.get(answer.url))
    assert "Next" in page
    assert "It shows dashes" in page.replace("it shows", "It shows")
    assert JobRecord.objects.filter(name="Quick look: coolant", workshop=bay.record.workshop).exists()
    wrong = bay.client.post("/quick/", said | {"rest_v": "much"})
    assert wrong.status_code == 422
    assert 'value="much"' in text(wrong)
    wrong = bay.client.post("/quick/", said | {"sender": "pressure, 0.5 to 4.5 V, 10 bar"})
    assert wrong.status_code == 422


def test_what_the_workshop_found_before_comes_first_the_next_time(bay):
    """Twenty loose joints found on other jobs: the joints of this one rise, their sum as Bayes' rule has it."""
    from metrolex.faults import catalogue
    from metrolex.faults.history import AS_MUCH_AS, weights_of
    from workbench.faults.history import history_of

    network = build(bay.job)
    listed = catalogue(network)
    usual, now = weights_of(network, {}), weights_of(network, {"joint.poor": 20})
    joints = [fault.kind == "joint.poor" for fault in listed]
    share = usual[joints].sum() / usual.sum()
    assert now[joints].sum() / now.sum() == pytest.approx((AS_MUCH_AS * share + 20) / (AS_MUCH_AS + 20))
    others = [not joint for joint in joints]
    assert now[others] / now[others].sum() == pytest.approx(usual[others] / usual[others].sum())
    before = history_of(bay.record.workshop)
    bay.post("faults/begin/", word="dark", of="")
    bay.post("faults/end/", search=bay.job.searches[-1].id, cause="poor joint in W5", cure="mend wire W5")
    assert bay.job.searches[-1].kinds == ("joint.poor",)
    assert history_of(bay.record.workshop) - before == {"joint.poor": 1}
    bay.post("faults/begin/", word="dark", of="")
    bay.post("faults/end/", search=bay.job.searches[-1].id, cause="the mouse", cure="a cat")
    assert bay.job.searches[-1].kinds == ()
