"""Says what a level means."""
from .judge import Judge
from .limits import Limit

__all__ = ["Judge", "Limit"]
