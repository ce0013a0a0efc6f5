from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("ledger", "0002_seals")]

    operations = [
        migrations.AddIndex(
            model_name="entrytext",
            index=models.Index(
                fields=["entry"], name="texts_with_rows", condition=models.Q(name="rows", text__isnull=False)
            ),
        ),
    ]
