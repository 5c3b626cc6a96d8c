from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0004_older_jobs")]
    operations = [
        migrations.AddField(
            model_name="job",
            name="commit_key",
            field=models.CharField(blank=True, db_index=True, default="", max_length=40),
            preserve_default=False,
        ),
    ]
