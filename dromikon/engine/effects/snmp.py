"""Effect: a trap or an inform to a manager, as DROMIKON-MIB describes it."""

from typing import cast

from asgiref.sync import sync_to_async

from dromikon import config
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.snmp import SnmpOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.core.snmp import own, telling
from dromikon.core.snmp.usm import Cipher_, Hashing, User
from dromikon.daybook.models import EventRow, RunRow, Step
from dromikon.daybook.trial import TEST
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.engine.effects.destination import GONE, Known, known
from dromikon.intake import inbox
from dromikon.intake.trap_senders import OurEngine
from dromikon.secrets import SealBroken
from dromikon.wire.outgoing import NotAllowed
from dromikon.wire.snmp import PORT, Manager, NoConfirmation, Refused, Teller


class SnmpEffect(OutsideEffect):
    """One lane a manager."""

    patient = True

    def __init__(self) -> None:
        self._teller: Teller | None = None

    def lane(self, order: StepOrder, now: Instant) -> str:
        return order.target

    def width(self, lane: str) -> int:
        return config.calls_at_once()

    async def deliver(self, step: Step) -> Sent:
        try:
            found = await known(step.site, step.target, "snmp")
        except SealBroken as error:
            return Sent("retry", f"{error} The manager's secret is needed.", ours=True)
        if found is None:
            return Sent("failed", GONE)
        manager, order = manager_of(found), cast(SnmpOrder, step.payload)
        carried = await sync_to_async(_carried)(step) if order["carry"] else []
        if self._teller is None:
            engine = OurEngine(part=" that tells")
            self._teller = Teller(lambda: engine.now)
        test = step.run.startswith(TEST)
        try:
            await self._teller.tell(manager, own.TEST if test else own.HAPPENED, [*_objects(order), *carried])
        except NotAllowed as error:
            return Sent("failed", str(error))
        except Refused as error:
            return Sent("failed", str(error))
        except NoConfirmation as error:
            return Sent("retry", str(error))
        return Sent("done", f"{manager.host} confirmed." if manager.inform else "Sent; nobody confirms a trap.")


def manager_of(found: Known) -> Manager:
    """Whom to tell, by what is set up."""
    settings, secrets = found.settings, found.secrets
    host, port = str(settings["host"]), int(settings.get("port") or PORT)
    inform = bool(settings.get("inform", True))
    if settings.get("version", "v2c") == "v2c":
        return Manager(host, port, inform, secrets.get("community", ""))
    private = secrets.get("privacy", "")
    cipher: Cipher_ = "aes128" if private else "none"
    hashing = cast(Hashing, settings.get("hashing", "sha256"))
    return Manager(
        host, port, inform, user=User(settings["user"], secrets.get("password", ""), private, hashing, cipher)
    )


def _objects(order: SnmpOrder) -> list[bytes]:
    told = []
    for name in own.OBJECTS:
        if name == "severity":
            told.append(telling.number(own.object_id(name), own.SEVERITIES.index(order["severity"]) + 1))
        else:
            told.append(telling.text(own.object_id(name), own.cut(str(cast(dict[str, str], order)[name]))))
    return told


def _carried(step: Step) -> list[bytes]:
    """The variables of the trap that set the run off, while it is kept; none where something else did."""
    event = RunRow.objects.filter(ref=step.run).values_list("event", flat=True).first()
    row = EventRow.objects.filter(seq=event).values_list("inbox", flat=True).first() if event is not None else None
    message = inbox.read(config.inbox_path(), row) if row else None
    return telling.variables_of(message.body) if message is not None and message.adapter == "snmp" else []
