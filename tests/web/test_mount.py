"""Mounting in the browser's terms: displays put, moved and aimed; places measured and traced; stencils measured in their PDF."""

from __future__ import annotations

import io
import re
from dataclasses import replace

import pytest
from pdfminer.high_level import extract_pages
from pdfminer.layout import LTCurve, LTLine
from PIL import Image

from metrolex.mount.stencil import CHECK_BAR_MM
from tests.jobs import shipped, with_facts
from workbench.jobs.door import import_job
from workbench.mount.models import SitePhoto
from workbench.mount.photos import size_of

MM = 72 / 25.4


@pytest.fixture
def site(bay):
    return bay.job.sites[0]


def mounting_of(bay, display="gauge 1"):
    return next(one for one in bay.job.mountings if one.display == display)


def a_photo(wide=400, high=300):
    held = io.BytesIO()
    Image.new("RGB", (wide, high), "#888").save(held, "JPEG")
    held.seek(0)
    held.name = "dash.jpg"
    return held


def test_the_front_view_has_every_display_and_what_is_said_of_the_one_in_hand(bay, text):
    page = text(bay.get("mount/", mounting=mounting_of(bay, "gauge 3").id))
    assert page.count("data-mounting=") == 4
    assert "The wheel hides" in page
    assert "35° to the left" in page


def test_the_verdict_follows_the_hand_and_stores_nothing(bay, text):
    before = bay.version
    mounting = mounting_of(bay)
    other = mounting_of(bay, "gauge 2")
    there = text(bay.get("mount/verdict/", mounting=mounting.id, x=other.x, y=other.y + 5))
    assert "Its bezel lies on that of Coolant gauge" in there
    assert "lies on" not in text(bay.get("mount/"))
    assert f"{other.y + 5:.0f} mm" in there
    assert bay.version == before
    assert bay.get("mount/verdict/", mounting=mounting.id, x="left", y="1").status_code == 422
    assert bay.get("mount/verdict/", mounting="nobody", x="1", y="1").status_code == 404


def test_sound_is_said_only_of_what_is_known(bay, text):
    """A place measured, a fit known, an airbag asked about: any of them missing, and nobody says that nothing speaks against it."""
    bay.record = import_job(bay.member, shipped("fire_tender"))
    site = bay.job.sites[0]
    fields = form_fields(bay, site)
    assert "It fits, and nothing speaks against it here" in text(bay.get("mount/"))
    bay.post("mount/site/save/", **(fields | {"airbag": ""}))
    page = text(bay.get("mount/"))
    assert "nothing speaks against it" not in page
    assert "Nobody has said yet whether an airbag sits here" in page
    bay.post("mount/site/save/", **{name: value for name, value in fields.items() if name != "measured"})
    page = text(bay.get("mount/"))
    assert "nothing speaks against it" not in page
    assert "By usual figures" in page


def test_a_display_let_go_stays_there(bay, text):
    mounting = mounting_of(bay)
    answer = bay.post("mount/move/", mounting=mounting.id, x="3.04", y="110,5", htmx=True)
    assert answer.status_code == 200
    assert (mounting_of(bay).x, mounting_of(bay).y) == (3.0, 110.5)
    page = text(answer)
    assert all(f'id="{region}"' in page for region in ("stage", "hand", "findings", "spine"))
    refused = text(bay.post("mount/move/", mounting=mounting.id, x="over there", y="1", htmx=True))
    assert 'role="alert"' in refused
    assert mounting_of(bay).x == 3.0


def test_put_taken_out_and_put_again(bay, site):
    mounting = mounting_of(bay)
    bay.post("mount/out/", mounting=mounting.id, site=site.id)
    assert all(one.display != "gauge 1" for one in bay.job.mountings)
    bay.post("mount/put/", display="gauge 1", site=site.id)
    assert mounting_of(bay).site == site.id


def test_turned_so_that_normal_points_up_and_ordered(bay, site):
    bay.post("mount/aim/", mounting=mounting_of(bay).id, normal="1")
    assert mounting_of(bay).turn_deg != 0
    bay.post("mount/aim/", mounting=mounting_of(bay).id, up="2", right="-3")
    assert (mounting_of(bay).up_deg, mounting_of(bay).right_deg) == (2.0, -3.0)
    top = max(bay.job.mountings, key=lambda one: one.y).display
    bay.post("mount/order/", site=site.id, pod="pillar pod")
    assert max(bay.job.mountings, key=lambda one: one.y).display == "gauge 3" != top


