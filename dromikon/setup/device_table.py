"""Devices as a table: forty are written down in a spreadsheet and taken in one go."""

from collections.abc import Iterable

from dromikon.core.rules.document import Problem
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.setup.lines import Taken, read, written
from dromikon.setup.sort import refuse
from dromikon.sources.identify import Identity, identify_many, known_devices, same_device
from dromikon.sources.models import Device
from dromikon.sources.services import address_problems, save_device

UNASKED = Identity("silent")
#: A password is taken and never given out.
COLUMNS = ("id", "name", "address", "user", "password", "area", "enabled")


def devices_as_table(access: Access) -> str:
    """All devices of a site as CSV, without their passwords."""
    access.need(May.EDIT_SOURCES)
    devices = access.site.devices.filter(retired_at=None).select_related("area")
    rows = (
        [d.id, d.name, d.address, d.user, "", d.area.name if d.area else "", "yes" if d.enabled else "no"]
        for d in devices
    )
    return written(COLUMNS, rows)


def take_devices(access: Access, text: str) -> Taken:
    """Add and change devices as a table says; a line with the id of a device changes it, others add one. Good lines are
    taken, faulty ones named. New ones are asked who they are, so that none is added twice; those that do not answer are
    added all the same. Raises Refused when it is no such table."""
    access.need(May.EDIT_SOURCES)
    lines = list(read(text, COLUMNS, ("name", "address")))
    taken, reading = Taken(), _Reading(access)
    reading.ask(cells for _, cells in lines if not cells.get("id"))
    for number, cells in lines:
        try:
            reading.take(cells, taken)
        except Refused as refused:
            taken.refuse(number, refused)
    return taken


class _Reading:
    """Lines against what is there: what a line names must be, and no device is added twice."""

    def __init__(self, access: Access) -> None:
        self.access = access
        self.devices = {d.id: d for d in access.site.devices.filter(retired_at=None).select_related("area")}
        self.areas = {a.name.casefold(): a for a in access.site.areas.filter(retired_at=None)}
        self.known = known_devices(access.site)
        self.identities: dict[str, Identity] = {}

    def ask(self, lines: Iterable[dict[str, str]]) -> None:
        """Ask those at new addresses who they are."""
        here = {d.address for d in self.known}
        fresh = {c["address"]: (c["address"], c.get("user", ""), c.get("password", "")) for c in lines}
        self.identities = identify_many(
            asked for address, asked in fresh.items() if address not in here and not address_problems(address)
        )

    def take(self, cells: dict[str, str], taken: Taken) -> None:
        """Do what a line says. Raises Refused."""
        device = self._device(cells.get("id", ""))
        content = self._content(cells, device)
        identity = self.identities.get(content["address"], UNASKED)
        others = [d for d in self.known if device is None or d.id != device.id]
        other = same_device(others, identity, content["address"])
        if other is not None:
            raise refuse("address", f"This is {other.name}, which is here already.")
        password = cells.get("password") or None
        if device is not None and not password and self._says(device) == content:
            taken.same += 1
            return
        saved = save_device(
            self.access, device, name=content["name"], address=content["address"], user=content["user"],
            password=password, area=content["area"] or None, enabled=content["enabled"] == "yes",
        )  # fmt: skip
        if device is None:
            taken.added += 1
            saved.information = identity.told
            saved.save(update_fields=["information"])
        else:
            taken.changed += 1
        self.known = [*(d for d in self.known if d.id != saved.id), saved]

    def _device(self, id: str) -> Device | None:
        if id and id not in self.devices:
            raise refuse("id", f"There is no device {id} at this site. Leave it empty for a new one.")
        return self.devices.get(id)

    def _content(self, cells: dict[str, str], device: Device | None) -> dict[str, str]:
        """What a line says; columns that are not there leave a device as it is."""
        fresh = {"name": "", "address": "", "user": "", "area": "", "enabled": "yes"}
        found = self._says(device) if device else fresh
        found.update({name: cells[name] for name in ("name", "address", "user") if name in cells})
        if "area" in cells:
            area = self.areas.get(cells["area"].casefold())
            if cells["area"] and area is None:
                raise Refused([Problem(path="area", message=f"There is no area called {cells['area']}.")])
            found["area"] = area.id if area else ""
        if cells.get("enabled"):
            found["enabled"] = "no" if cells["enabled"].lower() in ("no", "false", "0") else "yes"
        return found

    def _says(self, device: Device) -> dict[str, str]:
        return {
            "name": device.name, "address": device.address, "user": device.user, "area": device.area_id or "",
            "enabled": "yes" if device.enabled else "no",
        }  # fmt: skip
