"""Senders and displays on the shelf brought up to schema version 4, as those of a job are."""

from typing import Any

from django.db import migrations

from metrolex.schema import shelf_part_brought_up


def to_fourth(apps: Any, schema_editor: Any) -> None:
    for part in apps.get_model("library", "ShelfPart").objects.iterator():
        part.body = shelf_part_brought_up(part.kind, part.body)
        part.save(update_fields=["body"])


class Migration(migrations.Migration):
    dependencies = [("library", "0002_shelfpart")]

    operations = [migrations.RunPython(to_fourth, migrations.RunPython.noop)]
