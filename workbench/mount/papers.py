"""Stencils on paper, 1:1."""

from __future__ import annotations

from django.template.loader import render_to_string

from metrolex.errors import BadInput
from metrolex.job import Job
from metrolex.mount.stencil import StencilKind, stencil_of
from workbench.jobs.models import JobRecord
from workbench.mount.stencil_drawing import check_bar, sheets_of
from workbench.printing.papers import paper

__all__ = ["STENCIL"]


def _stencil(record: JobRecord, job: Job, *, mounting: str, kind: StencilKind, size: str = "A4") -> str:
    found = job.mounting(mounting)
    if found is None:
        raise BadInput("mounting", mounting, ", ".join(one.id for one in job.mountings))
    stencil = stencil_of(job, found, kind)
    return render_to_string(
        "mount/stencil_paper.html",
        {
            "job": job,
            "size": size,
            "stencil": stencil,
            "display": job.display(found.display),
            "site": job.site(found.site),
            "sheets": [(said, drawing.safe()) for said, drawing in sheets_of(stencil, size)],
            "bar": check_bar().safe(),
        },
    )


STENCIL = paper("stencil", "The template", "mount:template_pdf", _stencil)
