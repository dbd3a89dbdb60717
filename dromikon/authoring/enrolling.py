"""Faces by a picture: what a recogniser sees in it, whom that resembles, and putting somebody on a list by it."""

import hashlib
import io
from collections.abc import Sequence
from datetime import date
from typing import NamedTuple

from asgiref.sync import async_to_sync
from django.db import transaction
from PIL import Image, ImageOps, UnidentifiedImageError
from pydantic import BaseModel, ConfigDict, Field

from dromikon.archive.models import Snapshot
from dromikon.archive.stills import forget_stills, keep_still
from dromikon.authoring.sightings import value_of
from dromikon.clock import now_ms
from dromikon.core.boxes import Box, cut_out
from dromikon.core.hours import wall_clock
from dromikon.core.lists.changes import key_of, with_another_face
from dromikon.core.lists.faces import LARGEST_PICTURE, SeenFace, Shortcoming, shortcomings
from dromikon.core.lists.watchlist import Entry
from dromikon.core.rules.document import Problem
from dromikon.core.words import t
from dromikon.lists.entries import entries_of
from dromikon.lists.models import Picture, Recogniser, WatchList
from dromikon.lists.services import change_entries
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.wire.recogniser import RecogniserFailed, faces_of

#: How many similar entries are told of, and from how similar on, in percent.
MOST_ALIKE, ALIKE = 3, 50.0
#: Sides in pixels, at most: of what is kept, and of what a recogniser looks at. No picture has more pixels in all.
KEPT, LOOKED_AT, MOST_PIXELS = 480, 2400, 60_000_000


class Alike(NamedTuple):
    """An entry that a face resembles: its list, by how much in percent, and whether that is enough for that list."""

    list: str
    name: str
    value: str
    shown: str
    similar: float
    same: bool


class Found(NamedTuple):
    """A face of a picture, what could be better about it, and whom it resembles."""

    face: SeenFace
    better: list[Shortcoming]
    alike: list[Alike]


class EnrolDocument(BaseModel):
    """Whom a face of a picture belongs to: `face` counts the faces from the largest, 0 the first. `to`: the entry that gets one
    more picture; without it a new one is made, by another name than anybody it resembles unless `another` says that it is
    somebody else. `agreed`: they agreed to be known by their face."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    face: int = Field(default=0, ge=0)
    to: str = Field(default="", max_length=200)
    value: str = Field(default="", max_length=200)
    label: str = Field(default="", max_length=200)
    note: str = Field(default="", max_length=500)
    valid_from: date | None = None
    valid_until: date | None = None
    agreed: bool = False
    another: bool = False


def faces_in(access: Access, picture: bytes) -> list[Found]:
    """What the site's recogniser sees in a picture. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_LISTS)
    faces = _recognised(access, upright(picture))
    known = list(WatchList.objects.filter(site=access.site, sort=WatchList.Sort.PEOPLE))
    return [Found(face, shortcomings(face), alike(face.template, known)) for face in faces]


def alike(template: str, lists: Sequence[WatchList]) -> list[Alike]:
    """The entries that a face resembles most, whether they are valid today or not."""
    found = [
        Alike(known.id, known.name, entry.value, entry.shown, round(similar, 1), similar >= known.likeness)
        for known in lists
        for entry, similar in value_of(known).alike(template, ALIKE)
    ]
    return sorted(found, key=lambda a: -a.similar)[:MOST_ALIKE]


