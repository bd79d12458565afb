"""Stored jobs brought up to schema version 3, by the same steps that bring up a job file."""

from typing import Any

from django.db import migrations, models

from metrolex.schema import brought_up

KINDS = [
    "channels", "sources", "readouts", "displays", "senders", "ports", "circuits", "taps", "grounds", "conductors", "splices", "runs",
    "observations", "cluster", "paths", "kit", "fluids", "openings", "panels", "zones", "ways", "connectors", "settings", "waivers",
]
_RECORDS = ("vehicle", "brief", "supply", "survey", "bus")


def to_third(apps: Any, schema_editor: Any) -> None:
    """Every job's rows, read as one job's data, brought up, and written again."""
    JobRecord, Part = apps.get_model("jobs", "JobRecord"), apps.get_model("jobs", "Part")
    for record in JobRecord.objects.iterator():
        data = {name: getattr(record, name) for name in _RECORDS}
        for part in Part.objects.filter(job=record).order_by("kind", "position", "id"):
            data.setdefault(part.kind, []).append(part.body)
        fresh = brought_up(data, 2, upto=3)
        for name in _RECORDS:
            setattr(record, name, fresh.pop(name, {}))
        record.save()
        Part.objects.filter(job=record).delete()
        Part.objects.bulk_create(
            Part(job=record, kind=kind, key=_key(kind, body), position=i, body=body)
            for kind, bodies in fresh.items()
            for i, body in enumerate(bodies)
        )


def _key(kind: str, body: dict[str, Any]) -> str:
    if kind == "settings":
        return f"{body['display']}: {body['name']}"[:200]
    if kind == "waivers":
        return f"{body['code']}: {body['subject']}"[:200]
    return str(body["id"])


class Migration(migrations.Migration):
    dependencies = [("jobs", "0005_acts")]

    operations = [
        migrations.AlterField(
            model_name="part",
            name="kind",
            field=models.CharField(choices=[(kind, kind) for kind in KINDS], max_length=20),
        ),
        migrations.RunPython(to_third, migrations.RunPython.noop),
        migrations.RemoveField(model_name="jobrecord", name="supply"),
    ]
