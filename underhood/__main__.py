"""`python -m underhood`."""

from underhood.cli import main

raise SystemExit(main())