def test_a_pod_of_none_and_a_pod_nobody_has(bay, site, text):
    page = text(bay.client.post(bay.path("mount/pod/"), {"site": site.id, "pod": "mine"}, follow=True))
    assert "Choose the displays" in page
    assert "mine" in page  # what was typed comes back
    before = bay.job.mountings
    assert "Expected pillar pod" in text(
        bay.client.post(bay.path("mount/order/"), {"site": site.id, "pod": "x"}, follow=True)
    )
    assert bay.job.mountings == before


def test_a_place_begun_measured_and_taken_out(bay, text):
    bay.post("mount/site/start/", template="dash", name="Dash, right-hand drive")
    site = bay.job.sites[-1]
    assert (site.name, site.measured) == ("Dash, right-hand drive", False)
    page = text(bay.get("mount/site/", site=site.id))
    assert "Glove box" in page
    fields = form_fields(bay, site)
    answer = bay.post("mount/site/save/", **(fields | {"eye_up_mm": "12 in", "measured": "on"}))
    assert answer.status_code == 302
    assert bay.job.sites[-1].eye.eye_up_mm == pytest.approx(304.8)
    assert bay.job.sites[-1].measured
    bay.post("mount/site/remove/", site=site.id)
    assert len(bay.job.sites) == 1


def form_fields(bay, site):
    from workbench.mount.forms import SiteForm

    return {name: value for name, value in SiteForm.of(site).items() if value not in (False, None)} | {
        "site": site.id
    }


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"eye_back_mm": "60 mm", "tilt_deg": "90", "eye_up_mm": "-300 mm"}, "from its edge or from behind"),
        ({"hub_back_mm": "610 mm", "hub_up_mm": "310 mm", "rake_deg": "0"}, "The eye is in the wheel"),
        ({"thick_mm": "0"}, "5 to 120"),
        ({"spokes_deg": "up and down"}, "angles with commas"),
        ({"name": ""}, "required"),
    ],
)
def test_wrong_figures_are_said_at_their_field_and_kept(bay, site, text, wrong, said):
    before = bay.version
    answer = bay.post("mount/site/save/", **(form_fields(bay, site) | wrong))
    page = text(answer)
    assert answer.status_code == 422
    assert said in page
    assert all(value in page for value in wrong.values())
    assert bay.version == before


def test_an_outline_that_crosses_itself_is_kept_as_typed(bay, site, text):
    crossed = "0 0\n100 100\n100 0\n0 100"
    answer = bay.post("mount/site/outline/", site=site.id, outline=crossed)
    assert answer.status_code == 422
    assert "crosses itself" in text(answer)
    assert "100 100" in text(answer)
    bay.post("mount/site/outline/", site=site.id, outline="0 0\n200 0\n100 150")
    assert bay.job.sites[0].outline == ((0.0, 0.0), (200.0, 0.0), (100.0, 150.0))


def test_parts_of_the_dash(bay, site, text):
    part = {
        "site": site.id,
        "part": "",
        "name": "Seam",
        "kind": "seam",
        "rank": "free",
        "x": "0 mm",
        "y": "96 mm",
        "wide_mm": "80 mm",
        "high_mm": "4 mm",
    }
    bay.post("mount/part/", **part)
    assert [one.name for one in bay.job.fixtures] == ["Seam"]
    assert "What stands on an airbag is thrown" in text(bay.get("mount/"))
    answer = bay.post("mount/part/", **(part | {"part": "seam", "wide_mm": "0"}))
    assert answer.status_code == 422
    assert "0.1 to 2000" in text(answer)
    bay.post("mount/part/remove/", site=site.id, part="seam")
    assert bay.job.fixtures == ()


