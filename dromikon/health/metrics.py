"""The measures in the exposition format of Prometheus."""

from collections.abc import Iterator

from prometheus_client import CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric

from dromikon import __version__
from dromikon.database.waits import WAITS
from dromikon.health.measures import Health


def exposition(health: Health) -> bytes:
    """All measures as text, version 0.0.4."""
    registry = CollectorRegistry(auto_describe=False)
    registry.register(_Collector(health))
    return generate_latest(registry)


class _Collector:
    def __init__(self, health: Health) -> None:
        self.health = health

    def collect(self) -> Iterator[Metric]:
        h = self.health
        yield _labelled("dromikon_info", "The release.", "release", {__version__: 1})
        yield GaugeMetricFamily("dromikon_engine_up", "1 while the engine runs.", value=int(h.engine_runs))
        yield GaugeMetricFamily(
            "dromikon_key_fits", "1 while the key file is the data folder's.", value=int(h.key_fits)
        )
        yield GaugeMetricFamily(
            "dromikon_decision_delay_seconds", "From receipt to decision of the last message.", value=h.delay / 1000
        )
        yield _labelled("dromikon_queue_length", "What waits.", "queue", {q.name: q.length for q in h.queues})
        ages = {q.name: q.age / 1000 for q in h.queues}
        yield _labelled("dromikon_queue_age_seconds", "How long the oldest has waited.", "queue", ages)
        yield _labelled("dromikon_size_bytes", "Size on the disk.", "of", h.sizes)
        yield GaugeMetricFamily("dromikon_disk_free_bytes", "Room on the disk of the data folder.", value=h.disk_free)
        yield _labelled("dromikon_memory_bytes", "Resident memory of each part.", "part", h.memory)
        yield GaugeMetricFamily(
            "dromikon_writer_wait_seconds_total", "Waiting for the writer, this part.", value=WAITS.total
        )
        yield GaugeMetricFamily("dromikon_writer_waits_total", "Transactions of this part.", value=WAITS.count)
        devices = {state: sum(d.state == state for d in h.devices) for state in ("online", "lost", "unknown")}
        yield _labelled("dromikon_devices", "Devices by the state of their session.", "state", devices)
        offsets = {d.id: d.clock_offset_ms / 1000 for d in h.devices}
        yield _labelled("dromikon_device_clock_offset_seconds", "Device's clock against ours.", "device", offsets)
        done = {name: (d.good_at or 0) / 1000 for name, d in h.jobs.items()}
        yield _labelled("dromikon_job_last_success_timestamp_seconds", "When a job last ended well.", "job", done)
        failed: dict[str, float] = {}
        for f in h.failed:
            failed[f.status] = failed.get(f.status, 0) + f.count
        yield _labelled("dromikon_deliveries_not_arrived", "In the last day, by how they ended.", "status", failed)


def _labelled(name: str, about: str, label: str, values: "dict[str, int] | dict[str, float]") -> GaugeMetricFamily:
    family = GaugeMetricFamily(name, about, labels=[label])
    for key, value in values.items():
        family.add_metric([key], float(value))
    return family
