"""Makes the Django app known."""

from django.apps import AppConfig


class Config(AppConfig):
    name = "dromikon.cases"
    label = "cases"
