"""The stand-in field device: a Modbus server in the boathouse's cabinet. Its registers are what the garden's instruments measure
now; a PLC would have them so."""

import asyncio
import struct
import time

from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.world import World

UNIT = 1
#: Where things stand: the freezer's tenths of a degree with sign, the wind as a floating point number over two registers, and
#: whether the leak sensor is wet.
FREEZER, WIND, LEAK = 10, 12, 3
POINTS = ("freezer-temp", "wind", "leak")
#: Functions by which registers and inputs are set; each block has so many.
HOLDING, DISCRETE, LAST = 16, 2, 100
REFRESH = 0.5


def of_fieldbus(signal: Signal) -> bool:
    """Whether the field device tells of a signal, rather than the gateway."""
    return signal.point in POINTS


class StandInFieldDevice:
    """Serves until it is cancelled."""

    def __init__(self, world: World, port: int, host: str = "127.0.0.1") -> None:
        self.world, self._address = world, (host, port)

    async def run(self) -> None:
        # Coils, discrete inputs, holding and input registers.
        blocks = (_bits(), _bits(), _registers(), _registers())
        server = ModbusTcpServer(SimDevice(UNIT, simdata=blocks), address=self._address)
        await server.serve_forever(background=True)
        try:
            while True:
                await self._refresh(server, time.time_ns() // 1_000_000)
                await asyncio.sleep(REFRESH)
        finally:
            await server.shutdown()  # type: ignore[no-untyped-call]

    async def _refresh(self, server: ModbusTcpServer, at: int) -> None:
        """Registers as the garden is at an instant."""
        freezer, wind = self.world.measured("freezer-temp", at), self.world.measured("wind", at)
        if freezer is not None:
            await server.async_setValues(UNIT, HOLDING, FREEZER, [round(freezer * 10) & 0xFFFF])
        if wind is not None:
            await server.async_setValues(UNIT, HOLDING, WIND, list(struct.unpack(">HH", struct.pack(">f", wind))))
        await server.async_setValues(UNIT, DISCRETE, LEAK, [self.world.input_on("leak", at)])


def _bits() -> list[SimData]:
    return [SimData(0, values=[False] * LAST, datatype=DataType.BITS)]


def _registers() -> list[SimData]:
    return [SimData(0, values=[0] * LAST, datatype=DataType.REGISTERS)]
