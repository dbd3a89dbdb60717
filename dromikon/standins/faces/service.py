"""The recogniser as a service: a picture in; where faces are, their templates and how well they are seen out."""

import hmac
import io
import math

import numpy as np
from PIL import Image, UnidentifiedImageError
from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from dromikon.standins.faces.finding import WIDEST, Face, Field, find_faces
from dromikon.standins.faces.model import numbers_of, written

#: No picture is larger than this, in bytes, and no more faces are told of.
LARGEST, MOST = 10_000_000, 20


class Recogniser:
    """Answers to one bearer token."""

    def __init__(self, token: str) -> None:
        self.token = token

    def app(self) -> Starlette:
        return Starlette(routes=[Route("/faces", self._faces, methods=["POST"])])

    async def _faces(self, request: Request) -> Response:
        given = request.headers.get("authorization", "")
        if not hmac.compare_digest(given.encode(), f"Bearer {self.token}".encode()):
            return JSONResponse({"error": "a bearer token is needed"}, 401)
        body = await request.body()
        if len(body) > LARGEST:
            return JSONResponse({"error": "the picture is too large"}, 413)
        try:
            found = await run_in_threadpool(faces_of, body)
        except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
            return JSONResponse({"error": "send a picture: JPEG or PNG"}, 415)
        return JSONResponse({"faces": found})


def faces_of(content: bytes) -> list[dict[str, object]]:
    """What is told of a picture's faces, the largest first. Raises what Pillow raises where it is no picture."""
    with Image.open(io.BytesIO(content)) as opened:
        # A large JPEG is read at the size that is looked at.
        opened.draft("RGB", (WIDEST, WIDEST))
        image = opened.convert("RGB")
    image.thumbnail((WIDEST, WIDEST))
    picture = np.asarray(image)
    return [_told(picture, face) for face in find_faces(picture)[:MOST]]


def _told(picture: Field, face: Face) -> dict[str, object]:
    high, wide = picture.shape[:2]
    left, top, right, bottom = face.box
    box = [max(0.0, left / wide), max(0.0, top / high), min(1.0, right / wide), min(1.0, bottom / high)]
    part = (
        picture[max(0, round(top)) : round(bottom), max(0, round(left)) : round(right)].astype(np.float32).mean(axis=2)
    )
    return {
        "box": [round(side, 4) for side in box], "template": written(numbers_of(picture, face)),
        "eyes": round(face.eyes, 1), "sharp": round(_sharp(part), 2), "light": round(float(np.median(part)) / 255, 2),
        "turned": round(_turned(face), 1), "covered": face.covered,
    }  # fmt: skip


def _sharp(part: Field) -> float:
    """How steep the steepest edges are, 0 to 1: as a share of what lies between dark and light."""
    low, high = np.percentile(part, (5, 95))
    steps = np.maximum(np.abs(np.diff(part, axis=0))[:, :-1], np.abs(np.diff(part, axis=1))[:-1])
    return float(min(1.0, np.percentile(steps, 99.5) / max(float(high - low), 1.0)))


def _turned(face: Face) -> float:
    """By how many degrees the head is turned, going by how far the eyes lie beside the middle."""
    beside = abs((face.left[0] + face.right[0]) / 2 - face.middle) / (face.wide / 2)
    return math.degrees(math.asin(min(1.0, beside)))
