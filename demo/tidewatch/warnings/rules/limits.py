"""From which level on it matters."""
from dataclasses import dataclass
from enum import Enum


class Severity(Enum):
    """How bad it is."""

    CALM = 0
    HIGH = 1
    SURGE = 2


@dataclass
class Limit:
    """A level in metres, and what it means from there on."""

    above: float
    severity: Severity