def test_an_outline_traced_over_a_photograph(bay, site, text):
    bay.client.post(bay.path("mount/photo/"), {"site": site.id, "photo": a_photo()})
    kept = SitePhoto.objects.get(job=bay.record)
    assert (kept.wide, kept.high) == size_of(bytes(kept.jpeg)) == (400, 300)
    assert bay.get("mount/photo/show.jpg", site=site.id).headers["Content-Type"] == "image/jpeg"
    assert "data-trace" in text(bay.get("mount/site/", site=site.id))
    traced = {
        "site": site.id,
        "first": "100 200 / 300 200",
        "first_mm": "100 mm",
        "second": "100 200 / 100 100",
        "second_mm": "100 mm",
        "dots": "100 200\n300 200\n300 100\n100 100",
    }
    bay.post("mount/photo/trace/", **traced)
    assert bay.job.sites[0].outline == ((0.0, 0.0), (100.0, 0.0), (100.0, 100.0), (0.0, 100.0))
    bay.post("mount/photo/out/", site=site.id)
    assert not SitePhoto.objects.exists()
    assert bay.get("mount/photo/show.jpg", site=site.id).status_code == 404


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"first": "", "second": ""}, "no scale"),
        ({"first_mm": ""}, "Mark both dots"),
        ({"first": "1 2"}, "Mark both dots"),
        ({"dots": "1 1\n2"}, "Line 2"),
        ({"dots": "0 0\n10 10\n10 0\n0 10"}, "crosses itself"),
    ],
)
def test_dots_that_make_no_outline_are_said(bay, site, text, wrong, said):
    traced = {
        "site": site.id,
        "first": "0 0 / 100 0",
        "first_mm": "100 mm",
        "second": "",
        "second_mm": "",
        "dots": "0 0\n9 0\n9 9",
    }
    SitePhoto.objects.create(job=bay.record, site=site.id, wide=10, high=10, jpeg=b"")
    answer = bay.post("mount/photo/trace/", **(traced | wrong))
    assert answer.status_code == 422
    assert said in text(answer)


def test_what_is_no_photograph_is_refused(bay, site, text):
    held = io.BytesIO(b"a drawing of a dash")
    held.name = "dash.jpg"
    page = bay.client.post(bay.path("mount/photo/"), {"site": site.id, "photo": held}, follow=True)
    assert "no photograph" in text(page)
    none = bay.client.post(bay.path("mount/photo/"), {"site": site.id}, follow=True)
    assert "Choose or take a photograph" in text(none)
    assert not SitePhoto.objects.exists()


def test_a_display_in_the_hand_and_in_its_hole(bay, text):
    page = text(bay.get("mount/fit/", display="gauge 1"))
    assert "It fits" in page
    housing = {
        "display": "gauge 1",
        "shape": "round",
        "body_mm": "60 mm",
        "bezel_mm": "66 mm",
        "depth_mm": "42 mm",
        "bend_mm": "25 mm",
        "columns": "1",
        "rows": "1",
        "holds_pages": "1",
    }
    assert bay.post("mount/fit/housing/", **housing).status_code == 302
    page = text(bay.get("mount/fit/", display="gauge 1"))
    assert "It does not fit" in page
    assert "wider than the hole" in page
    assert bay.post("mount/fit/housing/", **(housing | {"depth_mm": "0"})).status_code == 422
    hole = {
        "mounting": mounting_of(bay).id,
        "x": "0",
        "y": "0",
        "stands_mm": "8",
        "held_by": ["epoxy"],
        "pod": "",
    }
    bay.post("mount/fit/hole/", **hole)
    assert mounting_of(bay).held_by == ("epoxy",)
    page = text(bay.get("mount/fit/", display="gauge 1"))
    assert "24 h" in page
    assert "does not come out again" in page
    assert "Not yet known" in page  # the room behind it was taken back
    front = text(bay.get("mount/", mounting=mounting_of(bay).id))
    assert "Whether it fits is not known" in front
    assert "nothing speaks against it" not in front
    assert bay.get("mount/fit/", display="nobody").status_code == 404


def test_the_stencil_is_printed_to_its_size(bay):
    """Measured in the PDF: the check bar is 100 mm, the hole 52.6 mm across, on A4 and on Letter."""
    for size in ("A4", "letter"):
        answer = bay.get("mount/template.pdf", mounting=mounting_of(bay).id, kind="drill", size=size)
        assert answer.content[:5] == b"%PDF-"
        shapes = [one for page in extract_pages(io.BytesIO(answer.content)) for one in flat(page)]
        widths = [one.width / MM for one in shapes if isinstance(one, LTLine) and one.height < 0.01]
        assert any(width == pytest.approx(CHECK_BAR_MM, abs=0.1) for width in widths)
        round_ = [(one.width / MM, one.height / MM) for one in shapes if isinstance(one, LTCurve)]
        assert any(w == pytest.approx(52.6, abs=0.1) and h == pytest.approx(52.6, abs=0.1) for w, h in round_)


