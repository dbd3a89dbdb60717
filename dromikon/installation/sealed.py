"""Where secrets are kept sealed: every text field of every model whose name says so."""

from collections.abc import Iterator

from django.apps import apps
from django.db.models import Model


def sealed_fields() -> Iterator[tuple[type[Model], str]]:
    """Each model with a field of sealed secrets, and the field."""
    for model in apps.get_models():
        for field in model._meta.get_fields():
            if field.name.endswith("_sealed"):
                yield model, field.name
