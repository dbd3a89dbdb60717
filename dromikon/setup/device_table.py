"""Devices as a table: forty are written down in a spreadsheet and taken in one go."""

from dromikon.core.rules.document import Problem
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.setup.lines import Taken, read, written
from dromikon.setup.sort import refuse
from dromikon.sources.identify import known_devices
from dromikon.sources.models import Device
from dromikon.sources.services import save_device

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
    taken, faulty ones named. Their sessions say who they are. Raises Refused when it is no such table."""
    access.need(May.EDIT_SOURCES)
    taken, reading = Taken(), _Reading(access)
    for number, cells in read(text, COLUMNS, ("name", "address")):
        try:
            reading.take(cells, taken)
        except Refused as refused:
            taken.refuse(number, refused)
    return taken


class _Reading:
    """Lines against what is there: what a line names must be, and no address is taken twice."""

    def __init__(self, access: Access) -> None:
        self.access = access
        self.devices = {d.id: d for d in access.site.devices.filter(retired_at=None).select_related("area")}
        self.areas = {a.name.casefold(): a for a in access.site.areas.filter(retired_at=None)}
        self.addresses = {d.address: (d.id, d.name) for d in known_devices(access.site)}

    def take(self, cells: dict[str, str], taken: Taken) -> None:
        """Do what a line says. Raises Refused."""
        device = self._device(cells.get("id", ""))
        content = self._content(cells, device)
        other = self.addresses.get(content["address"])
        if other is not None and (device is None or other[0] != device.id):
            raise refuse("address", f"{other[1]} is there already.")
        password = cells.get("password") or None
        if device is not None and not password and self._says(device) == content:
            taken.same += 1
            return
        saved = save_device(
            self.access, device, name=content["name"], address=content["address"], user=content["user"],
            password=password, area=content["area"] or None, enabled=content["enabled"] == "yes",
        )  # fmt: skip
        self.addresses[saved.address] = saved.id, saved.name
        if device is None:
            taken.added += 1
        else:
            taken.changed += 1

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
