"""Keeps what was measured."""
from .level import Level
from .store import Store

__all__ = ["Level", "Store"]
