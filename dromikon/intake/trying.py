"""Lines for a shell with which an intake can be tried, made with curl and openssl."""

import json
from urllib.parse import urlsplit

from dromikon.sources.models import Intake

TYPE = "-H 'Content-Type: application/json'"


def lines_to_try(intake: Intake, address: str, point: str) -> str:
    """A message that an input is on, sent as the intake wants it. SECRET stands for the secret, which is not kept as text."""
    body = json.dumps({"kind": "input.active", "point": point, "phase": "begin"})
    return _LINES[intake.proof](intake, address, body)


def _bearer(intake: Intake, address: str, body: str) -> str:
    return f"SECRET='…'\ncurl -H \"Authorization: Bearer $SECRET\" {TYPE} \\\n  -d '{body}' {address}"


def _address(intake: Intake, address: str, body: str) -> str:
    return f"SECRET='…'\ncurl {TYPE} -d '{body}' {address}/$SECRET"


def _basic(intake: Intake, address: str, body: str) -> str:
    return f"SECRET='…'\ncurl -u \"{intake.user}:$SECRET\" {TYPE} \\\n  -d '{body}' {address}"


def _digest(intake: Intake, address: str, body: str) -> str:
    return f"SECRET='…'\ncurl --digest -u \"{intake.user}:$SECRET\" {TYPE} \\\n  -d '{body}' {address}"


def _standard(intake: Intake, address: str, body: str) -> str:
    return (
        f"SECRET='whsec_…'\nBODY='{body}'\nID=msg_$(date +%s%N)\nAT=$(date +%s)\n"
        "KEY=$(printf %s \"${SECRET#whsec_}\" | openssl base64 -d -A | od -An -tx1 | tr -d ' \\n')\n"
        'SUM=$(printf %s "$ID.$AT.$BODY" | openssl dgst -sha256 -mac HMAC -macopt "hexkey:$KEY" -binary | openssl base64 -A)\n'
        f'curl -H "webhook-id: $ID" -H "webhook-timestamp: $AT" -H "webhook-signature: v1,$SUM" \\\n  {TYPE} -d "$BODY" {address}'
    )


def _signature(intake: Intake, address: str, body: str) -> str:
    made = 'openssl dgst -sha256 -hmac "$SECRET"'
    written = f"{made} -hex | sed 's/.* //'" if intake.encoding == "hex" else f"{made} -binary | openssl base64 -A"
    return (
        f"SECRET='…'\nBODY='{body}'\nSUM=$(printf %s \"$BODY\" | {written})\n"
        f'curl -H "{intake.header}: {intake.prefix}$SUM" {TYPE} \\\n  -d "$BODY" {address}'
    )


def _community(intake: Intake, address: str, body: str) -> str:
    where = address.split(" ")[0]
    return (
        "COMMUNITY='…'\n# The link with the number 7 is down (linkDown, RFC 2863)\n"
        f"snmptrap -v2c -c \"$COMMUNITY\" {where} '' 1.3.6.1.6.3.1.1.5.3 \\\n  1.3.6.1.2.1.2.2.1.1.7 i 7"
    )


def _usm(intake: Intake, address: str, body: str) -> str:
    where, sums = (
        address.split(" ")[0],
        intake.hashing.upper().replace("SHA", "SHA-") if intake.hashing != "sha1" else "SHA",
    )
    private = "" if intake.cipher == "none" else ' -x AES -X "$PRIVATE"'
    level = "authNoPriv" if intake.cipher == "none" else "authPriv"
    return (
        "SECRET='…'; PRIVATE='…'\n# The link with the number 7 is down (linkDown, RFC 2863)\n"
        f'snmptrap -v3 -e 0x8000000001020304 -l {level} -u {intake.user} \\\n  -a {sums} -A "$SECRET"{private} \\\n'
        f"  {where} '' 1.3.6.1.6.3.1.1.5.3 1.3.6.1.2.1.2.2.1.1.7 i 7"
    )


def _mqtt(intake: Intake, address: str, body: str) -> str:
    parts = urlsplit(address)
    topic = next(iter(intake.fetched.get("topics", [])), "a/topic").replace("#", "try").replace("+", "try")
    who = f' -u {intake.user} -P "$SECRET"' if intake.user else ""
    tls = " --tls-use-os-certs" if parts.scheme == "mqtts" else ""
    port = f" -p {parts.port}" if parts.port else ""
    return f"mosquitto_pub -h {parts.hostname}{port}{tls}{who} -q 1 \\\n  -t {topic} -m '{body}'"


def _modbus(intake: Intake, address: str, body: str) -> str:
    return ""


_LINES = {
    "bearer": _bearer, "address": _address, "basic": _basic, "digest": _digest, "standard": _standard,
    "signature": _signature, "community": _community, "usm": _usm, "mqtt": _mqtt, "modbus": _modbus,
}  # fmt: skip
