"""Takes the frames of the gauges."""
from .ingest import Ingest

__all__ = ["Ingest"]
