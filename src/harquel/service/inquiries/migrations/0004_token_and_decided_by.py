import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("access", "0003_token_expires_at"),
        ("inquiries", "0003_readings_and_second_opinions"),
    ]

    operations = [
        migrations.AddField(
            model_name="storedinquiry",
            name="token",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="access.token"
            ),
        ),
        migrations.AddField(
            model_name="storedinquiry",
            name="decided_by",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="access.person"
            ),
        ),
    ]
