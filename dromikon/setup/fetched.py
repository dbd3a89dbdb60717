"""What intakes fetch, and from where: topics of a broker, registers of a device."""

from typing import TYPE_CHECKING

from dromikon.core import reading
from dromikon.core.decoding.mqtt import bad_filter
from dromikon.core.proofs import FETCHED
from dromikon.setup.sort import refuse
from dromikon.sources.models import Intake, Point
from dromikon.wire.outgoing import NotAllowed, check_address

if TYPE_CHECKING:
    from dromikon.setup.intakes import IntakeDocument

#: Schemes of their addresses.
SCHEMES = {"mqtt": ("mqtt", "mqtts"), "modbus": ("modbus", "tcp")}


def fill_fetched(intake: Intake, document: "IntakeDocument") -> None:
    """What is fetched, and from where. Raises Refused."""
    intake.address, intake.fetched = "", {}
    if document.proof not in FETCHED:
        return
    intake.address = _address(document)
    if document.proof == "mqtt":
        bad = next((topic for topic in document.topics if bad_filter(topic)), None)
        if bad is not None:
            raise refuse("topics", f"{bad} is no topic filter: + and # stand for whole levels, # for the last.")
        if not document.topics:
            raise refuse("topics", "Name one topic at least, such as garden/#.")
        intake.fetched = {"topics": list(document.topics)}
        return
    named = {register.point.id for register in document.registers}
    there = set(Point.objects.filter(site=intake.site, id__in=named, retired_at=None).values_list("id", flat=True))
    if lacking := named - there:
        raise refuse("registers", f"There is no point {min(lacking)} here.")
    if not document.registers:
        raise refuse("registers", "Say what is read: one register or input at least.")
    registers = [register.model_dump(mode="json") for register in document.registers]
    intake.fetched = {"unit": document.unit, "every": document.every, "registers": registers}


def _address(document: "IntakeDocument") -> str:
    """Raises Refused, also for what could not be called anyhow."""
    try:
        parts = reading.address(document.address.strip(), SCHEMES[document.proof])
    except reading.NotReadable as error:
        schemes = " or ".join(f"{scheme}://" for scheme in SCHEMES[document.proof])
        raise refuse("address", f"An address begins with {schemes}, and names a host.") from error
    try:
        check_address(parts.geturl())
    except NotAllowed as error:
        raise refuse("address", str(error)) from error
    return str(parts.geturl())
