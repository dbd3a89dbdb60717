"""A recogniser over HTTP: a picture in, its faces out (`core.lists.faces` says in which form)."""

import httpx

from dromikon.core.lists.faces import NoAnswer, SeenFace, read_faces
from dromikon.core.words import t
from dromikon.wire.outgoing import NotAllowed, client

#: It is waited for so long, in seconds, and so much of an answer is read, in bytes.
PATIENCE, MOST = 15.0, 2_000_000


class RecogniserFailed(Exception):
    """No faces; the message says why and what to do."""


async def faces_of(address: str, token: str, picture: bytes) -> tuple[SeenFace, ...]:
    """The faces of a JPEG or PNG, the largest first. Raises RecogniserFailed."""
    headers = {"Authorization": f"Bearer {token}"} if token else {}
    kind = "image/png" if picture.startswith(b"\x89PNG") else "image/jpeg"
    try:
        async with client(timeout=PATIENCE, headers=headers) as http:
            url = f"{address.rstrip('/')}/faces"
            async with http.stream("POST", url, content=picture, headers={"Content-Type": kind}) as answer:
                content = await _content(answer)
    except httpx.TimeoutException as error:
        raise RecogniserFailed(
            t("The recogniser did not answer within {n} s. Try again, or with a smaller picture.", n=f"{PATIENCE:.0f}")
        ) from error
    except (httpx.HTTPError, NotAllowed, OSError) as error:
        why = str(error) or type(error).__name__
        raise RecogniserFailed(t("The recogniser cannot be reached: {why}", why=why)) from error
    try:
        return read_faces(content)
    except NoAnswer as error:
        raise RecogniserFailed(t("The recogniser's answer cannot be used: {why}", why=error)) from error


async def _content(answer: httpx.Response) -> bytes:
    """Raises RecogniserFailed, httpx.HTTPError."""
    if answer.status_code == 415:
        raise RecogniserFailed(t("The recogniser cannot read this picture. Use a JPEG or PNG."))
    if answer.status_code == 413:
        raise RecogniserFailed(t("The picture is too large for the recogniser. Make it smaller."))
    if answer.status_code in (401, 403):
        raise RecogniserFailed(t("The recogniser refuses our token. An integrator can set it anew."))
    if answer.status_code != 200:
        raise RecogniserFailed(t("The recogniser answered HTTP {code}.", code=answer.status_code))
    content = b""
    async for part in answer.aiter_bytes():
        content += part
        if len(content) > MOST:
            raise RecogniserFailed(t("The recogniser's answer is too large."))
    return content
