"""Pages ask the database as many questions however much there is."""

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from dromikon.clock import now_ms
from dromikon.daybook.models import EventRow
from dromikon.rulebook.models import Revision, Rule
from dromikon.sites.models import Area
from dromikon.sources.models import Device, Point, Sightline
from tests.conftest import GARDENS

pytestmark = pytest.mark.timeless

PAGES = (
    "rulebook", "rulebook/rows", "rulebook/checks", "sources", "sources/plan", "setup/points", "setup/areas", "setup/people", "hours", "lists",
    "desk", "daybook", "deliveries", "archive",
)  # fmt: skip


def grow(site):
    """Three times as much of everything."""
    document = Revision.objects.filter(rule_id="jetty-geese").first().document
    for i in range(60):
        rule = Rule.objects.create(id=f"more-{i}", site=site, name=f"More {i}", enabled=True, changed_at=now_ms())
        Revision.objects.create(rule=rule, number=1, document={**document, "name": f"More {i}"}, at=now_ms())
    for i in range(12):
        area = Area.objects.create(site=site, name=f"Area {i}")
        device = Device.objects.create(site=site, area=area, name=f"Camera {i}", address="http://192.0.2.1/")
        camera = Point.objects.create(
            id=f"cam{i}", site=site, area=area, device=device, kind="camera", name=f"C {i}", token="v"
        )
        door = Point.objects.create(id=f"door{i}", site=site, area=area, kind="door", name=f"D {i}", token=f"door{i}")
        Sightline.objects.create(point=door, camera=camera)
        EventRow.objects.create(
            seq=100_000 + i, site=GARDENS, kind="door.open", point=door.id, phase="begin", at=now_ms(), occurred_at=now_ms(),
            received_at=now_ms(),
        )  # fmt: skip


@pytest.mark.parametrize("page", PAGES)
def test_a_page_asks_as_often_however_much_there_is(client, bench, as_, page):
    client.force_login(as_("ada").person)
    address = f"/s/{GARDENS}/{page}"

    def asked() -> list[str]:
        assert client.get(address).status_code == 200
        with CaptureQueriesContext(
            connection,
        ) as queries:
            client.get(address)
        return [q["sql"] for q in queries]

    before = asked()
    grow(as_("ada").site)
    after = asked()
    assert len(after) <= len(before) + 3, [sql[:150] for sql in after if sql not in before][:12]
