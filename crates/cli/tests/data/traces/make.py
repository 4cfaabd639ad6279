"""Makes the traces beside this file, with the OpenTelemetry SDK for Python.

    pip install opentelemetry-sdk opentelemetry-exporter-otlp-proto-common zstandard
    python make.py

surge.jsonl   one trace a line: a tide buoy reports, a warning may follow; some are slow, some fail
surge.json    the first of them as one document, indented
surge.jsonl.gz, surge.jsonl.zst   the same, packed
../../../../../demo/tidewatch/surge_traces.jsonl   the demo's: storm surges as `surge_warning.bathy` draws them, with what it does not
Identifiers and times come from a seed, so that the files stay as they are.
"""

import base64
import gzip
import json
import random

import zstandard
from google.protobuf.json_format import MessageToDict
from opentelemetry.exporter.otlp.proto.common.trace_encoder import encode_spans
from opentelemetry.sdk.resources import Resource
from opentelemetry.sdk.trace import TracerProvider
from opentelemetry.sdk.trace.export import SimpleSpanProcessor
from opentelemetry.sdk.trace.export.in_memory_span_exporter import InMemorySpanExporter
from opentelemetry.sdk.trace.id_generator import IdGenerator
from opentelemetry.trace import Link, SpanKind, Status, StatusCode, set_span_in_context

DICE = random.Random(7)
MS = 1_000_000
START = 1_790_000_000_000 * MS


class Ids(IdGenerator):
    def generate_span_id(self):
        return DICE.getrandbits(64) | 1

    def generate_trace_id(self):
        return DICE.getrandbits(128) | 1


class World:
    """Services that write into one memory, each with a provider of its own."""

    def __init__(self):
        self.memory = InMemorySpanExporter()
        self.tracers = {}

    def tracer(self, service):
        if service not in self.tracers:
            resource = Resource({"service.name": service})
            provider = TracerProvider(resource=resource, id_generator=Ids(), shutdown_on_exit=False)
            provider.add_span_processor(SimpleSpanProcessor(self.memory))
            self.tracers[service] = provider.get_tracer("tidewatch")
        return self.tracers[service]

    def span(self, service, name, kind, start, length, parent=None, error=None, links=(), **attributes):
        context = set_span_in_context(parent) if parent else None
        attributes = {key.replace("__", "."): value for key, value in attributes.items()}
        span = self.tracer(service).start_span(
            name, context=context, kind=kind, start_time=START + int(start * MS), attributes=attributes, links=links
        )
        if error:
            span.set_status(Status(StatusCode.ERROR, error))
        span.end(end_time=START + int((start + length) * MS))
        return span

    def call(self, caller, service, name, start, length, parent, ahead=0, **more):
        """A client span, and the server span in it; `ahead` is how far the other clock is off."""
        client = self.span(caller, name, SpanKind.CLIENT, start, length, parent, server__address=service)
        inner = self.span(service, name, SpanKind.SERVER, start + 1 + ahead, length - 2, client, **more)
        return inner

    def database(self, caller, operation, start, length, parent):
        return self.span(
            caller, f"{operation} readings", SpanKind.CLIENT, start, length, parent,
            db__system__name="postgresql", db__namespace="readings", db__operation__name=operation,
        )


def surge(world, at, level, slow=1.0, error=None):
    """A buoy reports a level; over 4 m the keeper is warned."""
    gateway = world.span(
        "gateway", "POST /levels", SpanKind.SERVER, at, 90 * slow, http__response__status_code=202
    )
    world.span("gateway", "decode frame", SpanKind.INTERNAL, at + 1, 2, gateway)
    for i in range(3):
        world.database("gateway", "INSERT", at + 4 + i * 5, 4, gateway)
    # At the same time.
    world.call("gateway", "forecast", "GET /window", at + 22, 30 * slow, gateway, http__response__status_code=200)
    archive = world.call("gateway", "archive", "PUT /frames", at + 24, 25 * slow, gateway, ahead=40, http__response__status_code=201)
    world.database("archive", "INSERT", at + 68, 5, archive)
    if level <= 4:
        return
    sent = world.span(
        "gateway", "publish warnings", SpanKind.PRODUCER, at + 60 * slow, 3, gateway,
        messaging__system="tidemq", messaging__destination__name="warnings",
    )
    desk = world.span(
        "desk", "process warnings", SpanKind.CONSUMER, at + 70 * slow, 40, sent,
        messaging__system="tidemq", messaging__destination__name="warnings",
    )
    world.database("desk", "SELECT", at + 72 * slow, 3, desk)
    world.call(
        "desk", "pager", "POST /call-outs", at + 78 * slow, 20, desk,
        error=error, http__response__status_code=503 if error else 200,
    )


