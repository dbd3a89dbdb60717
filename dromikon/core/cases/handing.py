"""What a case is handed over as: a folder that any browser opens without a network, with a list of digests that common tools verify."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, tzinfo
from html import escape
from zoneinfo import ZoneInfo

from dromikon.core.instants import Instant, iso, to_datetime
from dromikon.core.words import N_, t

INDEX, SUMS, SIGNATURE, SIGNER, HOW = "index.html", "SHA256SUMS", "SHA256SUMS.sig", "signer.pem", "how-to-verify.txt"
#: What one of each sort of piece is called.
SORTS = {
    "clip": N_("Clip"),
    "still": N_("Still"),
    "event": N_("Event"),
    "alarm": N_("Alarm"),
    "note": N_("Note"),
}
#: Nothing in the page runs, and nothing is fetched from elsewhere.
POLICY = "default-src 'none'; img-src 'self'; media-src 'self'; style-src 'unsafe-inline'"
STYLE = (
    "body{font:16px/1.5 system-ui,sans-serif;margin:0 auto;max-width:60rem;padding:1.5rem;color:#1d2226;background:#f6f3ec}"
    "h1{margin:0}section{background:#fffdf8;border:1px solid #d8d0c0;border-radius:4px;padding:1rem;margin:1rem 0}"
    "h2{margin:0 0 .3rem;font-size:1.1rem}video,img{max-width:100%;display:block;background:#14171a;margin:.5rem 0}"
    ".q{color:#5c635f}code{overflow-wrap:anywhere;font-size:.85rem}dl{display:grid;grid-template-columns:auto 1fr;gap:.1rem 1rem}"
    "dd{margin:0}"
)


@dataclass(frozen=True, slots=True)
class Piece:
    """One thing in a case. `file`: its name in the folder, with `sha256`; empty for what is only words. `start` and `end`: what it
    shows (ms UTC). `who` added it, at `added`."""

    sort: str
    title: str
    words: str
    place: str
    start: Instant | None
    end: Instant | None
    who: str
    added: Instant
    file: str = ""
    sha256: str = ""


@dataclass(frozen=True, slots=True)
class Handed:
    """A case as it is handed over: by whom, when, from which site; `acts`: what was done with it, each with when and by whom."""

    title: str
    note: str
    site: str
    zone: str
    by: str
    at: Instant
    pieces: Sequence[Piece]
    acts: Sequence[tuple[Instant, str, str]] = ()


def sums(digests: Mapping[str, str]) -> str:
    """The list of digests as `sha256sum -c` reads it."""
    return "".join(f"{digest}  {name}\n" for name, digest in sorted(digests.items()))


def how_to_verify(case: Handed, fingerprint: str) -> str:
    """In plain words, with commands of common tools."""
    return t(
        "{title}\n{site}, handed over by {by} at {at}\n\n"
        "1. That no file was changed (in this folder):\n\n       sha256sum -c {sums}\n\n"
        "2. That the list of digests is the one that was handed over (OpenSSL 3):\n\n"
        "       openssl pkeyutl -verify -pubin -inkey {signer} -rawin -in {sums} -sigfile {signature}\n\n"
        "3. That it was signed by that installation: its key has this SHA-256, which whoever handed it over can read to you\n"
        "   from their page Cases:\n\n       {fingerprint}\n\n"
        "       openssl pkey -pubin -in {signer} -outform DER | sha256sum\n",
        title=case.title, site=case.site, by=case.by, at=iso(case.at), sums=SUMS, signer=SIGNER, signature=SIGNATURE, fingerprint=fingerprint,
    )  # fmt: skip


def index_page(case: Handed) -> str:
    """The page that shows it all, in order."""
    zone = ZoneInfo(case.zone)
    said = f"<p>{_lines(case.note)}</p>" if case.note else ""
    pieces = "".join(_piece(number, piece, zone) for number, piece in enumerate(case.pieces, 1))
    acts = "".join(f"<dt>{_wall(at, zone)}</dt><dd>{escape(who)}: {escape(what)}</dd>" for at, who, what in case.acts)
    told = t(
        "handed over by {by} on {at}; times are those of {zone}", by=case.by, at=_wall(case.at, zone), zone=case.zone
    )
    return (
        f'<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">'
        f'<meta http-equiv="Content-Security-Policy" content="{POLICY}"><title>{escape(case.title)}</title><style>{STYLE}</style></head>'
        f'<body><h1>{escape(case.title)}</h1><p class="q">{escape(case.site)}, {escape(told)}</p>{said}{pieces}'
        f"<section><h2>{escape(t('What was done with it'))}</h2><dl>{acts}</dl></section>"
        f'<p class="q">{escape(t("How to verify that nothing was changed:"))} <a href="{HOW}">{HOW}</a></p></body></html>'
    )


def _piece(number: int, piece: Piece, zone: tzinfo) -> str:
    when = " – ".join(_wall(at, zone) for at in (piece.start, piece.end) if at is not None)
    place = " · ".join(filter(None, (escape(piece.place), when)))
    shown = ""
    if piece.file and piece.sort == "clip":
        shown = f'<video controls preload="metadata" src="{escape(piece.file)}"></video>'
    elif piece.file:
        shown = f'<img src="{escape(piece.file)}" alt="{escape(piece.title)}">'
    digest = f'<p class="q"><code>{escape(piece.file)} · SHA-256 {piece.sha256}</code></p>' if piece.file else ""
    words = f"<p>{_lines(piece.words)}</p>" if piece.words else ""
    added = t("added by {who} on {at}", who=piece.who, at=_wall(piece.added, zone))
    return (
        f'<section><h2>{number}. {escape(t(SORTS[piece.sort]))}: {escape(piece.title)}</h2><p class="q">{place}</p>{shown}{words}{digest}'
        f'<p class="q">{escape(added)}</p></section>'
    )


def _wall(at: Instant, zone: tzinfo) -> str:
    local: datetime = to_datetime(at).astimezone(zone)
    return f"{local:%Y-%m-%d %H:%M:%S}"


def _lines(text: str) -> str:
    return escape(text).replace("\n", "<br>")
