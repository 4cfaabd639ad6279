"""Frames come in here."""
from ..readings import Level, Store
from ..rules import Judge
from .frames import Frame, decode


class Ingest:
    """Keeps each level, and has it judged."""

    def __init__(self, store: Store, judge: Judge):
        self.store = store
        self.judge = judge
        self.last: Frame | None = None

    def hear(self, data: bytes) -> None:
        frame = decode(data)
        self.last = frame
        level = Level(frame.gauge, frame.level, frame.seconds)
        self.store.append(level)
        self.judge.look_at(level)
