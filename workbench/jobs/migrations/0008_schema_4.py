"""Stored ports and displays brought up to schema version 4, by the step that brings up a job file."""

from typing import Any

from django.db import migrations

from metrolex.schema import places_and_inputs_parted


def to_fourth(apps: Any, schema_editor: Any) -> None:
    """Each row by itself: no other kind of row is touched."""
    Part = apps.get_model("jobs", "Part")
    for kind in ("ports", "displays"):
        for part in Part.objects.filter(kind=kind).iterator():
            part.body = places_and_inputs_parted({kind: [part.body]})[kind][0]
            part.save(update_fields=["body"])


class Migration(migrations.Migration):
    dependencies = [("jobs", "0007_summary_version")]

    operations = [migrations.RunPython(to_fourth, migrations.RunPython.noop)]
