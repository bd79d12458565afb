"""The one door: who did what is kept, two people's work is laid together or told, a reader is refused."""

from __future__ import annotations

import pytest
from django.contrib.auth import get_user_model
from django.test import Client

from metrolex.acts.harness import set_wire
from metrolex.errors import BadInput
from metrolex.job.changes import Change
from tests.jobs import shipped
from tests.web.forms_of import read_page
from workbench.accounts.models import Membership
from workbench.jobs.door import change, import_job
from workbench.jobs.models import Act, JobRecord
from workbench.jobs.seen import Seen


class Mate:
    """A second person of the same workshop, with a browser."""

    def __init__(self, bay, name="Ana", role=Membership.Role.FITTER):
        user = get_user_model().objects.create_user(name, password="long enough words", first_name=name)
        self.member = Membership.objects.create(user=user, workshop=bay.workshop, role=role)
        self.client = Client()
        self.client.force_login(user)


@pytest.fixture
def mate(bay):
    return Mate(bay)


def form_at(client, address, action):
    """The fields of the first form of a page that goes to ``action``, as a browser would send them."""
    answer = client.get(address)
    forms, _ = read_page(answer.content.decode())
    return next(form.fields for form in forms if form.action.endswith(action) and form.method == "post")


def test_who_did_what_is_kept_with_both_values(bay):
    change(
        bay.record, lambda job: set_wire(job, "W3", {"length_m": 3.3}), by=bay.member, why="measured again"
    )
    act = bay.record.acts.get(version=2)
    was = next(w for w in bay.record.acts.model.what(act) if w.path[-1] == "length_m")
    assert (act.by, act.why) == (bay.user, "measured again")
    assert was.path == ("conductors", "W3", "length_m")
    assert was.after == 3.3
    assert act.words.startswith("wire W3: length ")
    assert act.words.endswith(" 3.3 m")
    assert Act.objects.filter(job=bay.record).count() == 2  # the job made, and this


def test_other_fields_of_one_form_both_hold(bay, mate, text):
    """The wire's form is loaded by one; another saves its length; the first saves its colour."""
    address = bay.path("harness/wire/form/?wire=W3")
    mine = form_at(bay.client, address, "harness/wire/")
    theirs = form_at(mate.client, address, "harness/wire/")
    assert mine["seen"] == ["1"]
    assert mate.client.post(bay.path("harness/wire/"), theirs | {"length_m": "3.3 m"}).status_code == 302
    assert bay.client.post(bay.path("harness/wire/"), mine | {"colour": "WH"}).status_code == 302
    wire = bay.job.wire("W3")
    assert (wire.length_m, wire.look.colour) == (3.3, "WH")
    assert list(bay.record.acts.order_by("version").values_list("by", flat=True))[1:] == [
        mate.member.user_id,
        bay.user.pk,
    ]


def test_the_same_field_is_refused_with_both_values_and_what_was_typed(bay, mate, text):
    address = bay.path("harness/wire/form/?wire=W3")
    mine = form_at(bay.client, address, "harness/wire/")
    mate.client.post(bay.path("harness/wire/"), mine | {"length_m": "3.3 m", "colour": "WH"})
    answer = bay.client.post(bay.path("harness/wire/"), mine | {"length_m": "4.4 m"})
    assert answer.status_code == 422
    assert "Ana" in text(answer)
    assert "3.3 m" in text(answer)
    assert 'value="4.4 m"' in text(answer)
    assert bay.job.wire("W3").length_m == 3.3
    forms, _ = read_page(answer.content.decode())
    again = next(f.fields for f in forms if f.action.endswith("harness/wire/"))
    assert again["seen"] == ["1.2"]
    assert bay.client.post(bay.path("harness/wire/"), again).status_code == 302
    assert (bay.job.wire("W3").length_m, bay.job.wire("W3").look.colour) == (
        4.4,
        "WH",
    )  # the colour stays as Ana made it


