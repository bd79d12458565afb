"""Parts known by two words get keys that no two pairs share."""

from typing import Any

from django.db import migrations

PAIRS = {"settings": ("display", "name"), "waivers": ("code", "subject")}


def rekeyed(apps: Any, schema_editor: Any) -> None:
    Part = apps.get_model("jobs", "Part")
    for kind, (one, other) in PAIRS.items():
        for part in Part.objects.filter(kind=kind).iterator():
            part.key = f"{part.body.get(one, '')}\x1f{part.body.get(other, '')}"
            part.save(update_fields=["key"])


class Migration(migrations.Migration):
    dependencies = [("jobs", "0008_schema_4")]

    operations = [migrations.RunPython(rekeyed, migrations.RunPython.noop)]