def storm(world, at, severity, slow=1.0, retried=False, late=False, rota=False):
    """What `surge_warning.bathy` draws. `retried`: the rules are asked twice; `late`: a level is stored after it was judged;
    `rota`: the desk asks a service that nobody drew."""
    gateway = world.span("gateway", "level report", SpanKind.SERVER, at, 120 * slow)
    world.span("gateway", "check the frame", SpanKind.INTERNAL, at + 1, 2, gateway)
    world.span(
        "gateway", "append", SpanKind.CLIENT, at + (70 * slow if late else 4), 5, gateway,
        db__system__name="postgresql", db__namespace="readings", db__operation__name="INSERT",
    )
    for i in range(2 if retried else 1):
        rules = world.call(
            "gateway", "rules", "judge level", at + 12 + i * 20 * slow, 18 * slow, gateway,
            error="took too long" if retried and i == 0 else None,
        )
        world.span(
            "rules", "levels of the last hour", SpanKind.CLIENT, at + 15 + i * 20 * slow, 6, rules,
            db__system__name="postgresql", db__namespace="readings", db__operation__name="SELECT",
        )
    if severity <= 2:
        return
    desk = world.call("gateway", "desk", "raise warning", at + 80 * slow, 35 * slow, gateway)
    world.span("desk", "look up the rota", SpanKind.INTERNAL, at + 82 * slow, 3, desk)
    if rota:
        world.call("desk", "rota", "who is on duty", at + 86 * slow, 12, desk)


def document(spans):
    """As OTLP JSON: identifiers are hexadecimal there, not base64 as in other Protobuf JSON."""
    out = MessageToDict(encode_spans(spans), use_integers_for_enums=True)
    for resource in out["resourceSpans"]:
        for scope in resource["scopeSpans"]:
            for span in scope["spans"]:
                for field in ("traceId", "spanId", "parentSpanId"):
                    if field in span:
                        span[field] = base64.b64decode(span[field]).hex()
                for link in span.get("links", []):
                    for field in ("traceId", "spanId"):
                        link[field] = base64.b64decode(link[field]).hex()
        resource["resource"]["attributes"] = [
            a for a in resource["resource"]["attributes"] if a["key"] == "service.name"
        ]
    return out


def main():
    documents = []
    for i in range(9):
        world = World()
        level = 4.2 if i % 3 else 3.1
        surge(world, i * 60_000, level, slow=1 + i % 4 / 2, error="no answer" if i == 5 else None)
        documents.append(document(world.memory.get_finished_spans()))
    storms = []
    for i in range(12):
        world = World()
        storm(
            world, i * 90_000, severity=3 if i % 3 else 0, slow=1 + i % 5 / 4,
            retried=i in (4, 7), late=i in (2, 8), rota=i in (5, 7, 10),
        )
        storms.append(document(world.memory.get_finished_spans()))
    with open("../../../../../demo/tidewatch/surge_traces.jsonl", "w") as out:
        out.write("".join(json.dumps(one, separators=(",", ":")) + "\n" for one in storms))
    lines = "".join(json.dumps(one, separators=(",", ":")) + "\n" for one in documents)
    with open("surge.jsonl", "w") as out:
        out.write(lines)
    with open("surge.json", "w") as out:
        json.dump(documents[1], out, indent=2)
    with open("surge.jsonl.gz", "wb") as out:
        out.write(gzip.compress(lines.encode(), mtime=0))
    with open("surge.jsonl.zst", "wb") as out:
        out.write(zstandard.compress(lines.encode()))


main()
