"""In which language what is sent speaks: the site's."""

from contextlib import AbstractContextManager

from dromikon.core.words import speaking, t
from dromikon.sites.models import Site


async def speaking_as(site: str) -> AbstractContextManager[object]:
    """Speak a site's language while the context lasts."""
    return speaking(await Site.objects.values_list("language", flat=True).aget(id=site))


def marked(text: str, urgent: bool) -> str:
    """A subject or text that says of itself when it is urgent."""
    return t("Urgent: {text}", text=text) if urgent else text
