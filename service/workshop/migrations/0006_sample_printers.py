"""Sample machines of an older database get their simulated printers; a start tells them where those listen."""

from django.db import migrations


def connect(apps, schema_editor):
    Machine = apps.get_model("workshop", "Machine")
    Machine.objects.filter(workshop__sample=True, connection={}).update(connection={"kind": "printer", "address": "http://127.0.0.1:0"})


class Migration(migrations.Migration):
    dependencies = [("workshop", "0005_connections_and_ledger")]
    operations = [migrations.RunPython(connect, migrations.RunPython.noop)]
