"""Panels, the plan of the vehicle and connectors as parts; a circuit's panel in words becomes a panel."""

from django.db import migrations, models

KINDS = [
    "channels", "displays", "senders", "ports", "circuits", "taps", "grounds", "conductors", "splices", "runs", "observations", "cluster",
    "paths", "kit", "fluids", "openings", "panels", "zones", "ways", "connectors", "settings", "overrides",
]


def panels_from_words(apps, schema_editor):
    Part = apps.get_model("jobs", "Part")
    for part in Part.objects.filter(kind="circuits").iterator():
        words = part.body.pop("panel", "").strip()
        if words:
            key = words[:60]
            part.body["panel"] = key
            Part.objects.get_or_create(
                job_id=part.job_id, kind="panels", key=key, defaults={"body": {"id": key, "name": words}}
            )
        part.save()


class Migration(migrations.Migration):
    dependencies = [("jobs", "0003_openings")]

    operations = [
        migrations.AddField(model_name="jobrecord", name="bus", field=models.JSONField(default=dict)),
        migrations.AlterField(
            model_name="part",
            name="kind",
            field=models.CharField(choices=[(kind, kind) for kind in KINDS], max_length=20),
        ),
        migrations.RunPython(panels_from_words, migrations.RunPython.noop),
    ]
