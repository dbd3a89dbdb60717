"""Customers and their sites: the installation's, not one site's."""

from typing import Annotated

from django.db import transaction
from pydantic import Field

from dromikon.clock import now_ms
from dromikon.core.rules.controls import Pick, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_
from dromikon.daybook.services import record_act
from dromikon.ids import id_or_new
from dromikon.people.access import Everywhere
from dromikon.people.audit import record
from dromikon.people.models import Membership
from dromikon.people.roles import Role
from dromikon.setup.place import SiteDocument, document_of, take_over
from dromikon.setup.sort import Row, Saved, Sort, refuse
from dromikon.sites.models import Customer, Site


class CustomerDocument(Part):
    """Whose sites they are."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]


class NewSiteDocument(SiteDocument):
    """A site of a customer."""

    customer: Annotated[Ref, Pick(N_("Customer"), of="customer")]


def save_customer(who: Everywhere, id: str | None, document: CustomerDocument, new_id: str | None = None) -> Customer:
    """Add a customer, or give one another name."""
    who.need()
    customer = _customer(id) if id else Customer(id=id_or_new(new_id))
    customer.name = document.name.strip()
    at = now_ms()
    with transaction.atomic():
        customer.save(force_insert=not id)
        verb = "changed customer" if id else "added customer"
        record(None, who.person, verb, f"customer:{customer.id}", at, name=customer.name)
    return customer


def retire_customer(who: Everywhere, id: str) -> None:
    """Take a customer away that has no sites any more."""
    who.need()
    customer = _customer(id)
    if customer.sites.filter(retired_at=None).exists():
        raise refuse("id", f"{customer.name} still has sites. Retire those first.")
    at = now_ms()
    with transaction.atomic():
        customer.retired_at = at
        customer.save(update_fields=["retired_at"])
        record(None, who.person, "retired customer", f"customer:{id}", at, name=customer.name)


def save_site(who: Everywhere, id: str | None, document: NewSiteDocument, new_id: str | None = None) -> Site:
    """Add a site, whose administrator is then who added it, or change one."""
    who.need()
    site = _site(id) if id else Site(id=id_or_new(new_id))
    site.customer = _customer(document.customer.id, "customer")
    take_over(site, document)
    at = now_ms()
    with transaction.atomic():
        site.save(force_insert=not id)
        if not id and who.person is not None:
            Membership.objects.create(person=who.person, site=site, role=Role.ADMINISTRATOR)
        record(site, who.person, "changed site" if id else "added site", f"site:{site.id}", at, name=site.name)
        record_act(site.id, "facts", at)
    return site


def retire_site(who: Everywhere, id: str) -> None:
    """Take a site away: nobody sees it any more, its rules are switched off, and nothing is taken from its devices."""
    who.need()
    site, at = _site(id), now_ms()
    with transaction.atomic():
        site.retired_at = at
        site.save(update_fields=["retired_at"])
        site.devices.update(enabled=False)
        site.intakes.update(enabled=False)
        site.rules.update(enabled=False)
        record(site, who.person, "retired site", f"site:{id}", at, name=site.name)
        record_act(site.id, "facts", at)


def _customer(id: str, path: str = "id") -> Customer:
    found = Customer.objects.filter(id=id, retired_at=None).first()
    if found is None:
        raise refuse(path, "There is no such customer any more.")
    return found


def _site(id: str) -> Site:
    found = Site.objects.filter(id=id, retired_at=None).first()
    if found is None:
        raise refuse("id", "There is no such site any more.")
    return found


class Customers(Sort[CustomerDocument]):
    name = "customers"
    label = N_("Customers")
    one = N_("Add a customer")
    about = N_("A customer is whose sites they are.")
    icon = "flag"
    columns = (N_("sites"),)
    document = CustomerDocument
    whole = True

    def rows(self, who: Everywhere) -> list[Row]:
        known = Customer.objects.filter(retired_at=None).order_by("name").prefetch_related("sites")
        return [
            Row(
                c.id,
                c.name,
                CustomerDocument(name=c.name),
                (", ".join(s.name for s in c.sites.all() if s.retired_at is None),),
            )
            for c in known
        ]

    def save(self, who: Everywhere, id: str | None, document: CustomerDocument) -> Saved:
        return Saved(save_customer(who, id, document).id)

    def retire(self, who: Everywhere, id: str) -> None:
        retire_customer(who, id)

    def used_by(self, who: Everywhere, id: str) -> list[str]:
        return list(Site.objects.filter(customer_id=id, retired_at=None).values_list("name", flat=True))


class Sites(Sort[NewSiteDocument]):
    name = "sites"
    label = N_("Sites")
    one = N_("Add a site")
    about = N_("A site has areas, devices, rules and people of its own, and one time zone.")
    icon = "map-pin"
    columns = (N_("customer"), N_("time zone"))
    document = NewSiteDocument
    whole = True

    def rows(self, who: Everywhere) -> list[Row]:
        return [_row(s) for s in Site.objects.filter(retired_at=None).select_related("customer")]

    def save(self, who: Everywhere, id: str | None, document: NewSiteDocument) -> Saved:
        return Saved(save_site(who, id, document).id)

    def retire(self, who: Everywhere, id: str) -> None:
        retire_site(who, id)

    def used_by(self, who: Everywhere, id: str) -> list[str]:
        site = _site(id)
        return [*site.rules.filter(deleted=False).values_list("name", flat=True)]


def _row(site: Site) -> Row:
    customer = Ref(id=site.customer_id, name=site.customer.name)
    document = NewSiteDocument(customer=customer, **document_of(site).model_dump())
    return Row(site.id, site.name, document, (site.customer.name, site.zone))
