"""The garden's supply, field device and broker: each tells what is so, and nobody else does."""

import asyncio
import json

import pytest
from pymodbus.client import AsyncModbusTcpClient

from dromikon.core.decoding import snmp
from dromikon.core.mibs.module import read
from dromikon.core.mibs.names import names_of
from dromikon.core.readings.units import converted
from dromikon.demo import load
from dromikon.standins import agents, broker, fieldbus, gateway
from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.world import World
from tools.ports import free_port

NOON = 1_795_607_400_000


def test_each_signal_is_told_by_one_and_no_more():
    world = World()
    for signal in world.signals(NOON - 90_000_000, NOON):
        others = sum(bool(theirs(signal)) for theirs in gateway.OTHERS)
        assert others + gateway.of_gateway(signal) == 1, signal


@pytest.mark.parametrize(
    ("point", "phase", "name", "told"),
    [("ups", "begin", "upsTrapAlarmEntryAdded", {"upsAlarmDescr": "upsAlarmOnBattery"}), ("ups", "end", "upsTrapAlarmEntryRemoved", {"upsIdentName": "Pump room supply"}),
     ("uplink", "begin", "linkDown", {"ifOperStatus": "down", "ifDescr": "Uplink of the lodge"}), ("uplink", "end", "linkUp", {"ifOperStatus": "up"}),
     ("freezer-alarm", "begin", "freezerStateChanged", {"freezerState": "warm"}), ("freezer-alarm", "end", "freezerStateChanged", {"freezerState": "cold"})],
)  # fmt: skip
def test_what_agents_say_are_traps_of_their_modules(point, phase, name, told):
    modules = [
        definition
        for file in load.MIBS.glob("*.mib")
        for module in read(file.read_text())
        for definition in module.definitions
    ]
    said = snmp.read(agents.kept(Signal(NOON, "input.active", point, phase)), names_of(modules))
    assert said["name"] == name and told.items() <= said["named"].items()


def test_the_freezers_controller_says_warm_while_it_is():
    world = World()
    world.provoke("warm-freezer", NOON)
    said = [s for s in world.signals(NOON, NOON + 3_600_000) if s.point == "freezer-alarm"]
    (begin, end) = said
    assert begin.phase == "begin" and world.measured("freezer-temp", begin.at + 30_000) == pytest.approx(-17.3, abs=0.5)
    assert end.phase == "end" and world.measured("freezer-temp", end.at) == pytest.approx(-18.5, abs=0.8)


def test_the_orchid_house_tells_the_same_warmth_in_another_unit():
    world = World()
    told = [s for s in world.signals(NOON - 7_200_000, NOON) if broker.of_broker(s)]
    assert {broker.topic_of(s) for s in told} == {"quillmere/orchid-house/temp", "quillmere/orchid-house/humidity"}
    warm = next(s for s in told if s.point == "orchid-temp")
    said = json.loads(broker.payload_of(warm))
    assert said["unit"] == "°F" and converted(said["value"], "°F", "°C") == pytest.approx(
        warm.fields["value"], abs=0.06
    )


async def test_the_field_devices_registers_are_what_the_garden_measures():
    world, port = World(), free_port()
    task = asyncio.create_task(fieldbus.StandInFieldDevice(world, port).run())
    await asyncio.sleep(0.4)
    client = AsyncModbusTcpClient("127.0.0.1", port=port)
    await client.connect()
    words = (await client.read_holding_registers(fieldbus.FREEZER, count=4, device_id=1)).registers
    assert (words[0] - 65_536) / 10 == pytest.approx(-21, abs=3)
    assert (await client.read_discrete_inputs(fieldbus.LEAK, count=1, device_id=1)).bits[0] in (True, False)
    client.close()
    task.cancel()
    await asyncio.gather(task, return_exceptions=True)
