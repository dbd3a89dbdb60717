"""Keeping files on a server of SFTP (asyncssh), through the gate. The server's key is known beforehand: a server with another
key is refused."""

import asyncio
import contextlib
from collections.abc import AsyncIterator
from dataclasses import dataclass, field

import asyncssh

from dromikon.wire.outgoing import resolve

PORT = 22
#: Connecting and each answer may take so long, in seconds.
PATIENCE = 10.0
PART = ".part"


class NotNow(Exception):
    """It did not work and may later; the message says why."""


class Refused(Exception):
    """It will not work as it is set up; the message says why."""


@dataclass(frozen=True, slots=True)
class Server:
    """Where, as whom, and by which key the server is known (``ssh-ed25519 AAAA…``)."""

    host: str
    port: int
    user: str
    password: str = field(repr=False)
    host_key: str


async def keep(server: Server, path: str, content: AsyncIterator[bytes]) -> int:
    """Write a file, whole or not at all; one that is there stays. Answers its size. Raises NotNow, Refused, NotAllowed, and
    whatever the content raises."""
    try:
        key = asyncssh.import_public_key(server.host_key)
    except (asyncssh.KeyImportError, ValueError) as error:
        raise Refused(f"The key that {server.host} is known by cannot be read: {error}") from error
    try:
        address = await resolve(server.host, server.port)
        connection = await asyncssh.connect(
            address, server.port, username=server.user, password=server.password, known_hosts=([key], [], []),
            client_keys=None, agent_path=None, config=None, connect_timeout=PATIENCE, login_timeout=PATIENCE,
            keepalive_interval=PATIENCE,
        )  # fmt: skip
        # A task of its own: one that is told to stop would wait in the middle of it for a server that may be gone.
        writing = asyncio.create_task(_write(connection, path, content))
        try:
            return await asyncio.shield(writing)
        finally:
            # All that was written has been confirmed: nobody waits for a farewell.
            connection.abort()
            writing.cancel()
    except asyncssh.HostKeyNotVerifiable as error:
        raise Refused(f"{server.host} has another key than the one that it is known by.") from error
    except asyncssh.PermissionDenied as error:
        raise Refused(f"{server.host} refuses {server.user} with this password.") from error
    except asyncssh.SFTPPermissionDenied as error:
        raise Refused(f"{server.host} does not let {server.user} write {path}.") from error
    except (asyncssh.Error, OSError, TimeoutError) as error:
        raise NotNow(f"{server.host} could not be used: {error or type(error).__name__}") from error


async def _write(connection: asyncssh.SSHClientConnection, path: str, content: AsyncIterator[bytes]) -> int:
    client = await connection.start_sftp_client()
    if await client.exists(path):
        return int((await client.stat(path)).size or 0)
    folder = path.rpartition("/")[0]
    if folder:
        await client.makedirs(folder, exist_ok=True)
    size, part = 0, path + PART
    try:
        # Closed where it is whole alone: whoever is told to stop in the middle must wait for no answer.
        file = await client.open(part, "wb")
        async for piece in content:
            await file.write(piece)
            size += len(piece)
        await file.close()
        await client.rename(part, path)
    except Exception:
        with contextlib.suppress(asyncssh.Error, OSError, TimeoutError):
            async with asyncio.timeout(PATIENCE):
                await client.remove(part)
        raise
    return size
