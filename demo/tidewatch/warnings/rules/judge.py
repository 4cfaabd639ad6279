"""Judges levels."""
from ..callouts import CallOut, Desk
from ..readings import Level
from ..rota import Rota
from .limits import Limit, Severity


class Judge:
    """Compares levels with limits, and calls somebody out."""

    def __init__(self, limits: list[Limit], desk: Desk, rota: Rota):
        self.limits = limits
        self.desk = desk
        self.rota = rota

    def look_at(self, level: Level) -> Severity:
        worst = Severity.CALM
        for limit in self.limits:
            if level.metres > limit.above:
                worst = limit.severity
        if worst is Severity.SURGE:
            self.desk.send(CallOut(level, self.rota.on_duty()))
        return worst
