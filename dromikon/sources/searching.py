"""Searches: many addresses asked with one set of credentials, and the network itself; with an outcome for each, and what is
chosen added in one go. A search goes on when its page is left."""

import asyncio
import threading
from collections.abc import Callable, Iterable
from typing import TypedDict

from asgiref.sync import async_to_sync, sync_to_async
from django.db import close_old_connections, transaction

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core.address_ranges import device_addresses
from dromikon.core.reading import NotReadable
from dromikon.core.rules.document import Problem
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.identify import AT_ONCE, Identity, ask, host_of, known_devices, same_device
from dromikon.sources.models import Device, Search
from dromikon.sources.services import save_device
from dromikon.wire.onvif.discovery import Found, discover

#: What came of them is written down as a whole, so the more there are the less often: pauses in seconds, and outcomes a second.
SOONEST, LATEST, EACH = 0.3, 3.0, 300
#: Searches are kept for a day, in ms.
KEPT = 86_400_000


class Outcome(TypedDict):
    """What came of one address. `state`: asking, found, refused, silent, not_allowed, here (already), added or failed."""

    address: str
    endpoint: str
    state: str
    name: str
    manufacturer: str
    model: str
    firmware: str
    serial: str
    device: str
    said: str
    channels: str
    inputs: str
    relays: str
    doors: str
    presets: str
    detectors: str
    events: str


def begin_search(
    access: Access, addresses: str, network: bool, user: str, password: str, start: Callable[[str], None] | None = None
) -> Search:
    """Begin to ask; it goes on by itself. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    try:
        listed = device_addresses(addresses)
    except NotReadable as error:
        raise Refused([Problem(path="addresses", message=f"{str(error)[:1].upper()}{str(error)[1:]}.")]) from error
    if not listed and not network:
        raise Refused([Problem(path="addresses", message="List addresses, or have the network asked.")])
    at = now_ms()
    with transaction.atomic():
        Search.objects.filter(began_at__lt=at - KEPT).delete()
        search = Search.objects.create(
            site=access.site, by=access.person.shown_name, began_at=at, network=network, user=user.strip()[:80],
            password_sealed=secrets.seal(password), outcomes=[_asked(address) for address in listed],
        )  # fmt: skip
        record(access.site, access.person, "searched devices", f"search:{search.pk}", at, name=addresses[:200])
    (start or _in_a_thread)(search.pk)
    return search


def _asked(address: str, found: Found | None = None) -> Outcome:
    return {
        "address": address, "endpoint": found.endpoint if found else "", "state": "asking", "name": found.name if found else "",
        "manufacturer": "", "model": found.hardware if found else "", "firmware": "", "serial": "", "device": "", "said": "",
        "channels": "", "inputs": "", "relays": "", "doors": "", "presets": "", "detectors": "", "events": "",
    }  # fmt: skip


def _in_a_thread(search: str) -> None:
    threading.Thread(target=run_search, args=(search,), name="search", daemon=True).start()


def run_search(search: str) -> None:
    """Ask everything, and write down what comes of it as it comes."""
    try:
        async_to_sync(_run)(Search.objects.select_related("site").get(pk=search))
    finally:
        close_old_connections()


async def _run(search: Search) -> None:
    outcomes: list[Outcome] = list(search.outcomes)
    if search.network:
        listed = {o["address"] for o in outcomes}
        outcomes += [_asked(f.addresses[0], f) for f in await discover() if f.addresses[0] not in listed]
    known = await sync_to_async(known_devices)(search.site)
    gate, password = asyncio.Semaphore(AT_ONCE), search.password

    async def one(outcome: Outcome) -> None:
        async with gate:
            identity = await ask(outcome["address"], search.user, password, closer=True)
        _note(outcome, identity, same_device(known, identity, outcome["address"], outcome["endpoint"]))

    asking = asyncio.gather(*map(one, outcomes))
    pause = min(LATEST, max(SOONEST, len(outcomes) / EACH))
    while not asking.done():
        await asyncio.wait([asking], timeout=pause)
        await sync_to_async(_write)(search.pk, outcomes)
    await asking
    await sync_to_async(_write)(search.pk, outcomes, ended=now_ms())


def _note(outcome: Outcome, identity: Identity, other: Device | None) -> None:
    """What came of one address."""
    outcome["state"], outcome["said"] = identity.answer, identity.said
    for field in ("manufacturer", "model", "firmware", "serial"):
        outcome[field] = getattr(identity, field) or outcome[field]
    for name, count in identity.has.items():
        outcome[name] = str(count)  # type: ignore[literal-required]
    outcome["name"] = outcome["name"] or identity.name or host_of(outcome["address"])
    if other is not None:
        outcome["state"], outcome["name"], outcome["device"] = "here", other.name, other.id


def _write(search: str, outcomes: list[Outcome], ended: int | None = None) -> None:
    Search.objects.filter(pk=search).update(outcomes=outcomes, ended_at=ended)


def add_found(access: Access, search: Search, chosen: Iterable[tuple[str, str]], area: str | None) -> list[Outcome]:
    """Add what is chosen, as (address, name), once the search is over; each has an outcome of its own. Raises Refused,
    PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    if not search.over(now_ms()):
        raise Refused([Problem(path="", message="The search still goes on. Add what it finds when it has ended.")])
    by_address: dict[str, Outcome] = {o["address"]: o for o in search.outcomes}
    known, done = known_devices(access.site), []
    for address, name in chosen:
        outcome = by_address.get(address)
        if outcome is not None:
            known += _add(access, search, known, outcome, name, area)
            done.append(outcome)
    Search.objects.filter(pk=search.pk).update(outcomes=list(by_address.values()))
    return done


def _add(
    access: Access, search: Search, known: list[Device], outcome: Outcome, name: str, area: str | None
) -> list[Device]:
    """Add one; answers with it, or with nothing when it is here already or could not be added."""
    identity = Identity("found", outcome["manufacturer"], serial=outcome["serial"])
    other = same_device(known, identity, outcome["address"], outcome["endpoint"])
    if other is not None:
        outcome["state"], outcome["device"], outcome["name"] = "here", other.id, other.name
        return []
    try:
        made = save_device(
            access, None, name=name or outcome["name"] or host_of(outcome["address"]), address=outcome["address"],
            user=search.user, password=search.password, area=area,
        )  # fmt: skip
    except Refused as refused:
        outcome["state"], outcome["said"] = "failed", " ".join(p.message for p in refused.problems)
        return []
    made.endpoint = outcome["endpoint"]
    made.information = {k: outcome[k] for k in ("manufacturer", "model", "firmware", "serial") if outcome[k]}
    made.save(update_fields=["endpoint", "information"])
    outcome["state"], outcome["device"], outcome["name"] = "added", made.id, made.name
    return [made]
