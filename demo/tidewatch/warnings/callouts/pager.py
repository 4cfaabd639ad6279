"""Ways to reach somebody."""
from typing import Protocol


class Channel(Protocol):
    """A way to reach a keeper."""

    def call(self, keeper: str, text: str) -> bool: ...


class Pager(Channel):
    """The pager that every keeper carries."""

    def call(self, keeper: str, text: str) -> bool:
        return bool(keeper and text)
