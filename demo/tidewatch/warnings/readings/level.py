"""One reading."""
from dataclasses import dataclass


@dataclass
class Level:
    """A level in metres above chart datum."""

    gauge: str
    metres: float
    seconds: int
