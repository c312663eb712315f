"""How the service fares, in figures for those who watch it (Prometheus text format)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram, generate_latest

from fleetquill.serve.service.order import Made, Order, Outcome

MEDIA_TYPE: Final = "text/plain; version=0.0.4; charset=utf-8"
SECONDS: Final = (0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0, 30.0, 60.0, 300.0)


class Figures:
    """Counts what is made, of which documents, how long it takes, and what becomes of the workers."""

    def __init__(self, pending: Callable[[], int], workers: int) -> None:
        own = self._registry = CollectorRegistry()
        of = ("document", "kind")
        self._documents = Counter("documents", "Documents that were asked for.", (*of, "status"), registry=own)
        self._seconds = Histogram("document_seconds", "Time to make one.", of, registry=own, buckets=SECONDS)
        self._pages = Counter("document_pages", "Pages that were made.", of, registry=own)
        self._bytes = Counter("document_bytes", "Bytes that were made.", of, registry=own)
        self._refused = Counter("requests_refused", "Requests that were not taken.", ("status",), registry=own)
        self._replaced = Counter("workers_replaced", "Workers that were replaced.", ("why",), registry=own)
        Gauge("documents_pending", "Documents being made or waiting.", registry=own).set_function(pending)
        Gauge("workers", "Workers; 0 where the service itself makes documents.", registry=own).set(workers)

    def ended(self, order: Order, outcome: Outcome) -> None:
        self._documents.labels(order.subject, order.kind, outcome.status).inc()
        if isinstance(outcome, Made):
            self._seconds.labels(order.subject, order.kind).observe(outcome.seconds)
            self._pages.labels(order.subject, order.kind).inc(outcome.pages)
            self._bytes.labels(order.subject, order.kind).inc(outcome.length)

    def refused(self, status: int) -> None:
        self._refused.labels(status).inc()

    def replaced(self, why: str) -> None:
        self._replaced.labels(why).inc()

    def told(self) -> bytes:
        return generate_latest(self._registry)
