"""What /metrics tells."""

from __future__ import annotations

from collections.abc import Mapping

from prometheus_client import Counter, Gauge, Histogram

from harquel.core.domain.inquiry import Inquiry
from harquel.core.llm.shared import SharedModel

INQUIRIES = Counter("harquel_inquiries", "Inquiries that ended", ["source", "outcome", "trust"])
ATTEMPTS = Histogram("harquel_attempts", "Drafts per inquiry", ["source"], buckets=(1, 2, 3, 4))
SECONDS = Histogram(
    "harquel_seconds", "Time per inquiry and phase", ["phase"],
    buckets=(0.005, 0.01, 0.02, 0.04, 0.08, 0.15, 0.3, 0.6, 1.2, 2.5, 5, 10, 20, 40, 80),
)  # fmt: skip
TOKENS = Counter("harquel_model_tokens", "Tokens that models counted", ["source", "kind"])
CONDUCTORS_LOST = Counter("harquel_conductors_lost", "Conductors that ended in the middle of a job", ["why"])
ENTRIES = Counter("harquel_entries", "Entries of the ledger: all that has happened", ["kind"])
MODEL_CALLS = Gauge("harquel_model_calls", "Calls of a language model since the start", ["model"])
MODEL_FAILURES = Gauge("harquel_model_failures", "Those of them that gave no reply", ["model"])
MODEL_RESTING = Gauge("harquel_model_resting", "1 while a language model is left alone for its failures", ["model"])
REPLIES = Counter("harquel_replies", "Replies, given by a model or taken again", ["duty", "origin"])
UNDER_WAY = Gauge("harquel_under_way", "Inquiries working or waiting")


def models(found: Mapping[str, SharedModel]) -> None:
    """How the models stand now."""
    for name, model in found.items():
        MODEL_CALLS.labels(name).set(model.counts.calls)
        MODEL_FAILURES.labels(name).set(model.counts.failures)
        MODEL_RESTING.labels(name).set(model.breaker.look().state != "closed")


def ended(inquiry: Inquiry) -> None:
    """Counts an inquiry that ended."""
    INQUIRIES.labels(inquiry.source, inquiry.outcome or "", inquiry.trust or "").inc()
    if inquiry.attempts:
        ATTEMPTS.labels(inquiry.source).observe(len(inquiry.attempts))
    for phase in ("queued", "model", "database", "own", "total"):
        SECONDS.labels(phase).observe(getattr(inquiry.timings, f"{phase}_ms") / 1000)
    TOKENS.labels(inquiry.source, "prompt").inc(inquiry.usage.prompt_tokens)
    TOKENS.labels(inquiry.source, "completion").inc(inquiry.usage.completion_tokens)
