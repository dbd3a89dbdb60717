"""A server of SFTP that keeps clips, with a key of its own."""

import asyncio
from pathlib import Path

import asyncssh

USER, PASSWORD = "dromikon", "acorn-lane-4"


class _Guard(asyncssh.SSHServer):
    def password_auth_supported(self) -> bool:
        return True

    def validate_password(self, username: str, password: str) -> bool:
        return (username, password) == (USER, PASSWORD)


class Files:
    """A folder, reached from outside."""

    def __init__(self, folder: Path) -> None:
        self.folder, self._key_file = folder / "kept", folder / "host_key"

    def key(self) -> asyncssh.SSHKey:
        """Its key, made when it is first asked for."""
        self.folder.mkdir(parents=True, exist_ok=True)
        if not self._key_file.exists():
            asyncssh.generate_private_key("ssh-ed25519").write_private_key(str(self._key_file))
        return asyncssh.read_private_key(str(self._key_file))

    async def run(self, port: int, host: str) -> None:
        """Until it is cancelled."""
        server = await asyncssh.listen(
            host, port, server_factory=_Guard, server_host_keys=[self.key()],
            sftp_factory=lambda channel: asyncssh.SFTPServer(channel, chroot=str(self.folder).encode()),
        )  # fmt: skip
        try:
            await asyncio.Event().wait()
        finally:
            server.close()

    def listed(self) -> list[tuple[str, int, int]]:
        """What is there: path, bytes, when it was written (ms UTC); the newest first."""
        found = [p for p in self.folder.rglob("*") if p.is_file()] if self.folder.exists() else []
        told = [(str(p.relative_to(self.folder)), p.stat().st_size, int(p.stat().st_mtime * 1000)) for p in found]
        return sorted(told, key=lambda f: -f[2])
