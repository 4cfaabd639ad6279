"""A short cut that somebody took in a storm."""
from ..callouts.pager import Pager


def sound(keeper: str) -> None:
    """Calls a keeper without asking the rules."""
    Pager().call(keeper, "surge")
