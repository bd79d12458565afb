"""The job file: JSON with a schema version, read with errors that name the place, written without loss."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from metrolex.errors import BadInput
from metrolex.intake import dump, parse_json, read
from metrolex.job import Job
from metrolex.job.references import check_references
from metrolex.schema import brought_up

__all__ = [
    "EXAMPLES",
    "SCHEMA_VERSION",
    "example_job_data",
    "job_from_data",
    "job_from_text",
    "job_to_data",
    "job_to_text",
]

SCHEMA_VERSION = 4


def job_from_text(text: str) -> Job:
    """Read a job file. Raises BadInput naming the place of the first thing that cannot be meant."""
    return job_from_data(parse_json(text))


def job_from_data(data: object, path: str = "") -> Job:
    """Build a job from plain JSON data, its references checked. Raises BadInput."""
    if not isinstance(data, dict):
        raise BadInput(path or "input", data, "a job as a JSON object")
    field = f"{path}.schema_version" if path else "schema_version"
    version = data.get("schema_version")
    if version is None:
        raise BadInput(
            field, None, f"{SCHEMA_VERSION}", "The key 'schema_version' is missing: is this a job file?"
        )
    if isinstance(version, bool) or not isinstance(version, int):
        raise BadInput(field, version, f"{SCHEMA_VERSION}")
    if version > SCHEMA_VERSION:
        raise BadInput(
            field,
            version,
            f"{SCHEMA_VERSION}",
            f"The file was written by a newer Metrolex (schema version {version}; this one reads {SCHEMA_VERSION}).",
        )
    if version < 1:
        raise BadInput(field, version, f"{SCHEMA_VERSION}")
    data = brought_up(data, version)
    job = read(Job, {key: value for key, value in data.items() if key != "schema_version"}, path)
    try:
        check_references(job)
    except BadInput as fault:
        raise fault.within(path) from None
    return job


#: The jobs that ship as examples, all invented, the fullest first.
EXAMPLES = ("van", "single_seater", "sidecar", "fire_tender")


def example_job_data(name: str = "van") -> dict[str, Any]:
    """A job shipped as an example, as plain data. Raises BadInput for an unknown name."""
    if name not in EXAMPLES:
        raise BadInput("name", name, " | ".join(EXAMPLES))
    return parse_json(
        (Path(__file__).parent / "data" / "examples" / f"{name}.json").read_text(encoding="utf-8")
    )


def job_to_data(job: Job) -> dict[str, Any]:
    """The job as plain JSON data; values at their default are left out."""
    return {"schema_version": SCHEMA_VERSION, **dump(job)}


def job_to_text(job: Job) -> str:
    """The job file's text."""
    return json.dumps(job_to_data(job), indent=1, ensure_ascii=False, allow_nan=False) + "\n"
