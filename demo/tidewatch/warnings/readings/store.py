"""All readings."""
from ..rules.limits import Limit
from .level import Level


class Store:
    """Appends levels, and finds the high ones."""

    def __init__(self) -> None:
        self.levels: list[Level] = []

    def append(self, level: Level) -> None:
        self.levels.append(level)

    def above(self, limit: Limit) -> list[Level]:
        return [level for level in self.levels if level.metres > limit.above]
