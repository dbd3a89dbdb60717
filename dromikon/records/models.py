"""Searches that are kept under a name."""

from django.db import models

from dromikon.sites.models import Site


class KeptSearch(models.Model):
    """A search (core.records.search) that somebody keeps for themselves, or for everybody at the site."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="kept_searches")
    person = models.ForeignKey(
        "people.Person",
        on_delete=models.CASCADE,
        null=True,
        related_name="kept_searches",
        help_text="null: everybody's",
    )
    name = models.CharField(max_length=80)
    document = models.JSONField()

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["site", "person", "name"], name="one_search_a_name"),
            models.UniqueConstraint(
                fields=["site", "name"], condition=models.Q(person=None), name="one_search_of_everybody"
            ),
        ]

    def __str__(self) -> str:
        return self.name
