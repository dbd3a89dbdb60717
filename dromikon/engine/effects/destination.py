"""What effects that send to a configured destination have in common."""

from dataclasses import dataclass, field
from typing import Any

from asgiref.sync import sync_to_async

from dromikon.core.rules.actions.destinations import DESTINATION
from dromikon.sites.models import Destination


@dataclass(frozen=True, slots=True)
class Known:
    """A destination as it is set up now, with its passwords and tokens."""

    name: str
    settings: dict[str, Any]
    secrets: dict[str, str] = field(repr=False)


async def known(site: str, target: str, sort: str) -> Known | None:
    """What a step's target is; None where it is gone or of another sort. Raises SealBroken."""
    return await sync_to_async(_read)(site, target.removeprefix(DESTINATION), sort)


def _read(site: str, id: str, sort: str) -> Known | None:
    found = Destination.objects.filter(site_id=site, id=id, sort=sort, retired_at=None).first()
    return Known(found.name, found.settings, found.secrets) if found is not None else None


GONE = "The destination is not there any more."
