from django.db import migrations


class Migration(migrations.Migration):
    """What was queued before there were lanes goes on in the large one."""

    dependencies = [
        ("plans", "0005_steps"),
        ("procrastinate", "0041_post_retry_failed_job"),
    ]
    operations = [
        migrations.RunSQL(
            "update procrastinate_jobs set queue_name = 'large' "
            "where queue_name in ('plans', 'parts') and status = 'todo'",
            migrations.RunSQL.noop,
        )
    ]
