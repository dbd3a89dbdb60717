"""A case as one archive: everything in it, an index page, and a signed list of digests."""

import hashlib
import tempfile
import zipfile
from pathlib import Path
from typing import IO

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat

from dromikon import config
from dromikon.cases.models import Case, Piece
from dromikon.cases.services import path_of
from dromikon.clock import now_ms
from dromikon.core.cases.handing import HOW, INDEX, SIGNATURE, SIGNER, SUMS, Handed, how_to_verify, index_page, sums
from dromikon.core.cases.handing import Piece as Shown
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.models import AuditEntry
from dromikon.people.roles import May
from dromikon.secrets import derived

FOLDERS = {"clip": "clips", "still": "stills"}


class Changed(Exception):
    """A file is not what it was when it was copied; the message says which."""


def signing_key() -> Ed25519PrivateKey:
    """The installation's key for what it hands over; it follows from the installation's own key, and is nowhere kept."""
    return Ed25519PrivateKey.from_private_bytes(derived("cases"))


def signer_pem() -> bytes:
    return signing_key().public_key().public_bytes(Encoding.PEM, PublicFormat.SubjectPublicKeyInfo)


def fingerprint() -> str:
    """SHA-256 of the public key (DER)."""
    der = signing_key().public_key().public_bytes(Encoding.DER, PublicFormat.SubjectPublicKeyInfo)
    return hashlib.sha256(der).hexdigest()


def hand_over(access: Access, case: Case) -> IO[bytes]:
    """The archive (ZIP), from its beginning; it is gone once it is closed. Raises PermissionDenied, Changed."""
    access.need(May.SEE_AUDIT)
    pieces = list(case.pieces.exclude(state=Piece.State.WAITING))
    for piece in pieces:
        if piece.file and _digest(path_of(case, piece.file)) != piece.sha256:
            raise Changed(
                f"{piece.title} ({piece.file}) is not what it was when it was copied. Take it out and add it anew."
            )
    at = now_ms()
    record(access.site, access.person, "handed over case", f"case:{case.pk}", at, title=case.title, pieces=len(pieces))
    handed = _handed(access, case, pieces, at)
    out = tempfile.TemporaryFile(dir=config.data())  # noqa: SIM115
    written = {
        INDEX: index_page(handed).encode(),
        HOW: how_to_verify(handed, fingerprint()).encode(),
        SIGNER: signer_pem(),
    }
    digests = {name: hashlib.sha256(content).hexdigest() for name, content in written.items()}
    digests |= {shown.file: shown.sha256 for shown in handed.pieces if shown.file}
    listed = sums(digests).encode()
    written |= {SUMS: listed, SIGNATURE: signing_key().sign(listed)}
    # Video and pictures are packed already.
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for name, content in written.items():
            archive.writestr(name, content)
        for piece, shown in zip(pieces, handed.pieces, strict=True):
            if shown.file:
                archive.write(path_of(case, piece.file), shown.file)
    out.seek(0)
    return out


def _handed(access: Access, case: Case, pieces: list[Piece], at: int) -> Handed:
    acts = AuditEntry.objects.filter(site=access.site, subject=f"case:{case.pk}").order_by("id")
    return Handed(
        title=case.title, note=case.note, site=access.site.name, zone=access.site.zone, by=access.person.shown_name, at=at,
        pieces=[_shown(number, piece) for number, piece in enumerate(pieces, 1)],
        acts=[(a.at, a.name, " ".join(filter(None, (a.verb, a.detail.get("piece", ""))))) for a in acts],
    )  # fmt: skip


def _shown(number: int, piece: Piece) -> Shown:
    ending = Path(piece.file).suffix
    file = f"{FOLDERS[piece.sort]}/{number:02}{ending}" if piece.file else ""
    words = piece.words if piece.state != Piece.State.FAILED else f"{piece.words}\n{piece.why}".strip()
    return Shown(
        piece.sort,
        piece.title,
        words,
        piece.where,
        piece.start,
        piece.end,
        piece.added_name,
        piece.added_at,
        file,
        piece.sha256,
    )


def _digest(path: Path) -> str:
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except OSError:
        return ""
