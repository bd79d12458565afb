"""The demo's person is marked, so that production can refuse them."""

from typing import Any

from django.db import migrations, models


def mark(apps: Any, schema_editor: Any) -> None:
    apps.get_model("accounts", "User").objects.filter(
        username="fitter", memberships__workshop__name="Scree Lane Fitting Bay"
    ).update(is_demo=True)


class Migration(migrations.Migration):
    dependencies = [("accounts", "0002_library_version")]

    operations = [
        migrations.AddField("user", "is_demo", models.BooleanField(db_default=False, default=False)),
        migrations.RunPython(mark, migrations.RunPython.noop),
    ]
