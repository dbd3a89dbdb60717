"""Makes the Django app known, and the gate for outgoing connections acquainted with what administrators allow on the page."""

from django.apps import AppConfig


class Config(AppConfig):
    name = "dromikon.installation"
    label = "installation"

    def ready(self) -> None:
        from dromikon.installation.outgoing import allowed_on_the_page
        from dromikon.wire.outgoing import also_allowed

        also_allowed(allowed_on_the_page)
