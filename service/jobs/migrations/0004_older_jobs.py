"""Jobs committed before machines and spools were part of them get those of their version; what was told of them says where they stand."""

from django.db import migrations


def fill(apps, schema_editor):
    Job = apps.get_model("jobs", "Job")
    for job in Job.objects.select_related("version__nozzle"):
        job.machine_id = job.version.nozzle.machine_id
        job.spool_id = job.version.spool_id
        job.spec = job.version.spec
        job.position = job.number
        # they were carried to their machines by hand: nobody is to print them once more
        job.state = {"failed": "failed"}.get(job.outcome, "done")
        job.reason = "committed before jobs had states"
        job.save()


class Migration(migrations.Migration):
    dependencies = [("jobs", "0003_states"), ("plans", "0003_acknowledgements")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
