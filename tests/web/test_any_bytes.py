"""Whatever bytes come by whatever way: an adapter makes events of them or says why not, and never raises."""

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.mibs.names import STANDARD
from dromikon.engine.adapters import ADAPTERS
from dromikon.engine.adapters.base import NotClaimed, Sender
from dromikon.engine.directory import Directory
from dromikon.engine.draft import Draft
from dromikon.intake.inbox import Message, Stored

pytestmark = pytest.mark.timeless
TAUGHT = DecoderDocument.model_validate({
    "name": "Anything", "intake": {"id": "any"}, "kind": "sensor.reading", "phase": "reading", "when": [{"path": "$..value", "how": "there"}],
    "point_path": "$..name", "fields": [{"name": "value", "path": "$..value"}], "time_path": "$..at",
})  # fmt: skip
DIRECTORY = Directory(
    intakes={"any": ("s", "Any")}, by_site={"s": {"leak": "leak"}}, decoders={"any": (TAUGHT,)}, names={"s": STANDARD}
)
scalars = st.one_of(st.none(), st.booleans(), st.integers(), st.floats(), st.text(max_size=12))
values = st.recursive(
    scalars, lambda inner: st.one_of(st.lists(inner, max_size=4), st.dictionaries(st.sampled_from(["value", "name", "at", "kind", "payload", "values"]) | st.text(max_size=6), inner, max_size=5)), max_leaves=12
)  # fmt: skip
bodies = st.one_of(
    st.binary(max_size=120), values.map(lambda v: json.dumps(v).encode()), st.text(max_size=60).map(lambda s: s.encode("utf-8", "surrogatepass")),
    st.integers(1, 3_000).map(lambda n: b"[" * n), st.integers(1, 300).map(lambda n: b"<a>" * n),
)  # fmt: skip
METAS = {
    "http": ["{}", '{"content_type": "application/json"}', '{"content_type": "text/xml"}', '{"content_type": "application/x-www-form-urlencoded", "query": "a=b"}', '{"content_type": "text/plain"}'],
    "cloudevent": ["{}", '{"attributes": {"type": "a.input.active", "subject": "leak"}}'],
    "mqtt": ['{"topic": "a/b", "retained": true}', "{}"],
    "modbus": ["{}"],
    "snmp": ['{"from": "192.0.2.1"}'],
}  # fmt: skip


@pytest.mark.parametrize("adapter", METAS)
@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(body=bodies, place=st.integers(0, 9))
def test_no_bytes_raise_anything(adapter, body, place):
    meta = METAS[adapter][place % len(METAS[adapter])]
    stored = Stored(1, Message(1_795_000_000_000, adapter, "any", meta, body))
    found = ADAPTERS[adapter].read(stored, DIRECTORY, Sender("s", "Any"))
    for got in found if isinstance(found, list) else [found]:
        assert isinstance(got, Draft | NotClaimed)
        if isinstance(got, Draft):
            assert got.point == "leak"
            json.dumps(got.fields, allow_nan=False, ensure_ascii=False).encode()
