"""The stand-in field device: a Modbus server in the boathouse's cabinet. Its registers are what the garden's instruments measure
now; a PLC would have them so."""

import asyncio
import struct
import time

from pymodbus.datastore import ModbusDeviceContext, ModbusSequentialDataBlock, ModbusServerContext
from pymodbus.server import ModbusTcpServer

from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.world import World

UNIT = 1
#: Where things stand: the freezer's tenths of a degree with sign, the wind as a floating point number over two registers, and
#: whether the leak sensor is wet.
FREEZER, WIND, LEAK = 10, 12, 3
POINTS = ("freezer-temp", "wind", "leak")
HOLDING, DISCRETE = 3, 2
REFRESH = 0.5


def of_fieldbus(signal: Signal) -> bool:
    """Whether the field device tells of a signal, rather than the gateway."""
    return signal.point in POINTS


class StandInFieldDevice:
    """Serves until it is cancelled."""

    def __init__(self, world: World, port: int, host: str = "127.0.0.1") -> None:
        self.world, self._address = world, (host, port)
        self._blank = [ModbusSequentialDataBlock(0, [0] * 200) for _ in range(4)]
        discrete, coils, inputs, holding = self._blank
        self._device = ModbusDeviceContext(di=discrete, co=coils, ir=inputs, hr=holding)

    async def run(self) -> None:
        self.refresh(time.time_ns() // 1_000_000)
        server = ModbusTcpServer(ModbusServerContext(devices={UNIT: self._device}, single=False), address=self._address)
        serving = asyncio.create_task(server.serve_forever())
        try:
            while True:
                await asyncio.sleep(REFRESH)
                self.refresh(time.time_ns() // 1_000_000)
        finally:
            await server.shutdown()
            serving.cancel()

    def refresh(self, at: int) -> None:
        """Registers as the garden is at an instant."""
        freezer, wind = self.world.measured("freezer-temp", at), self.world.measured("wind", at)
        if freezer is not None:
            self._device.setValues(HOLDING, FREEZER, [round(freezer * 10) & 0xFFFF])
        if wind is not None:
            self._device.setValues(HOLDING, WIND, list(struct.unpack(">HH", struct.pack(">f", wind))))
        self._device.setValues(DISCRETE, LEAK, [int(self.world.input_on("leak", at))])
