"""How whoever sends to an intake proves who they are. One more way is one file here and one line below."""

from dromikon.core.proofs.base import ACCEPTED, OUTCOMES, PROOFS, Asked, Proof, Refusal, Settings
from dromikon.core.proofs.basic import Basic
from dromikon.core.proofs.bearer import Address, Bearer
from dromikon.core.proofs.digest import Digest
from dromikon.core.proofs.fetched import Broker, Polled
from dromikon.core.proofs.signed import Signature, StandardWebhook
from dromikon.core.proofs.traps import Community, SnmpUser

for proof in (
    Bearer(),
    Address(),
    Basic(),
    Digest(),
    StandardWebhook(),
    Signature(),
    Community(),
    SnmpUser(),
    Broker(),
    Polled(),
):
    PROOFS.add(proof.name, proof)
#: Ways in which we go to the sender, and in which traps are sent, by name.
FETCHED = tuple(proof.name for proof in PROOFS if proof.way == "fetched")
BY_TRAP = tuple(proof.name for proof in PROOFS if proof.way == "trap")

__all__ = ["ACCEPTED", "BY_TRAP", "FETCHED", "OUTCOMES", "PROOFS", "Asked", "Proof", "Refusal", "Settings"]
