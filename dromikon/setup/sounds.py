"""Sounds of a site's own, for its alarms."""

import base64
import binascii
from typing import Annotated

from pydantic import Field

from dromikon.core.rules.controls import File, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_
from dromikon.desk.models import Sound
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.setup.naming import rules_that_name
from dromikon.setup.sort import Row, Saved, Sort, change, in_use, refuse

#: A sound has at most so many bytes: some seconds.
LONGEST = 400_000
#: How files of each sort begin, from the third or fourth byte on where the first say a length.
BEGINNINGS = ((b"RIFF", "audio/wav"), (b"OggS", "audio/ogg"), (b"ID3", "audio/mpeg"), (b"\xff\xfb", "audio/mpeg"))


class SoundDocument(Part):
    """A sound by its name."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]
    file: Annotated[
        str,
        Field(max_length=LONGEST * 4 // 3 + 100),
        File(N_("Sound"), hint=N_("WAV, Ogg or MP3 of a few seconds"), accept="audio/wav,audio/ogg,audio/mpeg"),
    ] = ""


def save_sound(access: Access, id: str | None, document: SoundDocument, new_id: str | None = None) -> Sound:
    """Add a sound, or change one; without a file the one that is kept stays. Raises Refused."""
    sound = in_use(Sound, access, id, "sound") if id else Sound(site=access.site, id=id_or_new(new_id))
    sound.name = document.name.strip()
    if document.file:
        sound.content, sound.media = _read(document.file)
    if not sound.content:
        raise refuse("file", "Choose a file.")
    with change(access, "changed sound" if id else "added sound", f"sound:{sound.id}", sound.name):
        sound.save(force_insert=not id)
    return sound


def _read(address: str) -> tuple[bytes, str]:
    """The content of a data address, and what it is by its own first bytes. Raises Refused."""
    try:
        content = base64.b64decode(address.partition(",")[2], validate=True)
    except (binascii.Error, ValueError) as error:
        raise refuse("file", "This is no file.") from error
    if len(content) > LONGEST:
        raise refuse("file", f"A sound has at most {LONGEST // 1000} kB; this one has {len(content) // 1000}.")
    media = next((media for first, media in BEGINNINGS if content.startswith(first)), None)
    if media is None:
        raise refuse("file", "This is neither WAV, Ogg nor MP3.")
    return content, media


def retire_sound(access: Access, id: str) -> None:
    """Take a sound away: alarms that name it sound as their rule says besides."""
    sound = in_use(Sound, access, id, "sound")
    with change(access, "retired sound", f"sound:{sound.id}", sound.name) as at:
        sound.retired_at = at
        sound.save(update_fields=["retired_at"])


class Sounds(Sort[SoundDocument]):
    name = "sounds"
    label = N_("Sounds")
    one = N_("Add a sound")
    about = N_("Alarms have sounds already. One of the site's own is for what must be known by its sound alone.")
    icon = "volume"
    columns = (N_("file"),)
    document = SoundDocument

    def rows(self, who: Access) -> list[Row]:
        known = Sound.objects.filter(site=who.site, retired_at=None).defer("content")
        return [Row(s.id, s.name, SoundDocument(name=s.name), (s.media.removeprefix("audio/"),)) for s in known]

    def save(self, who: Access, id: str | None, document: SoundDocument) -> Saved:
        return Saved(save_sound(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_sound(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return rules_that_name(who.site, id)
