from django.db import migrations, models


def forget(apps, editor):
    """What is printed is printed again when it is asked for."""
    apps.get_model("printing", "Printed").objects.all().delete()


class Migration(migrations.Migration):

    dependencies = [("printing", "0001_initial")]

    operations = [
        migrations.RunPython(forget, migrations.RunPython.noop),
        migrations.RemoveConstraint(model_name="printed", name="one_of_each_paper"),
        migrations.AddField(
            model_name="printed", name="key", field=models.CharField(max_length=40, default=""), preserve_default=False
        ),
        migrations.AlterField(model_name="printed", name="edition", field=models.CharField(max_length=200)),
        migrations.AddConstraint(
            model_name="printed",
            constraint=models.UniqueConstraint(fields=["record", "key"], name="one_of_each_paper"),
        ),
    ]
