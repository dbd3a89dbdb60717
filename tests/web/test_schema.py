"""The API against its own description: whatever is sent, no answer is a fault of ours."""

import json
from urllib.parse import quote

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings

from dromikon.api.api import api
from dromikon.clock import now_ms
from dromikon.daybook.models import EventRow
from dromikon.intake import inbox
from dromikon.people.tokens import make_token
from dromikon.sources.models import Device, Unclaimed
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.slow, pytest.mark.timeless]
EXAMPLES = 8


@pytest.fixture
def call(client, as_):
    headers = {"Authorization": f"Bearer {make_token(as_('ines').person, 't')[1]}"}

    def answer(case):
        query = {"site": GARDENS, **(case.query or {})}
        path = quote(case.formatted_path, safe="/%")
        body = case.body if case.body is not schemathesis.core.NOT_SET else None
        content = json.dumps(body, default=str) if body is not None else ""
        address = (
            path
            + "?"
            + "&".join(f"{quote(str(k))}={quote(str(v).encode('utf-8', 'replace'))}" for k, v in query.items())
        )
        return client.generic(case.method, address, content, "application/json", headers=headers)

    return answer


def operations():
    schema = schemathesis.openapi.from_dict(api.get_openapi_schema())
    return {f"{r.ok().method.upper()} {r.ok().path}": r.ok() for r in schema.get_all_operations()}


OPERATIONS = operations()


@pytest.mark.parametrize("name", sorted(OPERATIONS))
def test_no_request_makes_the_api_fail(call, name):
    operation = OPERATIONS[name]
    modes = (schemathesis.GenerationMode.POSITIVE, schemathesis.GenerationMode.NEGATIVE)
    for mode in modes:

        @seed(17)
        @given(case=operation.as_strategy(generation_mode=mode))
        @settings(
            max_examples=EXAMPLES, deadline=None, database=None, suppress_health_check=list(HealthCheck),
            phases=(Phase.generate,),
        )  # fmt: skip
        def ask(case):
            answer = call(case)
            assert answer.status_code < 500, (
                case.method,
                case.formatted_path,
                case.query,
                case.body,
                answer.content[:300],
            )

        try:
            ask()
        except schemathesis.errors.InvalidSchema:
            raise
        except Exception as error:
            # What has nothing that could be wrong cannot be asked wrongly.
            if type(error).__name__ not in ("Unsatisfiable", "SkipTest"):
                raise


HOSTILE = (
    "²",
    "1e999",
    "-1",
    "9" * 400,
    "٣",
    "NaN",
    "%00",
    "\ud800".encode("utf-8", "surrogatepass").decode("latin-1"),
    "[::1",
    "1_0",
)


@pytest.mark.parametrize("value", HOSTILE)
def test_digits_that_are_none_and_other_oddities_are_refused_everywhere(client, as_, value):
    client.force_login(as_("ines").person)
    at, api = f"/s/{GARDENS}", "/api/v1"
    pages = (
        f"{at}/archive?at={value}&bookmark={value}",
        f"{api}/cameras/jetty/axis?site={GARDENS}&start={value}&end=5", f"{api}/marks?site={GARDENS}&start={value}&end={value}",
        f"{at}/picture/jetty?at={value}&width={value}", f"{at}/export/jetty?start={value}&end={value}", f"{api}/cameras/jetty/coverage?site={GARDENS}&start=0&end={value}",
        f"{at}/stretch?cameras=jetty&start={value}&end=1&rate={value}", f"{at}/rulebook/new?event={value}", f"{at}/daybook/event/{value}",
        f"{at}/daybook?at={value}", f"{at}/evidence/{value}", f"{at}/live?cameras=jetty&rate={value}", f"{at}/lists/{value}",
    )  # fmt: skip
    for page in pages:
        assert client.get(page).status_code < 500, page
    for path, content in (
        ("bookmarks", {"camera": "jetty", "start": value, "end": value, "title": value}),
        ("devices", {"name": value, "address": f"http://{value}/"}),
        ("rulebook/rules/jetty-closed/steps/9/trial", {}),
    ):
        answer = client.post(f"{api}/{path}?site={GARDENS}", json.dumps(content), "application/json")
        assert answer.status_code < 500, path
    for raw in (b'{"a": 1e999}', b'{"name": "\\ud800", "entries": []}', b"[" * 99_999, b"9" * 5_000, b"NaN"):
        for path in ("rules", "devices", "rules/preview", "lists"):
            answer = client.post(f"{api}/{path}?site={GARDENS}", raw, "application/json")
            assert answer.status_code < 500, (path, raw[:20])


def test_numbers_that_nobody_can_keep_cost_one_message_and_no_more(bench, monkeypatch):
    loads = []
    real = type(bench.engine).load
    monkeypatch.setattr(type(bench.engine), "load", lambda self: (loads.append(1), real(self)))
    for value in ("1" + "0" * 400, "1e999", "-1" + "0" * 400, '"\\ud800"', "NaN"):
        body = (
            f'{{"kind": "sensor.reading", "point": "jetty-line", "phase": "reading", "fields": {{"value": {value}}}}}'
        )
        bench.put(inbox.Message(now_ms(), "http", "garden-gateway", "{}", body.encode()))
    bench.put(inbox.Message(now_ms(), "carrier pigeon", "cam-gate", "{}", b"{}"))
    bench.cross()
    bench.run()
    assert not loads and EventRow.objects.count() == 1 and Unclaimed.objects.count() == 6
    assert Unclaimed.objects.filter(reason__contains="carrier pigeon").exists()
    assert Device.objects.get(id="cam-gate").state == "unknown"