def test_a_third_save_in_between_is_told_again(bay, mate):
    act = lambda length: lambda job: set_wire(job, "W3", {"length_m": length})  # noqa: E731
    change(bay.record, act(3.3), by=mate.member)
    with pytest.raises(BadInput, match=r"3\.3 m"):
        change(bay.record, act(4.4), by=bay.member, seen=Seen(1))
    change(bay.record, act(5.5), by=mate.member)
    with pytest.raises(BadInput, match=r"5\.5 m"):
        change(bay.record, act(4.4), by=bay.member, seen=Seen(1, told=2))
    change(bay.record, act(4.4), by=bay.member, seen=Seen(1, told=3))
    assert bay.job.wire("W3").length_m == 4.4


def test_what_a_page_stored_itself_is_no_conflict_but_what_another_page_of_the_same_person_did_is(bay):
    def typed(length, seen):
        act = lambda job: set_wire(job, "W3", {"length_m": length})  # noqa: E731
        change(bay.record, act, by=bay.member, seen=seen)

    typed(3.3, Seen(1))
    typed(4.4, Seen(1, frozenset({2})))
    with pytest.raises(BadInput, match=r"You \(.* saved 4\.4 m"):
        typed(5.5, Seen(1, frozenset({2})))
    typed(5.5, Seen(1, frozenset({2}), told=3))
    assert bay.job.wire("W3").length_m == 5.5


@pytest.mark.parametrize(("words", "again"), [("5", "5"), ("5+6+8.9", "5+6+8.9"), ("5.7", "5.7")])
def test_what_a_form_has_seen_goes_there_and_back(words, again):
    assert str(Seen.of(words)) == again


def test_a_page_that_stored_very_often_is_told_sooner_rather_than_later():
    """What it can no longer name counts as another page's: a clash too many, never a save lost."""
    seen = Seen.of("+".join(map(str, range(1, 2001, 2))))
    assert seen.version == 1
    assert len(seen.own) == 400


@pytest.mark.parametrize("address", ["?restored=5", "?a=1&b=stored=", "?stored=x"])
def test_an_address_that_only_looks_like_one_carried_over_stays_as_it_is(address, bay):
    assert "Job-Version" not in bay.client.get(bay.path("ports/") + address, headers={"HX-Request": "true"})


@pytest.mark.parametrize("words", ["", "x", "5+", "+6", "-1", "5+6+x", "5 "])
def test_what_no_form_of_ours_says_is_nothing(words):
    assert Seen.of(words) is None


def test_two_pages_of_one_person_lose_nothing_of_each_other(bay, text):
    """A desk and a telephone under one log-in: the owner is saved on one, then 'waits for' on the older page of the other."""
    desk = next(f.fields for f in read_page(bay.get("brief/").content.decode())[0] if "waits_for" in f.fields)
    phone = {name: list(value) for name, value in desk.items()}
    assert bay.client.post(bay.path("brief/"), desk | {"owner": ["Ridge Rescue, new"]}).status_code == 302
    assert bay.client.post(bay.path("brief/"), phone | {"waits_for": ["the bung"]}).status_code == 302
    assert (bay.job.brief.owner, bay.job.brief.waits_for) == ("Ridge Rescue, new", "the bung")


def test_an_act_that_comes_to_what_its_old_page_showed_is_told_not_dropped(bay, text):
    """The best rows taken on an old page are what it showed; another page has moved one since."""
    bay.post("scaling/rows/", channel="coolant", count="10")
    rows, before = bay.job.chain("coolant").scaling.table, bay.version
    x, y = rows[3]
    bay.post("scaling/row/", channel="coolant", row="3", x=str(x), y=str(y + 2), seen=str(before))
    answer = bay.post("scaling/rows/", channel="coolant", count="10", seen=str(before))
    assert answer.status_code == 422
    assert "You (" in text(answer)
    assert bay.job.chain("coolant").scaling.table != rows


