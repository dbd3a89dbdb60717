"""Decoders: what foreign messages mean."""

from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.kinds import KINDS
from dromikon.core.proofs import PROOFS
from dromikon.core.words import N_, t
from dromikon.ids import id_or_new
from dromikon.intake.teaching import source_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.sort import Row, Saved, Sort, change, in_use, refuse
from dromikon.sources.models import Decoder, Device, Intake, Point


def save_decoder(access: Access, id: str | None, document: DecoderDocument, new_id: str | None = None) -> Decoder:
    """Add a decoder, or change one; it reads from the next message on. Raises Refused."""
    source = source_of(access.site, document)
    if source is None:
        missing = "device" if document.device else "intake"
        raise refuse(missing, f"There is no such {missing} here.")
    if isinstance(source, Intake) and not PROOFS[source.proof].taught:
        raise refuse("intake", "What this intake reads is said where it is set up; there is nothing to decode.")
    named = {p.point.id for p in document.points} | ({document.point.id} if document.point else set())
    there = set(Point.objects.filter(site=access.site, id__in=named, retired_at=None).values_list("id", flat=True))
    if lacking := named - there:
        raise refuse("point", f"There is no point {min(lacking)} here.")
    decoder = in_use(Decoder, access, id, "decoder") if id else Decoder(site=access.site, id=id_or_new(new_id))
    decoder.intake = source if isinstance(source, Intake) else None
    decoder.device = source if isinstance(source, Device) else None
    decoder.name = document.name.strip()
    decoder.document = document.model_dump(mode="json")
    with change(access, "changed decoder" if id else "added decoder", f"decoder:{decoder.id}", decoder.name):
        decoder.save(force_insert=not id)
    return decoder


def retire_decoder(access: Access, id: str) -> None:
    """Take a decoder away: what it read is unclaimed from now on."""
    decoder = in_use(Decoder, access, id, "decoder")
    with change(access, "retired decoder", f"decoder:{decoder.id}", decoder.name) as at:
        decoder.retired_at = at
        decoder.save(update_fields=["retired_at"])


class Decoders(Sort[DecoderDocument]):
    name = "decoders"
    label = N_("Decoders")
    one = N_("Add a decoder")
    about = N_(
        "A decoder says what messages of an intake or a device mean. It is taught most easily on its page, by clicking."
    )
    icon = "adjustments"
    columns = (N_("reads"), N_("kind"), N_("state"))
    document = DecoderDocument
    may = May.EDIT_SOURCES

    def rows(self, who: Access) -> list[Row]:
        known = Decoder.objects.filter(site=who.site, retired_at=None).select_related("intake", "device")
        return [_row(d) for d in known]

    def save(self, who: Access, id: str | None, document: DecoderDocument) -> Saved:
        return Saved(save_decoder(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_decoder(who, id)


def _row(decoder: Decoder) -> Row:
    document = DecoderDocument.model_validate(decoder.document)
    state = N_("reads messages") if document.enabled else N_("switched off")
    source = decoder.intake or decoder.device
    return Row(
        decoder.id, decoder.name, document, (source.name if source else "", t(KINDS[document.kind].called), t(state))
    )
