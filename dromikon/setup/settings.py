"""Settings of the whole installation: each document is a page of its own."""

from typing import ClassVar, Generic, TypeVar
from urllib.parse import urlsplit

from django.db import transaction

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core.words import N_
from dromikon.daybook.services import record_act
from dromikon.installation.gateways import GatewayPart, Gateways
from dromikon.installation.outgoing import Outgoing, forget_what_is_allowed
from dromikon.installation.reach import Reach
from dromikon.installation.settings import Document, keep_setting, setting
from dromikon.keeping.backups import BackupPlan
from dromikon.keeping.policy import Keeping
from dromikon.people.access import Everywhere
from dromikon.setup.sort import Row, Saved, Sort
from dromikon.sites.models import Site

Kept = TypeVar("Kept", bound=Document)


class SettingsSort(Sort[Kept], Generic[Kept]):
    """A document of settings as it is kept."""

    one: ClassVar[str] = ""
    about: ClassVar[str] = ""
    whole = True
    single = True

    def rows(self, who: Everywhere) -> list[Row]:
        return [Row(self.name, "", setting(self.document))]

    def save(self, who: Everywhere, id: str | None, document: Kept) -> Saved:
        keep_setting(who, document)
        return Saved(self.name)


class ReachSort(SettingsSort[Reach]):
    name = "reach"
    label = N_("Address")
    document = Reach

    def save(self, who: Everywhere, id: str | None, document: Reach) -> Saved:
        with transaction.atomic():
            saved, at = super().save(who, id, document), now_ms()
            # What texts may name is a fact of each site.
            for site in Site.objects.filter(retired_at=None):
                record_act(site.id, "facts", at)
        return saved


class GatewaysSort(SettingsSort[Gateways]):
    name = "gateways"
    label = N_("Gateways")
    icon = "send"
    document = Gateways

    def rows(self, who: Everywhere) -> list[Row]:
        return [Row(self.name, "", _without_tokens(setting(Gateways)))]

    def save(self, who: Everywhere, id: str | None, document: Gateways) -> Saved:
        kept = setting(Gateways)
        parts = {way: _sealed(getattr(document, way), getattr(kept, way)) for way in Gateways.model_fields}
        keep_setting(who, Gateways(**parts))
        return Saved(self.name)


def _without_tokens(kept: Gateways) -> Gateways:
    parts = {way: getattr(kept, way) for way in Gateways.model_fields}
    return Gateways(**{way: p.model_copy(update={"token": ""}) if p else None for way, p in parts.items()})


def _sealed(part: GatewayPart | None, kept: GatewayPart | None) -> GatewayPart | None:
    """A gateway as it is kept; the token that is kept stays when none is typed, as long as it goes to the same host."""
    if part is None:
        return None
    same = kept is not None and urlsplit(kept.address).netloc == urlsplit(part.address).netloc
    token = secrets.seal(part.token) if part.token else kept.token if kept is not None and same else ""
    return part.model_copy(update={"token": token})


class OutgoingSort(SettingsSort[Outgoing]):
    name = "outgoing"
    label = N_("Outgoing")
    document = Outgoing

    def save(self, who: Everywhere, id: str | None, document: Outgoing) -> Saved:
        saved = super().save(who, id, document)
        forget_what_is_allowed()
        return saved


class BackupSort(SettingsSort[BackupPlan]):
    name = "backups"
    label = N_("Backups")
    document = BackupPlan


class KeepingSort(SettingsSort[Keeping]):
    name = "keeping"
    label = N_("Keeping")
    document = Keeping
