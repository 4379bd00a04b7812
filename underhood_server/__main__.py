"""The server's command line, installed as `under-hood-server`: `migrate`, `loaddemo`, `createworkshop`, `serve` …"""

import os
import sys


def main() -> None:
    """Django's command line with the server's settings."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "underhood_server.config.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(["under-hood-server", *sys.argv[1:]])


if __name__ == "__main__":
    main()
