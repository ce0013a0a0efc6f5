from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("access", "0002_token_roles_token_values")]

    operations = [
        migrations.AddField(model_name="token", name="expires_at", field=models.DateTimeField(null=True)),
    ]
