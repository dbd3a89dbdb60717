"""The garden's supply, field device and broker: each tells what is so, and nobody else does."""

import asyncio
import json

import pytest
from pymodbus.client import AsyncModbusTcpClient

from dromikon.core.decoding import snmp
from dromikon.core.readings.units import converted
from dromikon.standins import agents, broker, fieldbus, gateway
from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.world import World
from tests.conftest import free_port

NOON = 1_795_607_400_000


def test_each_signal_is_told_by_one_and_no_more():
    world = World()
    for signal in world.signals(NOON - 90_000_000, NOON):
        others = sum(bool(theirs(signal)) for theirs in gateway.OTHERS)
        assert others + gateway.of_gateway(signal) == 1, signal


@pytest.mark.parametrize(("phase", "name"), [("begin", "upsTrapAlarmEntryAdded"), ("end", "upsTrapAlarmEntryRemoved")])
def test_what_the_supply_says_is_a_trap_of_the_standards_module(phase, name):
    told = snmp.read(agents.scoped(Signal(NOON, "power.on_battery", "ups", phase)))
    assert told["name"] == name and told["named"]["upsAlarmDescr"] == "upsAlarmOnBattery"
    assert told["named"]["upsIdentName"] == "Pump room supply"


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
