from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("ledger", "0001_initial")]

    operations = [
        migrations.CreateModel(
            name="StoredSeal",
            fields=[
                ("seq", models.BigIntegerField(primary_key=True, serialize=False)),
                ("digest", models.CharField(max_length=64)),
                ("at", models.CharField(max_length=40)),
                ("key", models.CharField(max_length=16)),
                ("signature", models.CharField(max_length=128)),
            ],
        ),
    ]