def test_the_page_is_told_which_version_its_own_act_made(bay):
    data = {"circuit": "F14", "state": "off", "seen": "1", "reading": "0.3"}
    answer = bay.post("feeds/probe/", htmx=True, **data)
    assert answer["Job-Version"] == "2"
    assert "Job-Version" not in bay.post("feeds/probe/", htmx=True, **data | {"seen": "2"})
    assert bay.post("feeds/probe/", htmx=True, **data | {"reading": "0.5"})["Job-Told"] == "2"
    move = bay.post(
        "ports/move/", htmx=True, channel="coolant", pin="coolant hose adapter", at="1.5", seen="2"
    )
    assert move["Location"].endswith("stored=3")
    shown = bay.client.get(move["Location"], headers={"HX-Request": "true"})
    assert shown["Job-Version"] == "3"
    assert "stored=" not in shown.content.decode()


def test_a_cell_says_what_the_other_found(bay, mate, text):
    data = {"circuit": "F14", "state": "off", "seen": "1"}
    mate.client.post(bay.path("feeds/probe/"), data | {"reading": "0.3"})
    answer = bay.post("feeds/probe/", htmx=True, **data, reading="12.1")
    assert "Ana" in text(answer)
    assert bay.job.circuit("F14").readings.off == pytest.approx(0.3)


def test_a_length_stretches_the_path_as_the_other_has_drawn_it_or_says_so(bay, mate, text):
    """One draws a stretch anew, the other types the length alone: what would move of the first one's drawing is told, none of it is lost."""
    path = next(one for one in bay.job.paths if one.stretches)
    forms, _ = read_page(bay.get("ports/paths/").content.decode())
    form = next(f.fields for f in forms if f.action.endswith("paths/save/") and f.fields["id"] == [path.id])
    first, *rest = form["stretches"][0].split("\n")
    begins, _, more = first.partition(" ")
    drawn = form | {"stretches": ["\n".join([f"{float(begins) + 4:g} {more}", *rest])]}
    assert mate.client.post(bay.path("ports/paths/save/"), drawn).status_code == 302
    theirs = bay.job.path(path.id)
    assert theirs.stretches != path.stretches
    answer = bay.client.post(
        bay.path("ports/paths/save/"), form | {"length_m": [f"{1050 * path.length_m:g} mm"]}
    )
    assert "after you opened this page" in text(answer)
    assert bay.job.path(path.id) == theirs


@pytest.mark.parametrize(
    ("tail", "named"), [("ports/sender/", ("channel", "kit")), ("handover/later/sender/", ("of", "sender"))]
)
def test_two_choices_of_one_sender_are_no_mixture(tail, named, bay, mate, text):
    """One takes another probe with its amplifier, the other the first probe without: what the second chose is told, and his when he says it again."""
    bay.record = import_job(bay.member, shipped("single_seater"))
    seen, (of, kit) = str(bay.version), named
    data = {of: "exhaust gas", "seen": seen, "km": "", "note": "", "day": "2026-11-29"}
    bare = "exhaust probe 3.2 mm, type K, bare leads"
    theirs = data | {
        kit: "exhaust probe 6 mm, type K, bare leads, by thermocouple amplifier, type K, 0 to 5 V"
    }
    assert mate.client.post(bay.path(tail), theirs).status_code == 302
    after_theirs = bay.job
    answer = bay.client.post(bay.path(tail), data | {kit: bare}, follow=True)
    assert "after you opened this page" in text(answer)
    assert bay.job == after_theirs
    bay.client.post(bay.path(tail), data | {kit: bare, "seen": str(bay.version)})
    chain = bay.job.chain("exhaust gas")
    assert (bay.job.sender(chain.sender).name, chain.box) == (bare, None)


def test_a_step_done_on_two_telephones_is_told_to_the_second(bay, mate, text):
    data = {"step": "mount gauge 1", "seen": "1"}
    mate.client.post(bay.path("work/noted/"), data | {"found": "31"})
    bay.post("work/noted/", htmx=True, step="mount gauge 1", seen="1", found="done")
    answer = bay.post("work/noted/", htmx=True, **data, found="14")
    assert "Ana" in text(answer)
    assert [one.minutes for one in bay.job.work] == [31.0]


def test_a_figure_typed_at_a_test_is_no_version(bay):
    """What the cell is called must not be what the version of its page is called."""
    for form in read_page(bay.get("proving/").content.decode())[0]:
        assert len(form.fields.get("seen", ["one"])) == 1
    for form in read_page(bay.get("work/").content.decode())[0]:
        assert len(form.fields.get("seen", ["one"])) == 1


