"""Makes the Django app known, and lets the core speak the language that a page is shown in."""

from django.apps import AppConfig
from django.utils.translation import gettext, ngettext, override

from dromikon.core import words


class Config(AppConfig):
    name = "dromikon.web"
    label = "web"

    def ready(self) -> None:
        words.speak(gettext, ngettext, override)
