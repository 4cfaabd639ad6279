"""Calls people out."""
from .desk import CallOut, Desk

__all__ = ["CallOut", "Desk"]
