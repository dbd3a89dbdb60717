"""Adapter: what an intake was sent over HTTP, as JSON, a form, a query, XML or text."""

import json
from typing import Any, Literal

from dromikon.core import reading
from dromikon.core.decoders.decode import Reading, read_with_first
from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.decoding import NotDecoded, bodies
from dromikon.core.decoding import http as plain
from dromikon.engine.adapters.base import Ingested, NotClaimed, Sender, each, placed, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class HttpAdapter:
    sent_by: Literal["intake", "device"] = "intake"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> list[Ingested]:
        meta = json.loads(stored.message.meta)
        try:
            content, typed = bodies.read(meta.get("content_type", ""), meta.get("query", ""), stored.message.body)
        except reading.NotReadable as error:
            return [unclaimed(stored, sender, f"The message cannot be read: {error}.")]
        except ValueError:
            return [unclaimed(stored, sender, "The message is not JSON.")]

        taught, read = read_with_first(directory.decoders.get(stored.message.source, ()), content)
        if taught is not None:
            return _by(taught, read, stored, directory, sender)

        def one(said: Any) -> Ingested:
            try:
                decoded, at = plain.decode(said) if typed else plain.decode_text(said)
            except NotDecoded as error:
                return unclaimed(stored, sender, str(error))
            return placed(stored, sender, directory, decoded, at)

        return each(stored, sender, content, one)


def _by(
    decoder: DecoderDocument, read: Reading, stored: Stored, directory: Directory, sender: Sender
) -> list[Ingested]:
    """What a decoder has read. What of it has no point is kept as one message."""
    if read.outcome == "failed":
        return [unclaimed(stored, sender, f"{decoder.name}: {read.why}")]
    found = [placed(stored, sender, directory, made.decoded, made.at) for made in read.made]
    failed = [got.reason for got in found if isinstance(got, NotClaimed)]
    good: list[Ingested] = [got for got in found if not isinstance(got, NotClaimed)]
    return [*good, unclaimed(stored, sender, f"{decoder.name}: {'; '.join(failed[:5])}")] if failed else good
