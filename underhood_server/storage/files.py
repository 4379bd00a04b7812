"""Files that their owner alone can read."""

import os
from pathlib import Path


def private(path: Path) -> None:
    """Make a file that its owner alone can read, in a directory of the same kind; SQLite's log beside it follows it."""
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    path.touch(mode=0o600)
    seen = path.stat()
    if seen.st_mode & 0o077 and seen.st_uid == os.getuid():
        path.chmod(0o600)