def test_a_page_too_old_to_compare_says_so(bay, mate, text):
    change(bay.record, lambda job: set_wire(job, "W3", {"length_m": 3.3}), by=mate.member)
    Act.objects.filter(job=bay.record).update(schema=1)
    with pytest.raises(BadInput, match="load it again"):
        change(bay.record, lambda job: set_wire(job, "W3", {"length_m": 4.4}), by=bay.member, seen=Seen(1))


@pytest.mark.parametrize("junk", ["", "x", "-1", "1e3", "٣", "9" * 400, "5.", "5.x", "99999"])
def test_junk_for_a_version_is_no_version(junk, bay):
    assert (
        bay.client.post(bay.path("harness/run/add/"), {"name": "dash to bay", "seen": junk}).status_code
        == 302
    )
    assert bay.job.runs[-1].name == "dash to bay"


def test_nothing_is_solved_while_the_record_is_locked(bay, monkeypatch):
    """The row is locked only once the outcome is known: solving inside would hold everybody else up."""
    from workbench.jobs import door

    order = []

    def noted(name, word, real):
        monkeypatch.setattr(door, name, lambda *a, **k: order.append(word) or real(*a, **k))

    noted("solve", "solved", door.solve)
    noted("changes_of", "compared", door.changes_of)
    noted("store", "locked", door.store)
    noted("keep_summary", "summed up", door.keep_summary)
    change(bay.record, lambda job: set_wire(job, "W3", {"length_m": 3.3}), by=bay.member)
    assert order == ["solved", "compared", "locked", "summed up"]


def test_a_version_stored_meanwhile_is_worked_on_instead(bay, mate):
    """Another save lands between reading and locking: the act is done again on that one, and both hold."""
    done = []

    def act(job):
        if not done:
            done.append(1)
            change(bay.record, lambda j: set_wire(j, "W4", {"length_m": 7.7}), by=mate.member)
        return set_wire(job, "W3", {"length_m": 3.3})

    change(bay.record, act, by=bay.member)
    assert (bay.job.wire("W3").length_m, bay.job.wire("W4").length_m) == (3.3, 7.7)
    assert JobRecord.objects.get(pk=bay.record.pk).version == 3


def test_a_reader_changes_nothing(bay, text):
    reader = Mate(bay, "Rita", Membership.Role.READER)
    before = bay.job
    sent = 0
    for place in ("", "brief/", "brief/survey/", "feeds/", "harness/", "scaling/", "ports/", "proving/"):
        forms, _ = read_page(reader.client.get(bay.path(place)).content.decode())
        for form in forms:
            if form.method != "post" or "key-switch" in form.action or "log-out" in form.action:
                continue
            action = form.action or bay.path(place)
            answer = reader.client.post(action, form.fields | {name: ["7"] for name in form.typed})
            assert answer.status_code in (200, 302, 404, 422), (place, form.action)
            sent += 1
    assert sent > 60
    assert bay.job == before
    answer = reader.client.post(bay.path("harness/run/add/"), {"name": "x"}, follow=True)
    assert "You may read here" in text(answer)
    assert JobRecord.objects.count() == 1


def test_a_reader_makes_no_job_and_touches_no_library(bay, text):
    reader = Mate(bay, "Rita", Membership.Role.READER)
    answer = reader.client.post(
        "/jobs/new/", {"name": "Mine", "vehicle": "Sidecar outfit", "display": "gauges"}
    )
    assert answer.status_code == 422
    assert "You may read here" in text(answer)
    reader.client.post("/library/fittings/generic/", {"do": "out"})
    from workbench.library.models import ShelfFitting

    assert not ShelfFitting.objects.exists()
    assert JobRecord.objects.count() == 1


def test_changes_survive_their_row(bay):
    change(bay.record, lambda job: set_wire(job, "W3", {"length_m": 3.3}), by=bay.member)
    (kept,) = bay.record.acts.get(version=2).changes
    assert Change.of(kept).plain() == kept
