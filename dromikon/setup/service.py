"""Services outside that are called by their address, with a token: recorders, recognisers."""

from dromikon import secrets
from dromikon.core import reading
from dromikon.people.access import Access
from dromikon.setup.sort import change, refuse
from dromikon.sites.models import Service
from dromikon.wire.outgoing import NotAllowed, check_address


def save_service(
    access: Access, service: Service, what: str, name: str, address: str, token: str, example: str, new: bool
) -> None:
    """Add a service, or change one; the token that it was given stays when there is none. `what`: as the audit trail calls it;
    `example`: such an address. Raises Refused."""
    try:
        reading.address(address)
        check_address(address)
    except reading.NotReadable as error:
        raise refuse("address", f"An address such as {example}, without a user in it.") from error
    except NotAllowed as error:
        raise refuse("address", str(error)) from error
    service.name, service.address = name.strip(), address.strip()
    if token:
        service.token_sealed = secrets.seal(token)
    with change(access, f"{'added' if new else 'changed'} {what}", f"{what}:{service.pk}", service.name):
        service.save(force_insert=new)