def flat(item):
    """Every shape of a page, out of the groups they stand in."""
    for one in item:
        yield one
        if hasattr(one, "__iter__") and not isinstance(one, str):
            yield from flat(one)


def test_the_svg_is_in_millimetres_and_a_large_plate_comes_in_sheets(bay):
    svg = bay.get("mount/template.svg", mounting=mounting_of(bay).id, kind="plate").content.decode()
    width, box = re.search(r'width="([\d.]+)mm"', svg)[1], re.search(r'viewBox="\S+ \S+ (\S+) ', svg)[1]
    assert float(width) == pytest.approx(float(box), abs=0.01)
    for size in ("A4", "letter"):
        answer = bay.get("mount/template.pdf", mounting=mounting_of(bay).id, kind="plate", size=size)
        pages = list(extract_pages(io.BytesIO(answer.content)))
        assert len(pages) > 1
        for page in pages:  # full to its edge, and never shrunk to fit
            widths = [one.width / MM for one in flat(page) if isinstance(one, LTLine) and one.height < 0.01]
            assert any(width == pytest.approx(CHECK_BAR_MM, abs=0.1) for width in widths)


def test_no_stencil_before_the_body_is_measured(bay, text):
    bay.post(
        "mount/fit/housing/", display="gauge 1", shape="", bend_mm="0", columns="1", rows="1", holds_pages="1"
    )
    hole = {"mounting": mounting_of(bay).id, "x": "0", "y": "0", "stands_mm": "8", "pod": ""}
    bay.post("mount/fit/hole/", **hole)
    for file in ("svg", "dxf", "pdf"):
        answer = bay.get(f"mount/template.{file}", mounting=mounting_of(bay).id, kind="drill")
        assert answer.status_code == 422
        assert "Measure the body" in text(answer)
    assert bay.get("mount/template.svg", mounting="nobody").status_code == 404
    assert bay.get("mount/template.svg", mounting=mounting_of(bay).id, kind="poster").status_code == 404


def test_a_job_from_nothing_begins_with_a_place(bay, text):
    from metrolex.job import Identity, Job, Vehicle

    bay.record = import_job(bay.member, Job("New", Vehicle(Identity("Sidecar outfit"))))
    page = text(bay.get("mount/"))
    assert "Begin with it" in page
    assert 'value="handlebar" selected' in page
    assert "There is no display yet" in text(bay.get("mount/fit/"))
    assert "There is no place yet" in text(bay.get("mount/site/"))
    bay.post("mount/site/start/", template="handlebar", name="")
    assert "Nothing is mounted here yet" in text(bay.get("mount/"))


def test_a_pod_the_eye_cannot_see_is_shown_all_the_same(bay, text):
    """It looks away from the seat: said of the site, and its gauges stay in the order they are in."""
    site = bay.job.site(bay.job.mountings[0].site)
    behind = with_facts(site, turned_right_deg=80.0, eye_right_mm=-900.0)
    bay.record = import_job(
        bay.member,
        replace(bay.job, sites=tuple(behind if one.id == site.id else one for one in bay.job.sites)),
    )
    page = text(bay.get("mount/"))
    assert "seen from its edge or from behind" in page
    assert "seen from its edge or from behind" in page.split("Order in")[1]
    assert "stays" not in page.split("Order in")[1].split("</section>")[0]
    for tail in (
        "mount/fit/",
        "mount/site/",
        "dash/night/",
        "mount/template.svg?mounting=" + bay.job.mountings[0].id,
    ):
        assert bay.get(tail).status_code == 200, tail


def test_more_gauges_in_a_pod_than_can_be_put_in_order(bay, text):
    first = bay.job.mountings[0]
    more = [replace(bay.job.displays[0], id=f"more {i}", name=f"More {i}") for i in range(12)]
    held = [replace(first, id=f"m{i}", display=one.id, x=first.x + 5 * i) for i, one in enumerate(more)]
    bay.record = import_job(
        bay.member,
        replace(bay.job, displays=(*bay.job.displays, *more), mountings=(*bay.job.mountings, *held)),
    )
    assert "12 gauges at the most" in text(bay.get("mount/"))
