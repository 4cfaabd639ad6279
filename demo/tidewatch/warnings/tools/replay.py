"""Plays a storm again."""
import sys

from ..gateway import Ingest


def replay(ingest: Ingest, path: str) -> None:
    with open(path, "rb") as frames:
        for line in frames:
            ingest.hear(line)


if __name__ == "__main__":
    sys.exit("name a file of frames")
