"""Named Hours; the document is validated by `dromikon.core.hours`."""

from django.db import models

from dromikon.ids import new_id
from dromikon.sites.models import Site


class Hours(models.Model):
    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="hours")
    name = models.CharField(max_length=120)
    document = models.JSONField(default=dict)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name
