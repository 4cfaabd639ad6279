"""Knows who is on duty."""


class Rota:
    """The keepers, in the order of their watches."""

    def __init__(self, keepers: list[str]):
        self.keepers = keepers

    def on_duty(self) -> str:
        return self.keepers[0]
