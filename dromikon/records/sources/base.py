"""What a source of records is: rows that only ever become more, some of which still change for a while."""

from collections.abc import Iterable, Sequence
from functools import cached_property
from typing import Any, ClassVar

from django.db.models import Model, QuerySet

from dromikon.core.records.entry import Entry
from dromikon.rulebook.models import Rule
from dromikon.sites.models import Area
from dromikon.sources.models import Point


class Names:
    """What points, areas and rules are called, asked once for many records."""

    @cached_property
    def points(self) -> dict[str, tuple[str, str]]:
        """By id, the name and the area."""
        return {id: (name, area or "") for id, name, area in Point.objects.values_list("id", "name", "area_id")}

    @cached_property
    def areas(self) -> dict[str, str]:
        return dict(Area.objects.values_list("id", "name"))

    @cached_property
    def rules(self) -> dict[str, str]:
        return dict(Rule.objects.values_list("id", "name"))

    def of(self, point: str, rule: str = "") -> tuple[str, ...]:
        """The names by which what happened at a point, by a rule, is found."""
        name, area = self.points.get(point, ("", ""))
        return name, self.areas.get(area, ""), self.rules.get(rule, "")

    def area_of(self, point: str) -> str:
        return self.points.get(point, ("", ""))[1]


class Source:
    """`fresh`: the rows behind a place, as records; `again`: some of them once more, as they are now; `living`: which of some are
    still kept. `key`: the column that they become more by and are numbered by."""

    sort: ClassVar[str]
    model: ClassVar[type[Model]]
    key: ClassVar[str] = "id"

    def rows(self) -> QuerySet[Any]:
        """Those that become records."""
        return self.model._default_manager.all()

    def entries(self, rows: Sequence[Any], names: Names) -> Iterable[Entry]:
        raise NotImplementedError

    def end(self) -> int:
        """The place behind the last row."""
        last = self.model._default_manager.order_by(f"-{self.key}").values_list(self.key, flat=True).first()
        return int(last or 0)

    def fresh(self, after: int, upto: int, limit: int, names: Names) -> tuple[list[Entry], int]:
        """Records of at most `limit` rows behind `after`, and the place that was come to."""
        where = {f"{self.key}__gt": after, f"{self.key}__lte": upto}
        rows = list(self.rows().filter(**where).order_by(self.key)[:limit])
        come_to = int(getattr(rows[-1], self.key)) if len(rows) == limit else upto
        return list(self.entries(rows, names)), come_to

    def again(self, refs: Sequence[str], names: Names) -> list[Entry]:
        return list(self.entries(list(self.rows().filter(**{f"{self.key}__in": refs})), names))

    def living(self, refs: Sequence[str]) -> set[str]:
        found = self.model._default_manager.filter(**{f"{self.key}__in": refs}).values_list(self.key, flat=True)
        return {str(number) for number in found}
