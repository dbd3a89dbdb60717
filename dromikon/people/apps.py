"""Makes the Django app known, and has log-ins noted."""

from django.apps import AppConfig


class Config(AppConfig):
    name = "dromikon.people"
    label = "people"

    def ready(self) -> None:
        import dromikon.people.visits  # noqa: F401
