"""What the demo's rules send to: the stand-ins of mail, gateways, chat, a manager of SNMP, folders; and who is on duty."""

from pathlib import Path

from dromikon import config
from dromikon.core.rules.parts import Ref
from dromikon.demo.quillmere import GARDENS
from dromikon.people.access import Access, Everywhere
from dromikon.people.models import Person
from dromikon.setup import changes
from dromikon.setup.destinations import DestinationDocument, save_destination
from dromikon.setup.registry import SORTS
from dromikon.standins.run import manager_port, ports
from dromikon.standins.services.files import PASSWORD, USER, Files
from dromikon.standins.services.manager import COMMUNITY

#: Who is on duty in which Hours.
DUTY = {"opal": ("garden-hours", "garden hours")}
HOST = "127.0.0.1"


def set_up(here: dict[str, Access]) -> None:
    """Everything, by the same services as the pages of set-up."""
    where = ports(config.standins_port())
    control = f"http://{HOST}:{where['control']}"
    owner = Everywhere(Person.objects.get(username="ada"))
    changes.save(SORTS["reach"], owner, "reach", {"address": f"http://{config.host()}:{config.port()}"})
    mail = {"host": HOST, "port": where["mail"], "security": "none", "sender": "dromikon@quillmere.example"}
    changes.save(SORTS["mail"], owner, "mail", mail)
    gateways = {
        way: {"address": f"{control}/{path}"}
        for way, path in (("text", "texts"), ("push", "pushes"), ("call", "calls"), ("chat", "chats"))
    }
    changes.save(SORTS["gateways"], owner, "gateways", gateways)
    for id, content in _destinations(control, where["files"], manager_port(config.standins_port())).items():
        save_destination(here[GARDENS], None, DestinationDocument.model_validate(content), id)
    _on_duty(here[GARDENS])


def _destinations(control: str, files: int, manager: int) -> dict[str, dict[str, object]]:
    key = Files(Path(config.data()) / "standins" / "sftp").key().export_public_key().decode().strip()
    return {
        "ground-staff": {"name": "Ground staff", "sort": "chat", "address": f"{control}/chat"},
        "lodge-watch": {
            "name": "Network watch", "sort": "snmp", "host": HOST, "port": manager, "community": COMMUNITY,
        },
        "trust-archive": {
            "name": "Trust archive", "sort": "sftp", "host": HOST, "port": files, "user": USER, "password": PASSWORD,
            "host_key": key, "folder": "quillmere",
        },
        "lodge-clips": {"name": "Clips in the lodge", "sort": "folder", "folder": "lodge", "days": 90},
    }  # fmt: skip


def _on_duty(access: Access) -> None:
    sort = SORTS["people"]
    ada = Access(Person.objects.get(username="ada"), access.site, "administrator")
    for username, (id, name) in DUTY.items():
        row = sort.row(ada, str(Person.objects.get(username=username).pk))
        document = row.document.model_copy(update={"duty": Ref(id=id, name=name)})
        changes.save(sort, ada, row.id, document.model_dump(mode="json"), row.version)
