"""The field's word for what a job stores, and an index for its list."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0001_initial")]

    operations = [
        migrations.RenameField("job", "setup", "document"),
        migrations.RenameField("revision", "setup", "document"),
        migrations.AddIndex(
            "job", models.Index(fields=["workshop", "-updated_at", "-id"], name="jobs_latest_first")
        ),
    ]