def enrol(access: Access, known: WatchList, picture: bytes, content: EnrolDocument) -> Entry:
    """Put a face of a picture on a list, with that part of the picture. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_LISTS)
    if known.sort != WatchList.Sort.PEOPLE:
        raise _refused("list", t("A face is put on a list of people."))
    picture = upright(picture)
    faces = _recognised(access, picture)
    if content.face >= len(faces):
        raise _refused("face", t("There is no such face in the picture."))
    face = faces[content.face]
    still, today = part_of(picture, face), wall_clock(now_ms(), access.site.zone).date()
    with transaction.atomic():
        # Read with the change: two who save at once must not undo each other.
        known = WatchList.objects.get(pk=known.pk)
        entry = _added_to(known, content, face, today) if content.to else _new(known, content, face, today)
        change_entries(access, known, [(content.to, entry.model_dump(mode="json", exclude_defaults=True))], [])
        _keep(access, known, entry.value, still)
        told = {"name": known.name, "faces": len(entry.faces)}
        record(access.site, access.person, "put a face on list", f"list:{known.id}", now_ms(), **told)
    return entry


def _added_to(known: WatchList, content: EnrolDocument, face: SeenFace, today: date) -> Entry:
    before = next((e for e in entries_of(known.content_id) if key_of(e.value) == key_of(content.to)), None)
    if before is None:
        raise _refused("to", t("{value} is not on this list any more.", value=content.to))
    entry = with_another_face(before, face.template, today)
    return entry.model_copy(update={"agreed": before.agreed or (today if content.agreed else None)})


def _new(known: WatchList, content: EnrolDocument, face: SeenFace, today: date) -> Entry:
    if not content.value.strip():
        raise _refused("value", t("Say who it is."))
    double = next((a for a in alike(face.template, [known]) if a.same), None)
    if double is not None and not content.another:
        raise _refused(
            "another",
            t(
                "{percent} % like {name}, who is on this list: add the picture to them, or say that it is somebody else.",
                percent=double.similar, name=double.shown,
            ),
        )  # fmt: skip
    return Entry(
        value=content.value.strip(), label=content.label.strip(), note=content.note.strip(), template=face.template,
        valid_from=content.valid_from, valid_until=content.valid_until, pictured=today,
        agreed=today if content.agreed else None,
    )  # fmt: skip


def _recognised(access: Access, picture: bytes) -> tuple[SeenFace, ...]:
    """Raises Refused."""
    recogniser = Recogniser.objects.filter(site=access.site, retired_at=None).order_by("name").first()
    if recogniser is None:
        raise _refused(
            "recogniser", t("No recogniser is set up here. An integrator adds one in the set-up of this site.")
        )
    try:
        faces = async_to_sync(faces_of)(recogniser.address, recogniser.token, picture)
    except RecogniserFailed as error:
        raise _refused("recogniser", str(error)) from error
    if not faces:
        raise _refused(
            "picture", t("No face is seen in this picture. Use one that shows it from the front, in colour.")
        )
    return faces


def upright(picture: bytes) -> bytes:
    """A picture as it is looked at, as JPEG: turned as its camera was held, no larger than it is of use, and without what else the file
    says, such as the place where it was taken. Raises Refused."""
    with _opened(picture) as image:
        try:
            shown = ImageOps.exif_transpose(image).convert("RGB")
        except (OSError, ValueError) as error:
            raise _refused("picture", t("The picture is damaged.")) from error
    shown.thumbnail((LOOKED_AT, LOOKED_AT))
    return _as_jpeg(shown, 92)


def _opened(picture: bytes) -> Image.Image:
    """Raises Refused."""
    if len(picture) > LARGEST_PICTURE:
        raise _refused("picture", t("The picture is larger than {n} MB.", n=LARGEST_PICTURE // 1_000_000))
    try:
        image = Image.open(io.BytesIO(picture), formats=("JPEG", "PNG"))
        many = image.width * image.height > MOST_PIXELS
    except Image.DecompressionBombError:
        many = True
    except (UnidentifiedImageError, OSError, ValueError) as error:
        raise _refused("picture", t("Give a picture as JPEG or PNG.")) from error
    if many:
        raise _refused("picture", t("The picture has more than {n} million pixels.", n=MOST_PIXELS // 1_000_000))
    return image


def part_of(picture: bytes, face: SeenFace) -> bytes:
    """The part of an upright picture with the face and a little around it, as JPEG."""
    with _opened(picture) as image:
        part = image.crop(cut_out(Box(*face.box), image.width, image.height))
    part.thumbnail((KEPT, KEPT))
    return _as_jpeg(part, 88)


def _as_jpeg(image: Image.Image, quality: int) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality)
    return out.getvalue()


def _keep(access: Access, known: WatchList, value: str, still: bytes) -> None:
    """Keep what an entry looks like. Raises OSError when the disk cannot take it."""
    digest, at = hashlib.sha256(still).hexdigest(), now_ms()
    name, run = (
        f"{digest[:2]}/{digest}.jpg",
        f"face-{known.pk}-{hashlib.sha256(value.encode() + still).hexdigest()[:16]}",
    )
    keep_still("snapshots", name, still)
    _forget_earlier(known, value)
    Picture.objects.update_or_create(list=known, value=value, defaults={"camera": "", "at": at, "run": run})
    Snapshot.objects.update_or_create(
        run=run, camera="", at=at,
        defaults={"site": access.site, "title": value, "file": name, "sha256": digest},
    )  # fmt: skip


def _forget_earlier(known: WatchList, value: str) -> None:
    """The still that showed an entry until now shows nothing any more: an erasure would not find it."""
    earlier = known.pictures.filter(value=value).values_list("run", flat=True)
    gone = Snapshot.objects.filter(run__in=list(earlier))
    files = list(gone.values_list("file", flat=True))
    gone.delete()
    transaction.on_commit(lambda: forget_stills("snapshots", files))


def _refused(path: str, message: str) -> Refused:
    return Refused([Problem(path=path, message=message)])
