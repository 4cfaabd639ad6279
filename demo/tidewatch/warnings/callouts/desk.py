"""The desk that sends call-outs."""
from dataclasses import dataclass

from ..readings import Level
from .pager import Channel, Pager


@dataclass
class CallOut:
    """Who is called out for what."""

    level: Level
    keeper: str


class Desk:
    """Tries one channel after the other."""

    def __init__(self, channels: list[Channel] | None = None):
        self.channels = channels or [Pager()]

    def send(self, callout: CallOut) -> bool:
        text = f"{callout.level.gauge}: {callout.level.metres} m"
        return any(channel.call(callout.keeper, text) for channel in self.channels)
