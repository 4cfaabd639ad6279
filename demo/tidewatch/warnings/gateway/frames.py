"""Frames as gauges send them."""
from dataclasses import dataclass


@dataclass
class Frame:
    """What one gauge says at one moment."""

    gauge: str
    level: float
    seconds: int


def decode(data: bytes) -> Frame:
    """Reads a frame: the gauge, the level in metres, and the time."""
    gauge, level, seconds = data.decode().split(";")
    return Frame(gauge, float(level), int(seconds))
