"""Stored parts brought up to schema version 4, by the step that brings up a job file."""

from typing import Any

from django.db import migrations

from metrolex.schema import parts_parted


def to_fourth(apps: Any, schema_editor: Any) -> None:
    """Each row by itself: none depends on another."""
    for part in apps.get_model("jobs", "Part").objects.iterator():
        body = parts_parted({part.kind: [part.body]})[part.kind][0]
        if body != part.body:
            part.body = body
            part.save(update_fields=["body"])


class Migration(migrations.Migration):
    dependencies = [("jobs", "0007_summary_version")]

    operations = [migrations.RunPython(to_fourth, migrations.RunPython.noop)]
