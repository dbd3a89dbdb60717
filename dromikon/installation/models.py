"""What is set for the whole installation."""

from django.db import models


class Setting(models.Model):
    """One document of settings by its name; `dromikon.installation.settings` has what each holds."""

    name = models.CharField(primary_key=True, max_length=40)
    value = models.JSONField()
    changed_at = models.BigIntegerField()

    def __str__(self) -> str:
        return self.name
