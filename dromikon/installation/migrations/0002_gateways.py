"""The gateway of text messages has a document of its own, beside those for push messages and calls."""

from typing import Any

from django.db import migrations


def move(apps: Any, schema_editor: Any) -> None:
    """Take the address out of what may be called."""
    settings = apps.get_model("installation", "Setting").objects
    outgoing = settings.filter(name="outgoing").first()
    where = outgoing.value.pop("text_gateway", "") if outgoing is not None else ""
    if outgoing is not None:
        outgoing.save()
    if where:
        settings.create(name="gateways", value={"text": {"address": where}}, changed_at=outgoing.changed_at)


class Migration(migrations.Migration):
    dependencies = [("installation", "0001_initial")]
    operations = [migrations.RunPython(move, migrations.RunPython.noop)]
