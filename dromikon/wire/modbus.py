"""Asking a Modbus device over TCP: blocks of registers and inputs, one after the other. The client is a library's; it connects to
the address that the gate lets through."""

import asyncio
from collections.abc import Sequence

from pymodbus.client import AsyncModbusTcpClient
from pymodbus.exceptions import ModbusException
from pymodbus.pdu import ModbusPDU

from dromikon.core.modbus.registers import WORDS, Block
from dromikon.wire.outgoing import NotAllowed, Unresolved, resolve

PATIENCE = 3.0


class NoAnswer(Exception):
    """The device does not answer, or with what is no answer; the message says what it did."""


class Device:
    """One device at a host and port; several may share these, told apart by their `unit`."""

    def __init__(self, host: str, port: int, unit: int) -> None:
        self._host, self._port, self._unit = host, port, unit
        self._client: AsyncModbusTcpClient | None = None

    async def read(self, asked: Sequence[Block]) -> dict[tuple[str, int], int]:
        """Words and bits by table and number. Raises NoAnswer."""
        client = await self._connected()
        found: dict[tuple[str, int], int] = {}
        for block in asked:
            told = await self._ask(client, block)
            # Inputs come in whole bytes.
            found.update({(block.table, block.start + i): int(v) for i, v in enumerate(told[: block.count])})
        return found

    def close(self) -> None:
        if self._client is not None:
            self._client.close()
            self._client = None

    async def _connected(self) -> AsyncModbusTcpClient:
        if self._client is not None and self._client.connected:
            return self._client
        self.close()
        try:
            address = await resolve(self._host, self._port)
        except NotAllowed as error:
            raise NoAnswer(str(error)) from error
        except Unresolved as error:
            raise NoAnswer(f"The name {self._host} leads nowhere.") from error
        client = AsyncModbusTcpClient(address, port=self._port, timeout=PATIENCE, retries=0, reconnect_delay=0)
        if not await client.connect():
            client.close()
            raise NoAnswer("The device does not answer.")
        self._client = client
        return client

    async def _ask(self, client: AsyncModbusTcpClient, block: Block) -> Sequence[int | bool]:
        asking = {
            "holding": client.read_holding_registers, "input": client.read_input_registers, "coil": client.read_coils,
            "discrete": client.read_discrete_inputs,
        }[block.table]  # fmt: skip
        try:
            answer: ModbusPDU = await asyncio.wait_for(
                asking(block.start, count=block.count, device_id=self._unit), PATIENCE * 2
            )
        except (ModbusException, OSError, TimeoutError, ValueError) as error:
            self.close()
            raise NoAnswer(f"The device does not answer as it should: {str(error)[:120] or 'too late'}") from error
        if answer.isError():
            raise NoAnswer(
                f"The device refuses {block.table} {block.start} to {block.start + block.count - 1}: {answer}"[:200]
            )
        told = answer.registers if block.table in WORDS else answer.bits
        if len(told) < block.count:
            self.close()
            raise NoAnswer("The device answers with less than was asked for.")
        return told
