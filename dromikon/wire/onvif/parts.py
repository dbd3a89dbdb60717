"""Small questions about what a device has: who it is, channels, inputs, relays, presets, doors, applications."""

from collections.abc import Sequence
from typing import Any

from lxml import etree

from dromikon.core.devices.catalogue import ApplicationSaid, DoorSaid, Information, PresetSaid
from dromikon.wire.onvif import hearing
from dromikon.wire.onvif.client import OnvifDevice, Profile, duration
from dromikon.wire.onvif.namespaces import TAC, TAM, TDC, TDS, TMD, TPTZ, TRT, TT
from dromikon.wire.onvif.soap import DeviceError

#: What a door can be told, and the capability that says so (ONVIF Door Control specification).
DOOR_VERBS = {"release": "Access", "lock": "Lock", "unlock": "Unlock", "block": "Block", "hold_open": "LockOpen"}


async def information(device: OnvifDevice) -> Information:
    """Who it is."""
    answer = await device.ask(TDS, "GetDeviceInformation")

    def said(name: str) -> str:
        return (answer.findtext(f"{{{TDS}}}{name}") or "").strip()

    return {
        "manufacturer": said("Manufacturer"),
        "model": said("Model"),
        "firmware": said("FirmwareVersion"),
        "serial": said("SerialNumber"),
    }


async def channels(device: OnvifDevice) -> list[str]:
    """Tokens of the video sources."""
    return _tokens(await device.ask(TRT, "GetVideoSources"), f"{{{TRT}}}VideoSources")


async def snapshot_address(device: OnvifDevice, profile: Profile) -> str | None:
    """Where a profile's snapshot is fetched."""
    answer = await device.ask(TRT, "GetSnapshotUri", ProfileToken=profile.token)
    address = answer.findtext(f".//{{{TT}}}Uri")
    return device.reachable(address) if address else None


async def relays(device: OnvifDevice) -> list[str]:
    """Tokens of the relay outputs."""
    return _tokens(await device.ask(TDS, "GetRelayOutputs"), f"{{{TDS}}}RelayOutputs")


async def relay_times(device: OnvifDevice) -> dict[str, float]:
    """Seconds after which outputs go off by themselves (monostable ones), by token."""
    answer = await device.ask(TDS, "GetRelayOutputs")
    found = {}
    for output in answer.iter(f"{{{TDS}}}RelayOutputs"):
        settings = output.find(f"{{{TT}}}Properties")
        mode = (settings.findtext(f"{{{TT}}}Mode") or "").strip() if settings is not None else ""
        seconds = duration(settings.findtext(f"{{{TT}}}DelayTime") or "") if settings is not None else None
        if mode == "Monostable" and seconds:
            found[output.get("token", "")] = seconds
    return found


async def inputs(device: OnvifDevice) -> list[str]:
    """Tokens of the digital inputs."""
    return _tokens(await device.ask(TMD, "GetDigitalInputs"), f"{{{TMD}}}DigitalInputs")


async def presets(device: OnvifDevice, profiles: Sequence[Profile]) -> list[PresetSaid]:
    """The presets of each channel that can be moved."""
    found: list[PresetSaid] = []
    moving = {p.source: p.token for p in profiles if p.moves}
    for channel, profile in moving.items():
        answer = await device.ask(TPTZ, "GetPresets", ProfileToken=profile)
        for preset in answer.iter(f"{{{TPTZ}}}Preset"):
            token = preset.get("token", "")
            name = (preset.findtext(f"{{{TT}}}Name") or "").strip()
            found.append({"channel": channel, "token": token, "name": name or token})
    return found


async def sounds(device: OnvifDevice, profiles: Sequence[Profile]) -> list[str]:
    """The channels whose sound can be heard."""
    return sorted({p.source for p in profiles if p.sound == hearing.ENCODING})


async def scenes(device: OnvifDevice, profiles: Sequence[Profile]) -> list[str]:
    """The channels that tell which objects they see."""
    return sorted({p.source for p in profiles if p.metadata})


async def doors(device: OnvifDevice) -> list[DoorSaid]:
    """The doors of an access controller, with the access points that lead to them."""
    leading: dict[str, list[str]] = {}
    if device.has(TAC):
        for point in await _pages(device, TAC, "GetAccessPointInfoList", "AccessPointInfo"):
            door = (point.findtext(f"{{{TAC}}}Entity") or "").strip()
            leading.setdefault(door, []).append(point.get("token", ""))
    said = await _pages(device, TDC, "GetDoorInfoList", "DoorInfo")
    return [_door(d, leading.get(d.get("token", ""), [])) for d in said]


async def _pages(device: OnvifDevice, space: str, operation: str, tag: str) -> list[etree._Element]:
    """A list that comes a page at a time."""
    found: list[etree._Element] = []
    start: str | None = None
    # A device that says there is more for ever is asked a hundred times.
    for _ in range(100):
        answer = await device.ask(space, operation, Limit="100", **_from(start))
        found += answer.iter(f"{{{space}}}{tag}")
        start = (answer.findtext(f"{{{space}}}NextStartReference") or "").strip() or None
        if start is None:
            return found
    raise DeviceError("malformed", f"The device's answer to {operation} has no end.")


async def applications(device: OnvifDevice) -> list[ApplicationSaid]:
    """The programs that are installed on it."""
    answer = await device.ask(TAM, "GetInstalledApps")
    listed = [
        (a.findtext(f"{{{TAM}}}AppID") or "", a.findtext(f"{{{TAM}}}Name") or "") for a in answer.iter(f"{{{TAM}}}App")
    ]
    return [await _application(device, id.strip(), name.strip()) for id, name in listed if id.strip()]


async def _application(device: OnvifDevice, id: str, name: str) -> ApplicationSaid:
    info = (await device.ask(TAM, "GetAppsInfo", AppID=id)).find(f"{{{TAM}}}Info")
    if info is None:
        return {"id": id, "name": name, "version": "", "running": False, "licensed": None}
    licences = info.findall(f"{{{TAM}}}Licenses")
    return {
        "id": id,
        "name": name or (info.findtext(f"{{{TAM}}}Name") or "").strip(),
        "version": (info.findtext(f"{{{TAM}}}Version") or "").strip(),
        "running": (info.findtext(f"{{{TAM}}}State") or "").strip() == "Active",
        "licensed": bool(licences) if licences else None,
    }


def _door(said: etree._Element, access: list[str]) -> DoorSaid:
    capabilities = said.find(f"{{{TDC}}}Capabilities")
    granted: dict[str, str] = {} if capabilities is None else {str(k): str(v) for k, v in capabilities.attrib.items()}
    return {
        "token": said.get("token", ""),
        "name": (said.findtext(f"{{{TDC}}}Name") or "").strip() or said.get("token", ""),
        "can": [verb for verb, name in DOOR_VERBS.items() if granted.get(name) in ("true", "1")],
        "access": access,
    }


def _from(start: str | None) -> dict[str, Any]:
    return {"StartReference": start} if start else {}


def _tokens(answer: etree._Element, tag: str) -> list[str]:
    return [e.get("token", "") for e in answer.iter(tag)]
